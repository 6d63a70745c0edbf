/** Writing: change set → check → transaction → outcome, and what is remembered of it. */
export { saveSet, settled, withdrawSet, type GivenSet, type SaveOptions } from './saving.ts';
export type { SavedAnswer } from './answer-builder.ts';
export { Writer, type ChangesSource } from './writer.ts';
export { neededBy, neededToUndo } from './needed.ts';
export { readGivenSet } from './given-set.ts';
export { keyParts, undoing, unknownSet } from './undoing.ts';
