import type { CheckedGrouping, CheckedQuery } from '@ephoros/core/check';
import {
  canCountValues,
  canWalkParents,
  compileFirstStretch,
  compileGroups,
  compilePlan,
  compileRows,
  readPlan,
  type Statement,
} from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import type { Database } from '../run/index.ts';
import type { RequestContext } from './request-context.ts';

type Asked = Pick<RequestContext, 'catalog' | 'signal'>;

/** Ms that a choice is good for: tables grow, and conditions differ by their values. */
const goodFor = 30_000;

/** Chooses among ways to the same answer, as the planner finds one cheaper. */
export class PlanChoice {
  private readonly database: Database;
  private readonly known: LRUCache<string, { readonly is: boolean }>;

  constructor(database: Database, now: () => number = Date.now) {
    this.database = database;
    this.known = new LRUCache({ max: 500, ttl: goodFor, perf: { now }, ttlResolution: 0 });
  }

  /** A query as its rows are to be walked: parent by parent, or as one sort. @throws Failure */
  async rows(query: CheckedQuery, context: Asked): Promise<CheckedQuery> {
    if (!canWalkParents(query)) return query;
    const { locate } = context.catalog;
    const byParents: CheckedQuery = { ...query, byParents: true };
    const walk = compileFirstStretch(byParents, locate);
    const cheaper = await this.isCheaper(
      walk,
      compileRows(query, locate),
      query.table.name,
      context,
    );
    return cheaper ? byParents : query;
  }

  /** A grouping as its medians are to be found: by counts of values, or by sorting rows. @throws Failure */
  async groups(grouping: CheckedGrouping, context: Asked): Promise<CheckedGrouping> {
    if (!canCountValues(grouping)) return grouping;
    const { locate } = context.catalog;
    const byValues: CheckedGrouping = { ...grouping, byValues: true };
    const [counted, sorted] = [byValues, grouping].map((one) => compileGroups(one, locate));
    if (counted === undefined || sorted === undefined) return grouping;
    // What is sorted within each group the planner does not count.
    const cheaper = await this.isCheaper(counted, sorted, grouping.table.name, context, 1.5);
    return cheaper ? byValues : grouping;
  }

  /** Forgets all choices, since the tables are others. */
  forget(): void {
    this.known.clear();
  }

  private async isCheaper(
    one: Statement,
    other: Statement,
    table: string,
    { signal }: Asked,
    handicap = 1,
  ): Promise<boolean> {
    const known = this.known.get(other.text);
    if (known !== undefined) return known.is;
    const [first = 0, second = 0] = await Promise.all(
      [one, other].map(async (statement) => {
        const { rows } = await this.database.run(compilePlan(statement), { signal, table });
        return readPlan(rows[0]?.[0])?.['Total Cost'];
      }),
    );
    const is = first < second * handicap;
    this.known.set(other.text, { is });
    return is;
  }
}
