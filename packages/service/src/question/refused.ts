import type { Problem } from '@ephoros/core/problem';

/** A request that cannot be answered as it stands, with all that is wrong with it. */
export class Refused extends Error {
  readonly problems: readonly Problem[];

  constructor(problems: readonly Problem[]) {
    super(problems.map(({ message }) => message).join(' '));
    this.name = 'Refused';
    this.problems = problems;
  }
}
