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

type Requested = Pick<RequestContext, 'catalog' | 'signal'>;

/** Ms that a choice is good for: tables grow, and conditions differ by their values. */
const goodFor = 30_000;

/** Chooses among ways to the same answer, as the planner finds one cheaper. */
export class PlanChoice {
  private readonly database: Database;
  private readonly known: LRUCache<string, { readonly index: number | undefined }>;

  constructor(database: Database, now: () => number = Date.now) {
    this.database = database;
    this.known = new LRUCache({ max: 500, ttl: goodFor, perf: { now }, ttlResolution: 0 });
  }

  /** A query as its rows are to be walked: parent by parent, or as one sort. @throws Failure */
  async rows(query: CheckedQuery, context: Requested): Promise<CheckedQuery> {
    if (!canWalkParents(query)) return query;
    const { locate } = context.catalog;
    const sort = compileRows(query, locate);
    const walks = (['value', 'key'] as const).map((by) => ({ ...query, byParents: by }));
    const others = (): Statement[] => walks.map((walk) => compileFirstStretch(walk, locate));
    const cheapest = await this.cheapest(sort, others, query.table.name, context);
    return cheapest === undefined ? query : (walks[cheapest] ?? query);
  }

  /** Has the rows of a query found by one sort for a while: walking them took longer than the planner thought. */
  refuseWalk(query: CheckedQuery, { catalog }: Pick<Requested, 'catalog'>): void {
    this.known.set(compileRows(query, catalog.locate).text, { index: undefined });
  }

  /** A grouping as its medians are to be found: by counts of values, or by sorting rows. @throws Failure */
  async groups(grouping: CheckedGrouping, context: Requested): Promise<CheckedGrouping> {
    if (!canCountValues(grouping)) return grouping;
    const { locate } = context.catalog;
    const byValues: CheckedGrouping = { ...grouping, byValues: true };
    const [counted, sorted] = [byValues, grouping].map((one) => compileGroups(one, locate));
    if (counted === undefined || sorted === undefined) return grouping;
    // What is sorted within each group the planner does not count.
    const others = (): Statement[] => [counted];
    const cheapest = await this.cheapest(sorted, others, grouping.table.name, context, 1.5);
    return cheapest === undefined ? grouping : byValues;
  }

  /** Forgets all choices, since the tables are others. */
  forget(): void {
    this.known.clear();
  }

  /**
   * Which of the other statements the planner finds cheaper than the usual one, whose costs count `handicap` times;
   * undefined where none is. The others are written only where nobody has requested lately.
   */
  private async cheapest(
    usual: Statement,
    others: () => readonly Statement[],
    table: string,
    { signal }: Requested,
    handicap = 1,
  ): Promise<number | undefined> {
    const known = this.known.get(usual.text);
    if (known !== undefined) return known.index;
    const [own = 0, ...costs] = await Promise.all(
      [usual, ...others()].map(async (statement) => {
        const { rows } = await this.database.run(compilePlan(statement), { signal, table });
        return readPlan(rows[0]?.[0])?.['Total Cost'] ?? 0;
      }),
    );
    const least = Math.min(...costs);
    const index = least < own * handicap ? costs.indexOf(least) : undefined;
    this.known.set(usual.text, { index });
    return index;
  }
}
