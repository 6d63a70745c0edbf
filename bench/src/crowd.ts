import { Agent, get } from 'node:http';
import pg from 'pg';
import type { Endpoint } from './endpoints.ts';
import { fetched, quantile } from './load.ts';
import { MemoryWatch } from './machine.ts';
import { pageAt } from './questions.ts';
import { milliseconds, type Figure } from './report.ts';

const readers = 300;
const writesPerSecond = 200;
/** Rows that are written have numbers from here on, and are deleted afterwards. */
const firstWritten = 1_000_000_000;

/** Many readers who jump about, read on and change their minds, next to others who write. */
export async function crowd(
  database: string,
  ours: Endpoint,
  rows: number,
  seconds: number,
): Promise<Figure[]> {
  const memory = new MemoryWatch(ours.processes);
  const writer = new Writer(database);
  const agent = new Agent({ keepAlive: true, maxSockets: readers });
  const end = performance.now() + seconds * 1000;
  const times: number[] = [];
  const tally = { errors: 0, refused: 0, left: 0 };
  const writing = writer.until(end);
  const read = async (reader: number): Promise<void> => {
    let draw = reader * 7919 + 1;
    // A small generator of its own for each, so that every run reads the same.
    const random = (): number => (draw = (draw * 48_271) % 2_147_483_647) / 2_147_483_647;
    const pause = (): Promise<void> =>
      new Promise((resolve) => setTimeout(resolve, 300 + random() * 1_400));
    await pause();
    while (performance.now() < end) {
      let path: string | undefined = pageAt(Math.floor(random() * rows)).ours;
      const pages = 1 + Math.floor(random() * 6);
      for (let page = 0; page < pages && path !== undefined && performance.now() < end; page += 1) {
        if (random() < 0.1) {
          await leave(ours.url + path, agent);
          tally.left += 1;
          break;
        }
        path = await turnPage(ours.url + path, agent, times, tally);
        await pause();
      }
    }
  };
  await Promise.all(Array.from({ length: readers }, (_, reader) => read(reader)));
  const written = await writing;
  const most = memory.stop();
  agent.destroy();
  const cancelled = await statementsCancelled(ours);
  return [
    {
      what: `${readers} readers at once beside ${(written / seconds).toFixed(0)} writes a second, ${seconds} s: a page, half of the time`,
      ours: milliseconds(quantile(times, 0.5)),
    },
    { what: 'the same, 99 of 100 times', ours: milliseconds(quantile(times, 0.99)) },
    {
      what: 'pages read; refused for want of room (503); failed',
      ours: `${times.length}; ${tally.refused}; ${tally.errors}`,
      target: 'no failure',
      met: tally.errors === 0,
    },
    {
      what: 'readers who left before their answer; statements cancelled for them',
      ours: `${tally.left}; ${cancelled}`,
    },
    {
      what: 'memory of the largest process',
      ours: `${most.toFixed(0)} MB`,
      target: 'under 250 MB',
      met: most < 250,
    },
  ];
}

async function turnPage(
  url: string,
  agent: Agent,
  times: number[],
  tally: { errors: number; refused: number },
): Promise<string | undefined> {
  try {
    const { status, milliseconds: took, body } = await fetched(url, agent);
    if (status === 503) tally.refused += 1;
    else if (status !== 200) tally.errors += 1;
    if (status !== 200) return undefined;
    times.push(took);
    const { next } = JSON.parse(body) as { next: string | null };
    return next === null ? undefined : pageAt(0).ours.replace('offset=0', `after=${next}`);
  } catch {
    tally.errors += 1;
    return undefined;
  }
}

/** Asks, and goes away before the answer. */
function leave(url: string, agent: Agent): Promise<void> {
  return new Promise((resolve) => {
    const request = get(url, { agent }, (response) => response.resume());
    request.on('error', () => undefined);
    setTimeout(() => {
      request.destroy();
      resolve();
    }, 2);
  });
}

async function statementsCancelled(ours: Endpoint): Promise<number> {
  const { body } = await fetched(`${ours.url}/metrics`);
  return Number(/^ephoros_statements_cancelled(?:_total)? (\d+)/m.exec(body)?.[1] ?? NaN);
}

/** Records, corrects and deletes passages. */
class Writer {
  private readonly client: pg.Client;
  private count = 0;

  constructor(database: string) {
    this.client = new pg.Client({ connectionString: database });
  }

  /** Writes until a time, and takes out again what it has put in; resolves to how often. */
  async until(end: number): Promise<number> {
    await this.client.connect();
    const began = performance.now();
    while (performance.now() < end) {
      // Late writes are made up for.
      const due = ((performance.now() - began) / 1000) * writesPerSecond;
      while (this.count < due) await this.write();
      await new Promise((resolve) => setTimeout(resolve, 5));
    }
    await this.client.query('delete from passages where id >= $1', [firstWritten]);
    await this.client.query('vacuum analyze passages');
    await this.client.end();
    return this.count;
  }

  private async write(): Promise<void> {
    const turn = (this.count += 1);
    const id = firstWritten + turn;
    if (turn % 4 === 1) {
      await this.client.query('update passages set note = $2 where id = $1', [id - 2, 'Corrected']);
    } else if (turn % 4 === 3) {
      await this.client.query('delete from passages where id = $1', [id - 8]);
    } else {
      await this.client.query(
        `insert into passages select $1, passed_at, lock_id, boat_id, keeper_id, direction, draught_m,
           wait_minutes, crossing, toll, status, note from passages where id = $2`,
        [id, 1 + ((turn * 7919) % 1_000_000)],
      );
    }
  }
}
