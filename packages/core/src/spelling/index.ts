/** Spellings of one's own: a page that asks in other words, read into the same query. */
export type { Spelling } from './spelling.ts';
export { mistakesOfSpelling } from './mistakes.ts';
export { readSpelled, spelledProblems } from './read.ts';
export { spellAnswer } from './answer.ts';
