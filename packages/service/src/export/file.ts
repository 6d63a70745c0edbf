import type { CheckedColumn } from '@ephoros/core/check';
import type { FileParameters } from '@ephoros/core/file';
import type { CopyForm } from '@ephoros/core/sql';

/** How a file is written: all that parameters can say of it. */
export interface FileForm extends Required<Omit<FileParameters, 'ticket'>> {
  /** Levels above a line at most, of groups that are folded: how deep each lies stands behind its columns. */
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
