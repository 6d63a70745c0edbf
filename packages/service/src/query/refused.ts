import type { Problem } from '@ephoros/core/problem';

/** Errors that one answer reports at most. */
export const mostProblems = 100;

/** A request that cannot be answered as it stands, with what is wrong with it. */
export class Refused extends Error {
  readonly problems: readonly Problem[];

  constructor(problems: readonly Problem[]) {
    const shownProblems = problems.slice(0, mostProblems);
    const more = problems.length - shownProblems.length;
    const rest = more === 0 ? [] : [`There are ${more} more mistakes.`];
    super([...shownProblems.map(({ message }) => message), ...rest].join(' '));
    this.name = 'Refused';
    this.problems = shownProblems;
  }
}
