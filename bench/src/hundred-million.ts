import { execFileSync } from 'node:child_process';
import type { Cluster } from '@ephoros/demo';
import pg from 'pg';
import { startPlain } from './endpoints.ts';
import { readied, type Readied } from './load.ts';
import { MemoryWatch } from './machine.ts';
import { median, milliseconds, type Figure } from './report.ts';

/** What pgbench multiplies its hundred thousand accounts by. */
const scale = 1_000;
const rows = scale * 100_000;

/** MB that a process of the service may hold. */
const mostMemory = 250;

const table = '/api/tables/pgbench_accounts';
const page = (parameters = ''): string => `${table}/rows?limit=100&total=none${parameters}`;

/**
 * The table of pgbench with a hundred million rows, as PostgreSQL's own program makes it: made once and stored, some 15 GB.
 */
export async function hundredMillion(
  cluster: Cluster,
  say: (line: string) => void,
): Promise<Figure[]> {
  const database = 'hundred_million';
  const url = cluster.url(database);
  await made(cluster, database, say);
  const direct = new pg.Client({ connectionString: url });
  await direct.connect();
  await direct.query('set jit = off');
  const ours = await startPlain(url);
  const watch = new MemoryWatch(ours.processes);
  const requests: Readied[] = [];
  const request = async (path: string): Promise<number> => {
    const answer = await readied(ours.url + path);
    requests.push(answer);
    return answer.milliseconds;
  };
  const byHand = async (statement: string): Promise<number> => {
    const began = performance.now();
    await direct.query({ text: statement, rowMode: 'array' });
    return performance.now() - began;
  };
  try {
    const figures = await measure(request, byHand, say);
    const memory = watch.stop();
    const failed = requests.filter(({ status }) => status !== 200).length;
    const longest = Math.max(...requests.map((answer) => answer.longest));
    return [
      ...figures,
      {
        what: 'memory of the service',
        ours: `${Math.round(memory)} MB`,
        target: `under ${mostMemory} MB a process`,
        met: memory < mostMemory,
      },
      {
        what: 'the longest single answer, whole or on its way',
        ours: milliseconds(longest),
        target: 'at most 1,100 ms',
        met: longest <= 1_100,
      },
      {
        what: 'questions that met a time limit or failed otherwise',
        ours: `${failed} of ${requests.length}`,
        target: 'none',
        met: failed === 0,
      },
    ];
  } finally {
    watch.stop();
    await ours.stop();
    await direct.end();
  }
}

async function measure(
  request: (path: string) => Promise<number>,
  byHand: (statement: string) => Promise<number>,
  say: (line: string) => void,
): Promise<Figure[]> {
  const all = 'select * from pgbench_accounts';
  const middle = rows / 2;
  const figures: Figure[] = [];
  const compare = async (
    what: string,
    path: string,
    statement: string,
    times = 1,
  ): Promise<void> => {
    say(what);
    const taken: number[] = [];
    for (let turn = 0; turn < times; turn += 1) taken.push(await request(path));
    const hand = await byHand(statement);
    const spent = median(taken);
    const against = `by hand ${milliseconds(hand)}`;
    figures.push({ what, ours: milliseconds(spent), against, ratio: spent / hand });
  };
  await compare('first page', page(), `${all} order by aid limit 100`, 15);
  const jump = `${all} order by aid limit 100 offset ${middle}`;
  await compare('a jump to the middle by key, nothing known', page(`&offset=${middle}`), jump);
  await compare('the same once more', page(`&offset=${middle + 7_777}`), jump, 9);
  await compare('the total', `${table}/aggregates`, 'select count(*) from pgbench_accounts');
  await compare(
    'groups by `bid` (no index)',
    `${table}/groups?group=bid&limit=100`,
    'select bid, count(*) from pgbench_accounts group by 1 order by 1 limit 100',
  );
  await compare(
    'the first rows with `bid = 90` (no index), a ninth of the way along',
    page('&filter=bid%20%3D%2090'),
    `${all} where bid = 90 order by aid limit 100`,
  );
  await compare(
    'all rows with `bid = 990` and `abalance = 1` (no index, none there), to the end',
    page('&filter=bid%20%3D%20990%20AND%20abalance%20%3D%201'),
    `${all} where bid = 990 and abalance = 1 order by aid limit 100`,
  );
  const sorted = `${all} order by abalance, aid desc limit 100 offset ${middle}`;
  const unindexed = `&sort=abalance,-aid&offset=${middle}`;
  await compare(
    'a jump to the middle by `abalance` (no index), nothing known',
    page(unindexed),
    sorted,
  );
  await request(page(`&sort=abalance,-aid&offset=${rows - 500}`));
  const anywhere: number[] = [];
  for (let turn = 1; turn < 20; turn += 1) {
    anywhere.push(await request(page(`&sort=abalance,-aid&offset=${turn * 4_999_000}`)));
  }
  figures.push({
    what: 'any place in that order from then on',
    ours: milliseconds(median(anywhere)),
  });
  return figures;
}

/** Makes the database, unless it is there as a whole. */
async function made(
  cluster: Cluster,
  database: string,
  say: (line: string) => void,
): Promise<void> {
  const maintenance = new pg.Client({ connectionString: cluster.url('postgres') });
  await maintenance.connect();
  try {
    const { rows: found } = await maintenance.query(
      'select 1 from pg_database where datname = $1',
      [`${database}_done`],
    );
    if (found.length > 0) return;
    say(`making ${rows.toLocaleString('en-GB')} accounts`);
    await maintenance.query(`drop database if exists ${database} with (force)`);
    await maintenance.query(`create database ${database}`);
    execFileSync(program(), ['-i', '-q', '-s', String(scale), cluster.url(database)], {
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    // A mark that it is whole.
    await maintenance.query(`create database ${database}_done`);
  } finally {
    await maintenance.end();
  }
}

/** Debian has it next to the server, or on the path. */
function program(): string {
  return process.env.PGBENCH ?? 'pgbench';
}
