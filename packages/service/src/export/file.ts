import type { CheckedColumn } from '@ephoros/core/check';
import type { FileFormat, fileWords } from '@ephoros/core/file';
import type { CopyForm } from '@ephoros/core/sql';

type Word<Name extends keyof typeof fileWords> = (typeof fileWords)[Name][number];

/** How a file is written. */
export interface FileForm {
  readonly format: FileFormat;
  /** What the first line calls the columns; `none` leaves it out. */
  readonly header: Word<'header'>;
  readonly delimiter: Word<'delimiter'>;
  readonly missing: Word<'missing'>;
  readonly lineEnd: Word<'line-end'>;
  /** Whether CSV begins with the mark that tells some spreadsheets that it is UTF-8. */
  readonly bom: boolean;
  /** Whether texts stay as they are that a spreadsheet would compute. */
  readonly formulas: boolean;
  /** Whether what coded values are called stands in place of them. */
  readonly labelled: boolean;
  /** Whether groups of the levels above come as lines too, whose depth stands behind their columns. */
  readonly folded: boolean;
  /** Levels above a line at most, of those that are folded. */
  readonly depth?: number;
}

/** Writes a file from what the database has written. */
export interface ExportWriter {
  readonly form: CopyForm;
  /** The form where the database cannot write that one. */
  readonly otherwise?: CopyForm;
  /** Rows written so far. */
  readonly rows: number;
  readonly begin: () => Promise<void>;
  readonly take: (piece: Buffer, form: CopyForm['as']) => Promise<void>;
  readonly end: () => Promise<void>;
}

/** What the columns are called in a file. */
export function headerOf(
  columns: readonly CheckedColumn[],
  { header }: Pick<FileForm, 'header'>,
): readonly string[] | undefined {
  if (header === 'none') return undefined;
  return columns.map(({ name, label }) => (header === 'labels' ? label : name));
}
