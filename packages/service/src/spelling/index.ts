/** Pages that ask in words of their own are answered in these. */
export { createSpelled, spellingsAt } from './routes.ts';
