import type { PlannedFile } from './use-file-size.ts';
import type { ExportedFile } from './exported-file.ts';

/** A file that is wanted. */
export interface WantedFile extends PlannedFile {
  /** Rows that it will have, as far as that is known here. */
  readonly rows: number | undefined;
}

/** What has become of the last file that was wanted. */
export type ExportRun =
  | { readonly kind: 'running'; readonly taken: ExportedFile; readonly of: number | undefined }
  | { readonly kind: 'saved'; readonly name: string; readonly taken: ExportedFile }
  | { readonly kind: 'failed'; readonly error: Error };

/** How much of a file is there, where its rows can be counted as they come. */
export function shareOf({
  taken,
  of,
}: Extract<ExportRun, { kind: 'running' }>): number | undefined {
  return taken.rows === undefined || of === undefined || of === 0
    ? undefined
    : Math.min(1, taken.rows / of);
}
