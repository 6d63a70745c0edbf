import { readdirSync, readFileSync } from 'node:fs';
import { Agent } from 'node:http';
import { join } from 'node:path';
import type { Endpoint } from './endpoints.ts';
import { answered, fetched } from './load.ts';
import { firstPage } from './questions.ts';
import { median, type Figure } from './report.ts';

/** Pages of one turn: all of them different. */
const pages = 1_000;
const connections = 4;
/** Ms of one tick of the kernel's clock of processes. */
const tick = 10;

interface Spent {
  readonly node: number;
  readonly database: number;
}

/**
 * Processor time of a first page: of node and of PostgreSQL, each for the same 1,000 different
 * pages of 100 rows, in turns. Unlike requests a second it does not depend on what else runs.
 */
export async function processorTime(
  clusterFolder: string,
  ours: Endpoint,
  theirs: Endpoint,
  rounds: number,
): Promise<Figure[]> {
  const measure = async (endpoint: Endpoint): Promise<Spent> => {
    const before = spentBy(endpoint, clusterFolder);
    await requestAll(endpoint, endpoint === ours ? 'ours' : 'theirs');
    const after = spentBy(endpoint, clusterFolder);
    return {
      node: (after.node - before.node) / pages,
      database: (after.database - before.database) / pages,
    };
  };
  // Engines compile what runs often: the first turns do not count.
  for (let round = 0; round < 4; round += 1) {
    await measure(ours);
    await measure(theirs);
  }
  const one: Spent[] = [];
  const other: Spent[] = [];
  for (let round = 0; round < rounds; round += 1) {
    one.push(await measure(ours));
    other.push(await measure(theirs));
  }
  const figure = (what: string, of: (spent: Spent) => number, most: number | undefined): Figure => {
    const [mine, hand] = [median(one.map(of)), median(other.map(of))];
    return {
      what,
      ours: `${mine.toFixed(2)} ms`,
      against: `by hand ${hand.toFixed(2)} ms`,
      ratio: mine / hand,
      ...(most === undefined ? {} : { target: `at most ${most}`, met: mine / hand <= most }),
    };
  };
  return [
    figure('processor time of a first page of 100', (spent) => spent.node + spent.database, 0.8),
    figure('of it node', ({ node }) => node, 0.5),
    figure('of it PostgreSQL', ({ database }) => database, undefined),
  ];
}

async function requestAll(endpoint: Endpoint, whose: 'ours' | 'theirs'): Promise<void> {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  let startedAt = 0;
  const request = async (): Promise<void> => {
    while (startedAt < pages) {
      startedAt += 1;
      const url = endpoint.url + firstPage(startedAt)[whose];
      const { status } = await fetched(url, agent);
      // What is read from the disk for the first time may take longer.
      if (status !== 200) await answered(url);
    }
  };
  await Promise.all(Array.from({ length: connections }, request));
  agent.destroy();
}

function spentBy(endpoint: Endpoint, clusterFolder: string): Spent {
  const node = endpoint.processes().reduce((sum, pid) => sum + timeOf(pid).own, 0);
  const [postmaster = ''] = readFileSync(
    join(clusterFolder, 'data', 'postmaster.pid'),
    'utf8',
  ).split('\n');
  const lead = timeOf(Number(postmaster));
  const database = childrenOf(Number(postmaster)).reduce(
    (sum, pid) => sum + timeOf(pid).own,
    lead.own + lead.ended,
  );
  return { node, database };
}

/** Ms of processor time of a process, and of its children that have ended. */
function timeOf(pid: number): { own: number; ended: number } {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
  // Behind the name, which may hold blanks, stand the fields from the third on.
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  const [user = 0, system = 0, endedUser = 0, endedSystem = 0] = fields.slice(11, 15).map(Number);
  return { own: (user + system) * tick, ended: (endedUser + endedSystem) * tick };
}

function childrenOf(pid: number): readonly number[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .filter((one) => parentOf(one) === pid);
}

function parentOf(pid: number): number | undefined {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[1]);
  } catch {
    // It has ended meanwhile.
    return undefined;
  }
}
