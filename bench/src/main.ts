/**
 * The benchmarks. Everything is measured in one run on one machine, against the same job done by
 * hand on the same database; the report says where that was quicker.
 */
import { writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { makeScenario, startCluster, type Cluster } from '@ephoros/demo';
import pg from 'pg';
import { changes } from './changes.ts';
import { compileFigures } from './compile.ts';
import { processorTime } from './cpu.ts';
import { crowd } from './crowd.ts';
import { atHand, mounted } from './elsewhere.ts';
import { startHandWritten, startService, type Endpoint } from './endpoints.ts';
import { exports } from './exports.ts';
import { firstScreen } from './first-screen.ts';
import { groups } from './groups.ts';
import { hundredMillion } from './hundred-million.ts';
import { fetched } from './load.ts';
import { live } from './live.ts';
import { machine, stolenTime } from './machine.ts';
import { coldJumps, firstPages, settingMileposts, totals, walk, warmJumps } from './pages.ts';
import { orders } from './orders.ts';
import { asTable, type Figure } from './report.ts';
import { scrolling } from './scrolling.ts';
import { selections } from './selections.ts';

const help = `npm run bench -- [options]

  --passages <number>  rows of the large table; 10,000,000 by default, made once and kept
  --quick              shorter rounds, to see that everything runs; nothing is written
  --only <words>       cpu, compile, pages, jumps, orders, totals, groups, exports, selections, changes, router, local, crowd, live, opening or scrolling; several
                       by commas; hundred-million, which makes a table of 15 GB, only when it is named
`;

const { values } = parseArgs({
  options: {
    passages: { type: 'string', default: '10000000' },
    quick: { type: 'boolean', default: false },
    only: { type: 'string' },
    help: { type: 'boolean', default: false },
  },
});

const database = 'lowmere';
const say = (line: string): void => void process.stderr.write(`  ${line}\n`);

async function run(): Promise<void> {
  const passages = Number(values.passages);
  const folder = resolve('.ephoros', passages === 10_000_000 ? 'bench' : `bench-${passages}`);
  const settings = { shared_buffers: '2GB', max_connections: '60' };
  const cluster = await startCluster({ folder, port: 54_820, settings, say });
  // Nothing is left behind by a run that is ended from outside.
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    process.once(signal, () => void cluster.stop().finally(() => process.exit(1)));
  }
  try {
    const progress = (step: string, done: number, all: number): void =>
      say(`${step}: ${done.toLocaleString('en-GB')} of ${all.toLocaleString('en-GB')}`);
    const url = cluster.url(database);
    const maintenanceUrl = cluster.url('postgres');
    await makeScenario({ maintenanceUrl, database, url, passages, seed: 7, progress });
    await measure(cluster, passages);
  } finally {
    await cluster.stop();
  }
}

/** Chapters that are measured only when they are requested. */
const request: ReadonlySet<string> = new Set(['hundred-million']);

type Chapter = readonly [name: string, title: string, measure: () => Promise<Figure[]>];

async function measure(cluster: Cluster, passages: number): Promise<void> {
  const { quick, only } = values;
  const url = cluster.url(database);
  const direct = new pg.Client({ connectionString: url });
  await direct.connect();
  const theirs = await startHandWritten(url);
  const before = stolenTime();
  const chapters: readonly Chapter[] = [
    ['cpu', 'Processor time', () => cpuOf(cluster, theirs, quick ? 2 : 9)],
    ['compile', 'From parameters to SQL', () => Promise.resolve(compileFigures())],
    ['pages', 'First pages', () => pagesOf(url, theirs, quick ? 2 : 12)],
    ['jumps', 'Any place', () => jumpsOf(url, theirs, passages, direct)],
    ['orders', 'Any order, any question', () => orders(url, passages)],
    ['hundred-million', 'A hundred million rows', () => hundredMillion(cluster, say)],
    ['totals', 'Totals', () => totals(url, theirs)],
    ['groups', 'Groups', () => groupsOf(url, quick ? 1 : 5)],
    ['exports', 'Files', () => exports(url, passages, quick ? 1 : 5)],
    ['selections', 'Selections', () => selectionsOf(url, passages, quick ? 1 : 5)],
    ['changes', 'Changes', () => changesOf(url, theirs, quick ? 20 : 400)],
    ['router', 'The router in an application', () => mounted(url, theirs, quick ? 2 : 8)],
    ['local', 'Rows at hand', () => atHand()],
    ['crowd', 'A crowd', () => crowdOf(url, passages, quick ? 5 : 30)],
    ['live', 'Told what others write', () => liveOf(url, passages, quick ? 5 : 30)],
    ['opening', 'The first screen in a browser', () => openingOf(url, quick ? 3 : 15)],
    ['scrolling', 'Scrolling in a browser', () => scrollingOf(url, quick ? 100 : 2_000)],
  ];
  const done: { title: string; figures: Figure[] }[] = [];
  try {
    for (const [name, title, work] of chapters) {
      const wanted = only === undefined ? !request.has(name) : only.split(',').includes(name);
      if (!wanted) continue;
      say(title);
      const figures = await work();
      done.push({ title, figures });
      process.stdout.write(`\n${title}\n${asTable(figures)}\n`);
    }
  } finally {
    await theirs.stop();
    await direct.end();
  }
  const after = stolenTime();
  const stolen = (after.stolen - before.stolen) / (after.all - before.all);
  if (quick || only !== undefined) return;
  writeFileSync(resolve('docs', 'performance.md'), report(done, passages, stolen));
  say('written to docs/performance.md');
}

async function cpuOf(cluster: Cluster, theirs: Endpoint, rounds: number): Promise<Figure[]> {
  const ours = await startService(cluster.url(database));
  try {
    return await processorTime(cluster.folder, ours, theirs, rounds);
  } finally {
    await ours.stop();
  }
}

async function pagesOf(url: string, theirs: Endpoint, rounds: number): Promise<Figure[]> {
  const figures: Figure[] = [];
  for (const [name, ...more] of [[''], [', two workers', '--workers', '2']]) {
    const ours = await startService(url, ...more);
    figures.push(...(await firstPages(name ?? '', ours, theirs, rounds)));
    await ours.stop();
  }
  return figures;
}

async function selectionsOf(url: string, passages: number, rounds: number): Promise<Figure[]> {
  const ours = await startService(url, '--records', url);
  try {
    return await selections(ours, passages, rounds);
  } finally {
    await ours.stop();
  }
}

async function changesOf(url: string, theirs: Endpoint, rounds: number): Promise<Figure[]> {
  const ours = await startService(url, '--changes', url);
  const remembering = await startService(url, '--changes', url, '--records', url);
  try {
    return await changes(url, ours, remembering, theirs, rounds);
  } finally {
    await ours.stop();
    await remembering.stop();
  }
}

async function jumpsOf(
  url: string,
  theirs: Endpoint,
  passages: number,
  direct: pg.Client,
): Promise<Figure[]> {
  const walkIndex = async (): Promise<number> => {
    const began = performance.now();
    await direct.query(
      'select count(*) from (select passed_at, id from passages order by passed_at desc, id desc offset 0) all_of_them',
    );
    return performance.now() - began;
  };
  const deep = Math.floor(passages * 0.99);
  const cold = await coldJumps(url, theirs, deep);
  const set = await settingMileposts(url, walkIndex);
  const ours = await servedWithPositions(url);
  const warm = await warmJumps(ours, theirs, passages);
  const walked = await walk(ours, theirs, 300);
  await ours.stop();
  return [...cold, ...warm, ...walked, ...set];
}

async function groupsOf(url: string, rounds: number): Promise<Figure[]> {
  const ours = await startService(url);
  try {
    return await groups(url, ours, rounds);
  } finally {
    await ours.stop();
  }
}

async function crowdOf(url: string, passages: number, seconds: number): Promise<Figure[]> {
  const ours = await servedWithPositions(url, '--workers', '2', '--connections', '16');
  try {
    return await crowd(url, ours, passages, seconds);
  } finally {
    await ours.stop();
  }
}

async function liveOf(url: string, passages: number, seconds: number): Promise<Figure[]> {
  const ours = await startService(url, '--workers', '2', '--connections', '16');
  try {
    return await live(url, ours, passages, seconds);
  } finally {
    await ours.stop();
  }
}

async function openingOf(url: string, times: number): Promise<Figure[]> {
  const ours = await servedWithPositions(url);
  try {
    return await firstScreen(ours, times);
  } finally {
    await ours.stop();
  }
}

async function scrollingOf(url: string, screens: number): Promise<Figure[]> {
  // What is changed is stored in the page alone.
  const ours = await servedWithPositions(url, '--changes', url);
  try {
    return await scrolling(ours, screens);
  } finally {
    await ours.stop();
  }
}

/** A service whose mileposts of the table's own sort are set. */
async function servedWithPositions(url: string, ...more: string[]): Promise<Endpoint> {
  const ours = await startService(url, ...more);
  for (;;) {
    const { body } = await fetched(`${ours.url}/api/tables/passages/mileposts?ticks=1`);
    if (body.includes('"state":"ready"')) return ours;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

function report(
  chapters: readonly { title: string; figures: readonly Figure[] }[],
  passages: number,
  stolen: number,
): string {
  const missed = chapters.flatMap(({ figures }) => figures.filter(({ met }) => met === false));
  const reading =
    missed.length === 0
      ? 'Everything that was to be reached was reached.'
      : `Not reached in this run:\n\n${missed.map(({ what, ours, target }) => `- ${what} (${ours}; ${target ?? ''})`).join('\n')}`;
  const parts = chapters.map(({ title, figures }) => `## ${title}\n\n${asTable(figures)}\n`);
  return `# Performance

Written by \`npm run bench\` on ${new Date().toISOString().slice(0, 10)}: ${passages.toLocaleString('en-GB')} passages in a PostgreSQL
of 2 GB shared buffers, everything on one machine: ${machine()}.
Its host gave ${(stolen * 100).toFixed(0)} % of the processors' time to others, so read the ratios, not the
milliseconds: what is compared took turns.

"By hand" is the same job as it is usually written: Express, \`pg\`, LIMIT and OFFSET, count(*),
rows as objects (\`bench/src/hand-written.ts\`), one process, ten connections, no log. Ephoros runs as
\`ephoros serve --log-level warn\`.

${reading}

${parts.join('\n')}`;
}

if (values.help) process.stdout.write(help);
else await run();
