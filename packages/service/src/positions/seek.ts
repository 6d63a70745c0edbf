import type { Anchor, CheckedQuery } from '@ephoros/core/check';
import {
  compilePlan,
  compileRows,
  keyColumns,
  readPlan,
  type PlanNode,
  type Relations,
  type Statement,
} from '@ephoros/core/sql';
import { approach, nearRows, type Approach } from '@ephoros/core/window';
import {
  NotReady,
  type Answer,
  type QueryOptions,
  type Database,
  type WaitBudget,
} from '../run/index.ts';
import { groupPlace } from './groups.ts';
import {
  countingOf,
  indexedOrderOf,
  isLedByIndex,
  isRangeOfOrder,
  orderKey,
  type Seen,
} from './orders.ts';
import type { PlacedOrders } from './placed-orders.ts';
import type { KnownPlaces, PlacedKeys, PositionIndex, WindowPlace } from './position-index.ts';

/** Of the time that a request waits, the share that it waits for what is looked through to grow. */
const growing = 1 / 3;
/** Costs of the planner from which on rows are not walked over: their mileposts or places are waited for. */
const costlyWalk = 20_000;
/** Places that took less long, in ms, are not used near the beginning once they are outdated. */
const quicklyFound = 1_000;

/** How a window was come to. */
export interface Way extends Omit<Approach, 'from'> {
  /** The same, or the remembered keys of its rows. */
  readonly from: Approach['from'] | 'places';
  /** Whether the row before the window was looked for first, by its sort values alone. */
  readonly edge: boolean;
}

/** The query to walk instead of the one that was queried, and why. */
export interface SeekPlan {
  /** Undefined where the window lies past the end. */
  readonly query: CheckedQuery | undefined;
  readonly way: Way;
  /** The window by its keys, where they are known; they are to be read instead. */
  readonly placed?: PlacedKeys;
}

/** What of a database the way to a window is found by. */
interface Known {
  readonly database: Database;
  readonly positions: PositionIndex;
  readonly placedOrders: PlacedOrders;
  /** The same database for what may take longer than a request waits. */
  readonly deferring: {
    readonly run: (
      statement: Statement,
      options: QueryOptions & { readonly budget: WaitBudget },
    ) => Promise<Answer>;
  };
}

/** How long a request waits for what takes long: until somebody gives it up, or its wait limit is used up. */
interface Waiting {
  readonly signal: AbortSignal;
  readonly budget: WaitBudget;
}

/**
 * The cheapest way to a window: by offset near the beginning, by keys where places are known, else from the
 * nearest milepost or the nearer end. The first deep look at a result has its rows found in the background.
 * @throws Failure; NotReady while that goes on, and walking there would take long
 */
export async function seek(
  query: CheckedQuery,
  known: Known,
  request: Seen,
  waiting: Waiting,
): Promise<SeekPlan> {
  const { offset, limit, anchor, table } = query;
  const wanted: SeekPlan = {
    query,
    way: { from: 'start', skip: offset, limit, edge: false },
  };
  const window = windowPlace(query);
  const isNear = anchor !== undefined || offset <= nearRows;
  const { positions, placedOrders } = known;
  const isPlaced = anchor !== undefined && placedOrders.has(query);
  const isPlain = isLedByIndex(query) && !isSearched(query) && !isPlaced;
  if (window === undefined || table.key.length === 0 || (isNear && isPlain)) return wanted;
  const { signal, budget } = waiting;
  const isCancelled = budget.afterWait === 'cancel';
  const counting = countingOf(query, request.locate);
  const key = orderKey(query, counting.key);
  const group = groupPlace(query, request.locate);
  const check = (wait: number): Promise<KnownPlaces> =>
    positions.places({ key, countKey: counting.key, window, group, isCancelled }, wait, signal);
  let found = await check(0);
  // While it grows, an answer waits for more of it.
  if (found.by === 'slices' && found.progress !== undefined)
    found = await check(budget.left * growing);
  const placed = placedWindow(found, isNear);
  if (placed !== undefined) return { ...wanted, way: { ...wanted.way, from: 'places' }, placed };
  if (isNear) {
    // Behind what was looked through so far: nothing else is queried next to that.
    if (found.by === 'slices' && found.progress !== undefined) {
      throw new NotReady('position', found.progress);
    }
    return wanted;
  }
  const way = found.indexed
    ? found.by
    : await positions.begin(await indexedOrderOf(query, known, request));
  if (way === 'sort') placedOrders.note(query);
  // Where places are being found, nothing else is queried next to that.
  const byPlaces = way === 'sort' || way === 'slices';
  const plan = byPlaces ? 'costly' : await walk(query, known, request, found, waiting);
  if (plan !== 'costly') return plan;
  const later = await check(budget.left);
  const there = placedWindow(later, false);
  if (there !== undefined)
    return { ...wanted, way: { ...wanted.way, from: 'places' }, placed: there };
  if (later.progress !== undefined) throw new NotReady('position', later.progress);
  const again = await walk(query, known, request, later, waiting);
  return again === 'costly' ? wanted : again;
}

/** Has the places of a query's order found, where that takes a sort; its window by them, as far as they are there. */
export async function beginPlaces(
  query: CheckedQuery,
  { positions, placedOrders }: Pick<Known, 'positions' | 'placedOrders'>,
  request: Seen,
  signal: AbortSignal,
): Promise<PlacedKeys | undefined> {
  const order = await indexedOrderOf(query, { positions }, request);
  if ((await positions.begin(order)) !== 'sort') return undefined;
  placedOrders.note(query);
  const window = windowPlace(query);
  if (window === undefined) return undefined;
  const { counting, key } = order;
  return placedWindow(
    await positions.places({ key, countKey: counting.key, window }, 0, signal),
    true,
  );
}

/**
 * Has the places found of a query whose first rows take long to be found, where that can be done chunk by chunk;
 * what has been found within the wait limit; its own statement can be given up then (`giveUp`). Undefined where it is
 * done otherwise.
 * @throws NotReady
 */
export async function scan(
  query: CheckedQuery,
  known: Pick<Known, 'positions'>,
  request: Seen,
  { signal, budget, giveUp }: Waiting & { readonly giveUp: () => void },
): Promise<PlacedKeys | undefined> {
  const window = windowPlace(query);
  if (window === undefined || !isSearched(query) || !isLedByIndex(query)) return undefined;
  if (isRangeOfOrder(query) && !request.ruled) return undefined;
  const { positions } = known;
  const order = await indexedOrderOf(query, known, request);
  const way = await positions.begin({ ...order, slow: true });
  if (way !== 'slices') return undefined;
  giveUp();
  const { counting, key } = order;
  const wanted = { key, countKey: counting.key, window };
  const found = await positions.places(wanted, budget.left, signal);
  const placed = placedWindow(found, false);
  if (placed === undefined && found.progress !== undefined) {
    throw new NotReady('position', found.progress);
  }
  return placed;
}

/** The window that a query asks for, as places know it; undefined for one at the end. */
function windowPlace(query: CheckedQuery): WindowPlace | undefined {
  const { anchor, offset, limit, table } = query;
  if (anchor === undefined) return { offset, limit };
  if (anchor.kind === 'end' || offset > 0 || table.key.length === 0) return undefined;
  const { values } = anchor;
  const key = keyColumns(query).map(({ name }) => {
    const at = query.sort.findIndex(({ column }) => column.name === name);
    return values[at] ?? null;
  });
  return { side: anchor.kind, key, values, limit };
}

function isSearched({ filter, search }: CheckedQuery): boolean {
  return filter !== undefined || search !== undefined;
}

/** The keys of a window, as far as they may be used. */
function placedWindow({ window }: KnownPlaces, isNear: boolean): PlacedKeys | undefined {
  if (window === undefined) return undefined;
  // What is read in no time otherwise is read as it is now.
  const old = isNear && window.outdated && window.took < quicklyFound;
  return old ? undefined : window;
}

/** From a milepost, or an end. `costly` where that takes long. @throws Failure */
async function walk(
  query: CheckedQuery,
  { database, deferring }: Known,
  { locate: relations }: Seen,
  { sample, total, by }: KnownPlaces,
  { signal, budget }: Waiting,
): Promise<SeekPlan | 'costly'> {
  const { offset, limit, table } = query;
  const way = approach(offset, limit, { milepost: sample?.number, total });
  const place: Anchor | undefined =
    way.from === 'end'
      ? { kind: 'end' }
      : way.from === 'milepost' && sample !== undefined
        ? { kind: 'after', values: sample.values }
        : undefined;
  const sought: CheckedQuery = { ...query, anchor: place, offset: way.skip, limit: way.limit };
  const direct = { query: sought, way: { ...way, edge: false } };
  if (way.skip <= nearRows && (by === undefined || by === 'mileposts')) return direct;
  const bare: CheckedQuery = {
    ...{ ...sought, columns: [] },
    ...{ offset: Math.max(0, way.skip - 1), limit: 1 },
  };
  const { lean, whole } = await costsOf(bare, sought, database, relations, signal);
  if (Math.min(lean, whole) > costlyWalk) return 'costly';
  if (way.skip === 0 || lean >= whole * 0.8) return direct;
  const edge = compileRows(bare, relations);
  const found = await deferring.run(edge, { signal, table: table.name, budget });
  const [values] = found.rows;
  const kind = way.from === 'end' ? 'before' : 'after';
  return {
    query: values && { ...sought, anchor: { kind, values }, offset: 0 },
    way: { ...way, edge: true },
  };
}

/**
 * What it costs to walk to a window at once, and to walk the sort values alone first (`lean`): that pays where an
 * index gives both the order and the values, so that the rows passed over are not read at all.
 */
async function costsOf(
  bare: CheckedQuery,
  sought: CheckedQuery,
  database: Database,
  relations: Relations,
  signal: AbortSignal,
): Promise<{ readonly lean: number; readonly whole: number }> {
  const [lean, whole] = await Promise.all(
    [bare, sought].map(async (query) => {
      const planning = compilePlan(compileRows(query, relations));
      const { rows } = await database.run(planning, { signal, table: query.table.name });
      return readPlan(rows[0]?.[0]);
    }),
  );
  const direct = whole?.['Total Cost'] ?? 0;
  return {
    lean: lean === undefined || sorts(lean) ? Infinity : lean['Total Cost'],
    whole: direct,
  };
}

function sorts({ 'Node Type': type, Plans = [] }: PlanNode): boolean {
  return type.includes('Sort') || Plans.some(sorts);
}
