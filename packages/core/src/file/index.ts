/** Rows as files: the words that say how they are written, and where the records of a file end. */
export { fileWords, type FileFormat, type FileParameters } from './words.ts';
export { RecordEnds } from './record-ends.ts';
