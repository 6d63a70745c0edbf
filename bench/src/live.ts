import { get } from 'node:http';
import { liveSetup } from '@ephoros/service';
import pg from 'pg';
import type { Endpoint } from './endpoints.ts';
import { quantile } from './load.ts';
import { MemoryWatch } from './machine.ts';
import { milliseconds, type Figure } from './report.ts';

const watchers = 500;
const writesPerSecond = 200;

/** Many who watch a large table while others write to it: how soon they are notified of rows that they ask for. */
export async function live(
  database: string,
  ours: Endpoint,
  rows: number,
  seconds: number,
): Promise<Figure[]> {
  return [
    ...(await reportedBy('triggers', database, ours, rows, seconds)),
    ...(await reportedBy('log', database, ours, rows, seconds)),
  ];
}

const means = { triggers: 'by triggers', log: 'by the log' } as const;

async function reportedBy(
  by: keyof typeof means,
  database: string,
  ours: Endpoint,
  rows: number,
  seconds: number,
): Promise<Figure[]> {
  const setup = await liveSetup({ database }, 'passages', by);
  if (typeof setup === 'string') throw new Error(setup);
  const client = new pg.Client({ connectionString: database });
  await client.connect();
  await client.query(setup.add);
  const memory = new MemoryWatch(ours.processes);
  const written = new Map<string, number>();
  const times: number[] = [];
  let events = 0;
  const leave: (() => void)[] = [];
  try {
    for (let number = 0; number < watchers; number += 1) {
      const filter = encodeURIComponent(`lock_id = ${1 + (number % 64)}`);
      const listened = await listen(
        `${ours.url}/api/tables/passages/live?filter=${filter}`,
        by,
        (keys) => {
          events += 1;
          for (const key of keys) {
            const at = written.get(key);
            if (at !== undefined) times.push(performance.now() - at);
          }
        },
      );
      leave.push(listened);
    }
    const end = performance.now() + seconds * 1_000;
    let count = 0;
    while (performance.now() < end) {
      const began = performance.now();
      const id = String(1 + Math.floor(Math.random() * rows));
      const done = await client.query(
        'update passages set wait_minutes = wait_minutes where id = $1',
        [id],
      );
      if (done.rowCount === 1) written.set(id, performance.now());
      count += 1;
      const rest = began + 1_000 / writesPerSecond - performance.now();
      if (rest > 0) await new Promise((resolve) => setTimeout(resolve, rest));
    }
    await new Promise((resolve) => setTimeout(resolve, 2_000));
    return [
      {
        what: `${watchers} watchers beside ${(count / seconds).toFixed(0)} writes a second, ${seconds} s, ${means[by]}: told of a row, half of the time`,
        ours: milliseconds(quantile(times, 0.5)),
      },
      {
        what: 'the same, 99 of 100 times',
        ours: milliseconds(quantile(times, 0.99)),
        target: 'within a second',
        met: quantile(times, 0.99) <= 1_000,
      },
      {
        what: 'events that a watcher was sent, a second',
        ours: (events / watchers / seconds).toFixed(2),
      },
      { what: 'memory of a process at most', ours: `${Math.round(memory.stop())} MB` },
    ];
  } finally {
    for (const one of leave) one();
    await client.query(setup.drop);
    await client.end();
  }
}

/** Listens until what is given is called; resolves once changes are reported in the given way. */
function listen(
  url: string,
  by: string,
  heard: (keys: readonly string[]) => void,
): Promise<() => void> {
  return new Promise((resolve, reject) => {
    const request = get(url, (response) => {
      let text = '';
      response.setEncoding('utf8').on('data', (part: string) => {
        text += part;
        for (let end = text.indexOf('\n\n'); end !== -1; end = text.indexOf('\n\n')) {
          const [, event, data = '{}'] = /^event: (.*)\ndata: (.*)$/.exec(text.slice(0, end)) ?? [];
          text = text.slice(end + 2);
          if (event === 'grade' && data.includes(`"${by}"`)) resolve(() => request.destroy());
          if (event === 'changed') {
            const { changed } = JSON.parse(data) as { changed: readonly (readonly string[])[] };
            heard(changed.map((key) => key.join()));
          }
        }
      });
      response.on('error', () => undefined);
    });
    request.on('error', reject);
  });
}
