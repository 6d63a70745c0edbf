import { spawn } from 'node:child_process';
import pg from 'pg';
import type { Endpoint } from './endpoints.ts';
import { compared, type Figure } from './report.ts';

/** Rows of one set. */
const many = 10_000;

/** Changes that are saved, against the same written by hand: one cell, and many new rows. */
export async function changes(
  url: string,
  ours: Endpoint,
  remembering: Endpoint,
  theirs: Endpoint,
  rounds: number,
): Promise<Figure[]> {
  const times = await cells(url, ours, remembering, theirs, rounds);
  const [added, copied] = await rows(url, remembering, Math.max(1, Math.round(rounds / 20)));
  return [
    compared('one cell saved', times.ours, times.theirs, 'UPDATE by hand', 1.5),
    compared(
      'one cell saved, and remembered',
      times.remembered,
      times.theirs,
      'UPDATE by hand',
      1.5,
    ),
    compared(
      `${many.toLocaleString('en-GB')} rows added in one set, and remembered`,
      added,
      copied,
      'COPY of the same rows',
      5,
    ),
  ];
}

/** Three ways to save the same cell, in turns. */
async function cells(
  url: string,
  ours: Endpoint,
  remembering: Endpoint,
  theirs: Endpoint,
  rounds: number,
): Promise<Record<'ours' | 'remembered' | 'theirs', number[]>> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const { rows: found } = await client.query<{ id: string; wait: number }>(
    'select id, wait_minutes as wait from passages order by id limit 1',
  );
  await client.end();
  const { id, wait } = found[0] ?? { id: '', wait: 0 };
  const times = { ours: [] as number[], remembered: [] as number[], theirs: [] as number[] };
  let now = wait;
  const set = (next: number): object => ({
    changes: [
      { kind: 'change', key: [id], was: { wait_minutes: now }, values: { wait_minutes: next } },
    ],
  });
  for (let round = 0; round < rounds; round += 1) {
    for (const [name, endpoint] of [
      ['ours', ours],
      ['remembered', remembering],
    ] as const) {
      const next = now + 1;
      times[name].push(
        await sent('POST', `${endpoint.url}/api/tables/passages/changes`, set(next)),
      );
      now = next;
    }
    const next = now + 1;
    const body = { was: now, wait_minutes: next };
    times.theirs.push(await sent('PATCH', `${theirs.url}/passages/${id}`, body));
    now = next;
  }
  await sent('POST', `${ours.url}/api/tables/passages/changes`, set(wait));
  return times;
}

/** Many new rows by a set and by COPY, in turns; none of them stays. */
async function rows(url: string, ours: Endpoint, rounds: number): Promise<[number[], number[]]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  const { rows: most } = await client.query<{ id: string }>(
    'select max(id)::text as id from passages',
  );
  const last = most[0]?.id ?? '0';
  const gone = 'delete from passages where id > $1';
  const values = Array.from({ length: many }, (_, index) => ({
    lock_id: 1 + (index % 60),
    boat_id: 1 + (index % 30),
    direction: index % 2 === 0 ? 'up' : 'down',
    draught_m: '1.20',
    wait_minutes: index % 90,
    toll: `${4 + (index % 50)}.50`,
    note: index % 5 === 0 ? 'reed on the north bank' : null,
  }));
  const body = { changes: values.map((one) => ({ kind: 'add', values: one })) };
  const names = Object.keys(values[0] ?? {}).join(', ');
  const lines = values
    .map((one) =>
      Object.values(one)
        .map((value) => value ?? '\\N')
        .join('\t'),
    )
    .join('\n');
  const times: [number[], number[]] = [[], []];
  for (let round = 0; round < rounds; round += 1) {
    times[0].push(await sent('POST', `${ours.url}/api/tables/passages/changes`, body));
    await client.query(gone, [last]);
    times[1].push(await copied(url, `\\copy passages (${names}) from stdin`, `${lines}\n`));
    await client.query(gone, [last]);
  }
  await client.end();
  return times;
}

async function sent(method: string, url: string, body: object): Promise<number> {
  const text = JSON.stringify(body);
  const began = performance.now();
  const response = await fetch(url, {
    method,
    headers: { 'Content-Type': 'application/json' },
    body: text,
  });
  const answer = await response.text();
  if (!response.ok) throw new Error(`${url}: ${answer.slice(0, 500)}`);
  return performance.now() - began;
}

/** How long psql takes for it, as a whole process. */
function copied(url: string, command: string, input: string): Promise<number> {
  const began = performance.now();
  return new Promise((resolve, reject) => {
    const child = spawn('psql', ['--quiet', '--command', command, url], {
      stdio: ['pipe', 'ignore', 'inherit'],
    });
    child.once('error', reject);
    child.once('exit', (code) => {
      if (code === 0) resolve(performance.now() - began);
      else reject(new Error(`psql ended with ${code ?? 'a signal'}`));
    });
    child.stdin.end(input);
  });
}
