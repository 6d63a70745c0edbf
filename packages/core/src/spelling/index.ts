/** Spellings of one's own: a page that asks in other words, read into the same query. */
export type { Spelling } from './spelling.ts';
export { spellingErrors } from './errors.ts';
export { readSpelled, spelledProblems } from './read.ts';
export { spellAnswer } from './answer.ts';
