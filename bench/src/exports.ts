import { execFileSync } from 'node:child_process';
import { once } from 'node:events';
import { get, type IncomingMessage } from 'node:http';
import { startService, type Endpoint } from './endpoints.ts';
import { MemoryWatch } from './machine.ts';
import { median, milliseconds, type Figure } from './report.ts';

/** Rows of the files that are held against psql, and of the workbook. */
const rows = 1_000_000;

/** MB by which a process may grow, or that it may hold, meanwhile. */
const mostGrowth = 64;
const mostHeld = 300;

/** Times longer than `\copy` that CSV may take. */
const mostTimes = 1.3;

/** Files of the large table, against `\copy` in turns, and what the service holds meanwhile. */
export async function exports(url: string, passages: number, rounds: number): Promise<Figure[]> {
  const ours = await startService(url);
  try {
    const csv = await csvFiles(url, ours, Math.min(rows, passages), rounds);
    const before = new MemoryWatch(ours.processes).stop();
    const [some, all] = [Math.min(rows, passages), passages].map((count) =>
      count.toLocaleString('en-GB'),
    );
    return [
      ...csv,
      await held(ours, `${all} rows as CSV: growth of the service`, 'format=csv&sort=id', {
        before,
        most: mostGrowth,
      }),
      await held(
        ours,
        `${some} rows as Arrow: growth of the service`,
        `format=arrow&sort=id&limit=${Math.min(rows, passages)}`,
        { before, most: mostGrowth },
      ),
      await held(
        ours,
        `${some} rows as XLSX: memory of the service`,
        `format=xlsx&sort=id&limit=${Math.min(rows, passages)}`,
        { before: 0, most: mostHeld },
      ),
    ];
  } finally {
    await ours.stop();
  }
}

async function csvFiles(
  url: string,
  ours: Endpoint,
  count: number,
  rounds: number,
): Promise<Figure[]> {
  const statement = `\\copy (select * from passages order by id limit ${count}) to '/dev/null' csv header`;
  const times: Readonly<Record<'hand' | 'csv' | 'plain' | 'lines', number[]>> = {
    ...{ hand: [], csv: [], plain: [], lines: [] },
  };
  for (let round = 0; round < rounds; round += 1) {
    const began = performance.now();
    execFileSync('psql', ['-X', '-q', '-d', url, '-c', statement]);
    times.hand.push(performance.now() - began);
    const path = (format: string): string => `format=${format}&sort=id&limit=${count}`;
    times.csv.push(await taken(ours, path('csv')));
    times.plain.push(await taken(ours, path('csv&line-end=lf&formulas=true')));
    times.lines.push(await taken(ours, path('ndjson')));
  }
  const hand = median(times.hand);
  const figure = (what: string, of: readonly number[], most?: number): Figure => ({
    what,
    ours: milliseconds(median(of)),
    against: `\\copy ${milliseconds(hand)}`,
    ratio: median(of) / hand,
    ...(most === undefined ? {} : { target: `at most ${most}`, met: median(of) / hand <= most }),
  });
  const many = count.toLocaleString('en-GB');
  return [
    figure(
      `${many} rows as CSV, harmless to a spreadsheet, lines as RFC 4180 has them`,
      times.csv,
      mostTimes,
    ),
    figure(`${many} rows as CSV, as they are`, times.plain, mostTimes),
    figure(`${many} rows as NDJSON`, times.lines),
  ];
}

/** What the service holds while it writes a file, beyond so many MB that it has held before. */
async function held(
  ours: Endpoint,
  what: string,
  parameters: string,
  { before, most }: { readonly before: number; readonly most: number },
): Promise<Figure> {
  const watch = new MemoryWatch(ours.processes);
  const took = await taken(ours, parameters);
  const megabytes = Math.max(0, watch.stop() - before);
  return {
    what,
    ours: `${Math.round(megabytes)} MB, in ${milliseconds(took)}`,
    target: `under ${most} MB`,
    met: megabytes < most,
  };
}

/** Ms until a file has come as a whole. */
async function taken(ours: Endpoint, parameters: string): Promise<number> {
  const began = performance.now();
  const request = get(`${ours.url}/api/tables/passages/export?${parameters}`);
  const [response] = (await once(request, 'response')) as [IncomingMessage];
  if (response.statusCode !== 200) throw new Error(`status ${response.statusCode}`);
  response.resume();
  await once(response, 'end');
  return performance.now() - began;
}
