/** Rows as files: what the database writes out, in the format that was requested, piece by piece. */
export type { ExportWriter, FileForm } from './file.ts';
export { localFileProgressStore, type FileProgressStore } from './file-progress-store.ts';
export { sinkOf, type Sink } from './sink.ts';
export { exportFormats } from './writers.ts';
