import { sql, type SQL } from './fragment.ts';
import type { CheckedMatch } from '../check/index.ts';
import { condition } from './condition.ts';
import { mayRaise } from './raising.ts';
import { searchTest } from './search-test.ts';
import type { Scope } from './scope.ts';

/** A WHERE clause of tests; empty for none. */
export function whereAll(tests: readonly SQL[]): SQL {
  return tests.length === 0 ? sql`` : sql` where ${sql.join(tests, sql` and `)}`;
}

/** What a query's rows must meet: the filter and the search. */
export function matchTests({ filter, search }: CheckedMatch, scope: Scope): SQL[] {
  if (filter && mayRaise(filter)) scope.fence();
  return [
    ...(filter ? [condition(filter, scope)] : []),
    ...(search ? [searchTest(search, scope)] : []),
  ];
}
