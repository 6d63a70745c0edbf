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
  private readonly known: LRUCache<string, { readonly index: number }>;

  constructor(database: Database, now: () => number = Date.now) {
    this.database = database;
    this.known = new LRUCache({ max: 500, ttl: goodFor, perf: { now }, ttlResolution: 0 });
  }

  /** A query as its rows are to be walked: parent by parent, or as one sort. @throws Failure */
  async rows(query: CheckedQuery, context: Asked): Promise<CheckedQuery> {
    if (!canWalkParents(query)) return query;
    const { locate } = context.catalog;
    const walks = (['value', 'key'] as const).map((by) => ({ ...query, byParents: by }));
    const statements = walks.map((walk) => compileFirstStretch(walk, locate));
    const sort = compileRows(query, locate);
    const cheapest = await this.cheapest([...statements, sort], query.table.name, context);
    return walks[cheapest] ?? query;
  }

  /** A grouping as its medians are to be found: by counts of values, or by sorting rows. @throws Failure */
  async groups(grouping: CheckedGrouping, context: Asked): Promise<CheckedGrouping> {
    if (!canCountValues(grouping)) return grouping;
    const { locate } = context.catalog;
    const byValues: CheckedGrouping = { ...grouping, byValues: true };
    const [counted, sorted] = [byValues, grouping].map((one) => compileGroups(one, locate));
    if (counted === undefined || sorted === undefined) return grouping;
    // What is sorted within each group the planner does not count.
    const ways = [counted, sorted];
    const cheapest = await this.cheapest(ways, grouping.table.name, context, 1.5);
    return cheapest === 0 ? byValues : grouping;
  }

  /** Forgets all choices, since the tables are others. */
  forget(): void {
    this.known.clear();
  }

  /** Which of some statements the planner finds cheapest; it counts the last one `handicap` times. */
  private async cheapest(
    statements: readonly Statement[],
    table: string,
    { signal }: Asked,
    handicap = 1,
  ): Promise<number> {
    const name = statements.at(-1)?.text ?? '';
    const known = this.known.get(name);
    if (known !== undefined) return known.index;
    const costs = await Promise.all(
      statements.map(async (statement, index) => {
        const { rows } = await this.database.run(compilePlan(statement), { signal, table });
        const cost = readPlan(rows[0]?.[0])?.['Total Cost'] ?? 0;
        return index === statements.length - 1 ? cost * handicap : cost;
      }),
    );
    const index = costs.indexOf(Math.min(...costs));
    this.known.set(name, { index });
    return index;
  }
}
