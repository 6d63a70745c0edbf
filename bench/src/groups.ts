import pg from 'pg';
import type { Endpoint } from './endpoints.ts';
import { answered, took } from './load.ts';
import { median, milliseconds, type Figure } from './report.ts';

interface Comparison {
  readonly what: string;
  /** The statement as one types it, over the rows that the condition leaves. */
  readonly sql: (where: string) => string;
  readonly group: string;
}

const comparisons: readonly Comparison[] = [
  {
    what: 'the lines of an outline of status and lock, with the lines below counted, against grouping by both',
    sql: (where) =>
      `select status, lock_id, count(*), sum(toll) from passages where ${where} group by 1, 2`,
    group: 'status,lock_id',
  },
  {
    what: 'the lines of an outline of canal and status, against grouping by both',
    sql: (where) =>
      `select c.name, status, count(*), sum(toll) from passages left join locks l on l.id = lock_id left join canals c on c.id = l.canal_id where ${where} group by 1, 2`,
    group: 'lock.canal.name,status',
  },
  {
    what: 'the lines of a closed outline of status, against grouping by it',
    sql: (where) => `select status, count(*), sum(toll) from passages where ${where} group by 1`,
    group: 'status',
  },
  {
    what: 'the lines of a closed outline of status and lock, against grouping by status alone',
    sql: (where) => `select status, count(*), sum(toll) from passages where ${where} group by 1`,
    group: 'status,lock_id',
  },
];

/** Groupings of the whole table against plain GROUP BY, and opening groups against first pages. */
export async function groups(database: string, ours: Endpoint, rounds: number): Promise<Figure[]> {
  const direct = new pg.Client({ connectionString: database });
  await direct.connect();
  const figures: Figure[] = [];
  try {
    for (const { what, sql, group } of comparisons) {
      const byUs: number[] = [];
      const byHand: number[] = [];
      for (let round = 0; round < rounds; round += 1) {
        // Another question each time: nothing of it is remembered.
        const lowest = figures.length * 100 + round;
        const filter = encodeURIComponent(`id > ${lowest}`);
        const query = `group=${encodeURIComponent(group)}&aggregate=sum(toll)&filter=${filter}`;
        byUs.push(await took(`${ours.url}/api/tables/passages/groups?${query}`));
        const began = performance.now();
        await direct.query(sql(`passages.id > ${lowest}`));
        byHand.push(performance.now() - began);
      }
      const ratio = median(byUs) / median(byHand);
      figures.push({
        what,
        ours: milliseconds(median(byUs)),
        against: `plain SQL ${milliseconds(median(byHand))}`,
        ratio,
        target: 'at most 1.1',
        met: ratio <= 1.1,
      });
    }
  } finally {
    await direct.end();
  }
  for (const opening of openings) figures.push(...(await opened(ours, opening)));
  return figures;
}

interface Line {
  readonly value: unknown;
  readonly below: number | null;
  readonly filter: string;
}

interface Level {
  readonly filter: string | null;
  readonly groups: readonly Line[];
}

interface Opening {
  readonly group: string;
  readonly what: string;
  /** Whether an index leads to the rows of a group in their order. */
  readonly indexed: boolean;
}

const openings: readonly Opening[] = [
  { group: 'lock_id', what: 'of a lock (an index gives its rows in order)', indexed: true },
  { group: 'lock.canal.name,status', what: 'of a canal and a status (no index)', indexed: false },
];

/** From a line to its first rows, for every group, against the first page of the table. */
async function opened(ours: Endpoint, { group, what, indexed }: Opening): Promise<Figure[]> {
  const table = `${ours.url}/api/tables/passages`;
  const text = `${table}/groups?group=${group}&limit=100`;
  const outer = await levelAt(text);
  const deepest: string[] = [];
  for (const { value, below, filter } of outer.groups) {
    if (below === null) {
      deepest.push(filter);
      continue;
    }
    const path = encodeURIComponent(JSON.stringify([value]));
    const inner = await levelAt(`${text}&path=${path}`);
    deepest.push(...inner.groups.map((line) => `(${inner.filter}) AND ${line.filter}`));
  }
  const pages: number[] = [];
  const openAll = async (): Promise<number[]> => {
    const times: number[] = [];
    for (const filter of deepest) {
      const condition = encodeURIComponent(filter);
      times.push(await took(`${table}/rows?filter=${condition}&limit=100&total=none`));
      pages.push(await took(`${table}/rows?limit=100&total=none`));
    }
    return times;
  };
  const times = await openAll();
  const remembered = await took(text);
  const found = indexed ? [] : await openedOnceFound(table, deepest, openAll);
  const first = median(pages);
  const ratio = median(times) / first;
  const ratioFound = median(found) / first;
  return [
    {
      what: `opening a group ${what} to its first 100 rows, half of ${deepest.length}`,
      ours: milliseconds(median(times)),
      against: `first page ${milliseconds(first)}`,
      ratio,
      ...(indexed ? { target: 'at most 3', met: ratio <= 3 } : {}),
    },
    {
      what: 'the same, the slowest of these groups',
      ours: milliseconds(Math.max(...times)),
      against: `first page ${milliseconds(first)}`,
      ratio: Math.max(...times) / first,
    },
    ...(indexed
      ? []
      : [
          {
            what: `the same once the places of all these groups are found, half of ${deepest.length}`,
            ours: found.length === 0 ? 'not found' : milliseconds(median(found)),
            against: `first page ${milliseconds(first)}`,
            ...(found.length === 0 ? {} : { ratio: ratioFound }),
            target: 'at most 3',
            met: ratioFound <= 3,
          },
        ]),
    { what: 'the lines of that outline once more, remembered', ours: milliseconds(remembered) },
  ];
}

/** The same once those that took long have had the places of all groups found; nothing where that does not come. */
async function openedOnceFound(
  table: string,
  deepest: readonly string[],
  openAll: () => Promise<number[]>,
): Promise<number[]> {
  for (const filter of deepest) {
    const path = `${table}/rows?filter=${encodeURIComponent(filter)}&limit=100&total=none&explain=true`;
    for (let turn = 0; ; turn += 1) {
      const { body } = await answered(path);
      if (body.includes('"from":"places"')) break;
      // Where hardly a group takes long, nobody looks for them.
      if (turn === 300) return [];
      // Its places are found while somebody looks.
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
  return openAll();
}

async function levelAt(url: string): Promise<Level> {
  return JSON.parse((await answered(url)).body) as Level;
}
