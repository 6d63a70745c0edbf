import type { FileFormat } from '@ephoros/core/file';

/** What taking rows out as files says, in one language. */
export interface ExportMessages {
  readonly format: string;
  readonly formats: Readonly<Record<FileFormat, string>>;
  /** What each is for. */
  readonly uses: Readonly<Record<FileFormat, string>>;
  /** How it is written: what few change. */
  readonly how: string;
  readonly rows: string;
  readonly all: (count: string) => string;
  readonly selected: (count: string) => string;
  /** Those selected under another condition than the one in force. */
  readonly selectedElsewhere: (count: string) => string;
  readonly page: (count: string) => string;
  readonly groups: string;
  readonly columns: string;
  readonly shown: (count: string) => string;
  readonly everyColumn: (count: string) => string;
  readonly firstLine: string;
  readonly labels: string;
  readonly names: string;
  readonly noLine: string;
  readonly delimiter: string;
  readonly comma: string;
  readonly semicolon: string;
  readonly tab: string;
  /** Groups of the levels above as lines too. */
  readonly folded: string;
  /** Coded values by what they are called. */
  readonly valueLabels: string;
  /** A mark that some spreadsheets need. */
  readonly bom: string;
  readonly about: (size: string) => string;
  readonly measuring: string;
  readonly notGrouped: string;
  readonly save: string;
  readonly path: string;
  readonly under: (rows: string, of: string, size: string) => string;
  readonly underSize: (size: string) => string;
  readonly cancel: string;
  readonly saved: (name: string, size: string) => string;
  readonly again: string;
  readonly brokenOff: string;
  /** The view as a report. */
  readonly report: string;
  readonly reports: Readonly<Record<'html' | 'pdf', string>>;
  readonly terminal: string;
  readonly copy: string;
  readonly copied: string;
  readonly notCopied: string;
}
