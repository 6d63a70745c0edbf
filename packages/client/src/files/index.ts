/** Rows as files that the service writes, of any length. */
export { filesClient, type FilesClient, type FilesOptions, type RowsFile } from './files-client.ts';
export type { FileProgress } from '@ephoros/core/answer';
export type { FileFormat, FileParameters } from '@ephoros/core/file';
