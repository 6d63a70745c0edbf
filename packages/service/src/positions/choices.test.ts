import type { PlanNode, Statement } from '@ephoros/core/sql';
import { until } from '../../../core/src/testing/until.ts';
import type { Database } from '../run/index.ts';
import { LocalPositionIndex, type IndexedOrder } from './index.ts';

/** A database that has plans for statements, and shows which ones were run. */
class PlannedDatabase {
  readonly ran: string[] = [];
  /** By a word of the statement. */
  readonly plans = new Map<string, Partial<PlanNode>>();
  planned = 0;

  run = ({ text }: Statement): Promise<{ rows: (string | null)[][] }> => {
    if (!text.startsWith('explain')) {
      this.ran.push(text);
      // A count that takes its time.
      return text.includes('never')
        ? new Promise(() => undefined)
        : Promise.resolve({ rows: [['0', 'file', '0']] });
    }
    this.planned += 1;
    const found = [...this.plans].find(([word]) => text.includes(word))?.[1] ?? {};
    return Promise.resolve({ rows: [[JSON.stringify([{ Plan: found }])]] });
  };

  stream = ({ text }: Statement, onRow: (row: string[]) => void): Promise<void> => {
    this.ran.push(text);
    if (text.includes('never')) return new Promise(() => undefined);
    for (const number of ['100', '200', '250']) onRow([number, number]);
    return Promise.resolve();
  };

  close = (): Promise<void> => Promise.resolve();
}

let clock: number;
let planned: PlannedDatabase;
let positions: LocalPositionIndex;

beforeEach(() => {
  clock = 1_000_000;
  planned = new PlannedDatabase();
  const database = planned as unknown as Database;
  const connections = { background: database, passes: database, quick: database };
  positions = new LocalPositionIndex(connections, { now: () => clock });
});

afterEach(() => positions.close());

const statement = (text: string): Statement => ({ text, parameters: [] });

const counting: IndexedOrder['counting'] = {
  key: 't',
  written: statement('select written'),
  count: statement('select never'),
  estimate: statement('explain estimate'),
};

describe('mileposts', () => {
  const order: IndexedOrder = {
    counting,
    key: 'by id',
    step: 100,
    written: counting.written,
    mileposts: { pass: statement('the whole pass'), steps: [statement('single steps')] },
    first: statement('the first rows'),
  };

  /** A pass over so many rows at such a cost, and what one step from sample to sample costs. */
  const setBy = async (rows: number, whole: number, single: number): Promise<string[]> => {
    planned.plans.set('the whole pass', {
      'Node Type': 'Subquery Scan',
      'Total Cost': whole,
      Plans: [{ 'Node Type': 'WindowAgg', 'Plan Rows': rows, 'Total Cost': whole }],
    });
    planned.plans.set('single steps', {
      'Node Type': 'CTE Scan',
      'Total Cost': 9e9,
      Plans: [
        {
          ...{ 'Node Type': 'Recursive Union', 'Plan Rows': 1, 'Total Cost': 9e9 },
          Plans: [{ 'Node Type': 'Limit', 'Plan Rows': 1, 'Total Cost': single }],
        },
      ],
    });
    await positions.begin(order);
    await until(
      () => positions.overview('by id', 5),
      (overview) => overview?.state === 'ready',
    );
    return planned.ran.filter((text) => text !== counting.written.text);
  };

  it.each([
    // A thousand samples at 2 each, or all at 50,000.
    ['single steps', 100_000, 50_000, 2],
    ['the whole pass', 100_000, 50_000, 60],
    // Guesses of few rows may be wrong by much.
    ['the whole pass', 900, 50_000, 2],
  ])('are set by %s of %i rows where a pass costs %i and a step %i', async (way, ...costs) => {
    expect(await setBy(...costs)).toEqual([way]);
  });
});

describe('looking through all rows', () => {
  const orderBy = (key: string, words: string): IndexedOrder => ({
    counting: { ...counting, key, estimate: statement(`explain count ${words}`) },
    key,
    step: 100,
    written: counting.written,
    mileposts: { pass: statement('never') },
    first: statement(`first ${words}`),
  });
  const along = orderBy('along', 'of all');
  const searched = (key: string): IndexedOrder => ({
    ...orderBy(key, 'of some'),
    slow: true,
    places: {
      kinds: ['int32'],
      sort: statement('sort'),
      chunks: { along, templates: { first: [], between: [], last: [] } as never },
    },
  });

  it('is done for a few at the same time, of which the one that nobody looks on at gives way', async () => {
    for (const words of ['of all', 'of some']) {
      planned.plans.set(`first ${words}`, { 'Total Cost': 1 });
      planned.plans.set(`count ${words}`, { 'Total Cost': 1e6 });
    }
    const begin = (keys: string): Promise<unknown[]> =>
      Promise.all([...keys].map((key) => positions.begin(searched(key))));
    expect(await begin('abcd')).toEqual(['slices', 'slices', 'slices', 'slices']);
    // Others have what is done for them all, and nothing else is begun next to that.
    expect(await begin('ea')).toEqual([undefined, 'slices']);
    clock += 4_000;
    expect(await begin('bcd')).toEqual(['slices', 'slices', 'slices']);
    expect(await begin('e')).toEqual(['slices']);
    expect(await positions.overview('a', 5)).toBeUndefined();
    expect((await positions.overview('b', 5))?.state).toBe('building');
    expect(await begin('a')).toEqual([undefined]);
  });
});

describe('a guess of the number of rows', () => {
  it('is good for a while, and is made again then', async () => {
    const guess = async (): Promise<number | undefined> =>
      (await positions.total(counting, 'estimate', 0))?.rows;
    planned.plans.set('estimate', { 'Plan Rows': 100, 'Total Cost': 1 });
    expect(await guess()).toBe(100);
    planned.plans.set('estimate', { 'Plan Rows': 300, 'Total Cost': 1 });
    clock += 4_000;
    expect(await guess()).toBe(100);
    expect(planned.planned).toBe(1);
    clock += 2_000;
    expect(await guess()).toBe(300);
  });
});
