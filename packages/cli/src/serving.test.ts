import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { testDatabases } from '../../../demo/src/testing/databases.ts';
import { occupy, start, type Ended, type Started } from './testing/command.ts';

const { lowmere } = testDatabases();

/** The child processes of a process. */
function workersOf(pid: number | undefined): number[] {
  const file = `/proc/${pid}/task/${pid}/children`;
  return readFileSync(file, 'utf8').trim().split(' ').filter(Boolean).map(Number);
}

describe('ephoros serve', () => {
  it('serves a database with a configuration file, and ends cleanly on SIGTERM', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'ephoros-'));
    const file = join(folder, 'own.yaml');
    writeFileSync(file, 'tables: { boats: { title: Vessels } }\npublish: listed\n');
    const {
      child,
      ended,
      printed: describe,
    } = start(['serve', '--database', lowmere, '--config', file, '--port', '0']);
    const [, url = ''] = await describe(/^(http:\/\/127\.0\.0\.1:\d+)$/m);
    const list = (await (await fetch(`${url}/api/tables`)).json()) as {
      tables: { title: string }[];
    };
    expect(list.tables.map(({ title }) => title)).toEqual(['Vessels']);
    const page = await fetch(url);
    expect(page.headers.get('content-type')).toContain('text/html');
    child.kill('SIGTERM');
    const { code, stdout } = await ended;
    expect(code).toBe(0);
    // One log line for each request, each with its id.
    const lines = stdout
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { req: { id: string; path: string } });
    expect(lines.map(({ req }) => req.path)).toEqual(['/api/tables', '/']);
    rmSync(folder, { recursive: true });
  });

  it('puts new workers in the place of the old ones, and refuses no request meanwhile', async () => {
    const serving = start([
      ...['serve', '--database', lowmere, '--port', '0', '--metrics', '127.0.0.1:0'],
      ...['--workers', '2', '--connections', '6', '--log-level', 'info'],
    ]);
    const [, url = ''] = await serving.printed(/^(http:\/\/\S+)$/m);
    const before = new Set(workersOf(serving.child.pid));
    expect(before.size).toBe(2);
    let options = true;
    const wrong: string[] = [];
    let answered = 0;
    const request = async (): Promise<void> => {
      while (options) {
        try {
          const response = await fetch(`${url}/api/tables/boats/rows?limit=1&total=none`);
          await response.text();
          if (response.status === 200) answered += 1;
          else wrong.push(String(response.status));
        } catch (thrown) {
          wrong.push(String((thrown as { cause?: unknown }).cause ?? thrown));
        }
      }
    };
    const pending = Array.from({ length: 4 }, request);
    serving.child.kill('SIGUSR2');
    await serving.printed(/All workers are new ones/);
    const after = workersOf(serving.child.pid);
    options = false;
    await Promise.all(pending);
    expect(wrong).toEqual([]);
    expect(answered).toBeGreaterThan(10);
    expect(after).toHaveLength(2);
    expect(after.filter((pid) => before.has(pid))).toEqual([]);
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
  });

  it('renews its workers also after a renewal that failed, and has no worker too many', async () => {
    const configuration = join(mkdtempSync(join(tmpdir(), 'ephoros-renewed-')), 'ephoros.yaml');
    writeFileSync(configuration, 'title: Lowmere\n');
    const serving = start([
      ...['serve', '--database', lowmere, '--port', '0', '--config', configuration],
      ...['--workers', '2', '--connections', '6', '--log-level', 'info'],
    ]);
    await serving.printed(/^(http:\/\/\S+)$/m);
    const before = workersOf(serving.child.pid);
    // A new worker cannot read this.
    writeFileSync(configuration, 'nonsense: true\n');
    serving.child.kill('SIGUSR2');
    await serving.printed(/A new worker does not start/);
    expect(workersOf(serving.child.pid)).toEqual(before);
    writeFileSync(configuration, 'title: Lowmere\n');
    serving.child.kill('SIGUSR2');
    await serving.printed(/All workers are new ones/);
    const after = workersOf(serving.child.pid);
    expect(after).toHaveLength(2);
    expect(after.filter((pid) => before.includes(pid))).toEqual([]);
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
  });

  it('says that too few files may be open', () => {
    const { status, stderr } = spawnSync(
      'sh',
      ['-c', `ulimit -n 100; exec "${process.execPath}" packages/cli/bin/ephoros.mjs serve`],
      { encoding: 'utf8' },
    );
    expect([status, stderr]).toEqual([1, expect.stringContaining('only 100 files may be open')]);
  });

  it('serves one port with several workers that remember together, and replaces one that died', async () => {
    const serving = start([
      ...['serve', '--database', lowmere, '--port', '0'],
      ...['--workers', '2', '--connections', '6', '--log-level', 'error'],
    ]);
    const [, url = ''] = await serving.printed(/(http:\/\/\S+)/);
    const send = async (path: string): Promise<any> => {
      // Each request on a connection of its own, so that both workers get some.
      const response = await fetch(url + path, { headers: { Connection: 'close' } });
      const text = await response.text();
      return path.startsWith('/api') ? JSON.parse(text) : text;
    };
    const state = async (): Promise<string> =>
      ((await send('/api/tables/passages/mileposts?sort=-toll')) as { state: string }).state;
    for (let tries = 0; (await state()) !== 'ready'; tries += 1) expect(tries).toBeLessThan(500);
    const deep = '/api/tables/passages/rows?sort=-toll&offset=9000&limit=1&explain=true&total=none';
    const ways = await Promise.all(
      Array.from({ length: 6 }, async () => {
        const { explanation, rows } = (await send(deep)) as {
          explanation: { way: { from: string } };
          rows: { id: string }[];
        };
        return `${explanation.way.from} ${rows[0]?.id}`;
      }),
    );
    expect(new Set(ways).size).toBe(1);
    expect(ways[0]).toMatch(/^milepost \d+/);
    expect(await send('/metrics')).toMatch(/ephoros_connections\{state="open"\} \d+/);

    // A file that one of them writes, both of them know of.
    const ticket = 'both-of-them-know';
    await send(`/api/tables/boats/export?format=json&ticket=${ticket}`);
    const answer = Array.from({ length: 6 }, () => send(`/api/exports/${ticket}`));
    for (const one of await Promise.all(answer)) expect(one).toMatchObject({ state: 'done' });

    const workers = workersOf(serving.child.pid);
    expect(workers).toHaveLength(2);
    process.kill(workers[0] ?? 0, 'SIGKILL');
    await serving.printed(/A worker has died/);
    for (let n = 0; n < 4; n += 1) expect((await send('/health')) as string).toContain('alive');
    for (let tries = 0; workersOf(serving.child.pid).length < 2; tries += 1) {
      expect(tries).toBeLessThan(400);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
    expect(workers.filter((pid) => existsSync(`/proc/${pid}`))).toEqual([]);
  });

  it('reports every error of the file with its line, and a taken port', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'ephoros-'));
    const file = join(folder, 'own.yaml');
    writeFileSync(file, 'tables:\n  boats: { titel: X }\n  ships: {}\n');
    const wrong = await start(['serve', '--database', lowmere, '--config', file, '--port', '0'])
      .ended;
    expect(wrong.code).toBe(2);
    expect(wrong.stderr).toContain(`${file}:2:12: unknown setting titel in tables.boats`);
    const missing = await start([
      'serve',
      '--database',
      lowmere,
      '--config',
      join(folder, 'no.yaml'),
    ]).ended;
    expect(missing.code).toBe(2);
    rmSync(folder, { recursive: true });

    const { server, port } = await occupy();
    const taken = await start(['serve', '--database', lowmere, '--port', String(port)]).ended;
    expect(taken.code).toBe(2);
    expect(taken.stderr).toContain(`Port ${port} on 127.0.0.1 is taken.`);
    server.close();
  });
});

describe('ephoros demo', () => {
  // Where PostgreSQL's own user can reach it, wherever the project lies.
  const folder = join(tmpdir(), `ephoros-demo-${process.pid}`);
  const args = ['demo', '--passages', '300', '--folder', folder, '--port', '0'];
  let port = 0;

  beforeAll(async () => {
    rmSync(folder, { recursive: true, force: true });
    // One that was free a moment ago, whatever else is tested on this machine.
    const free = await occupy();
    free.server.close();
    port = free.port;
    args.push('--postgres-port', String(port));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  async function stopped({ child, ended }: Started, signal: NodeJS.Signals): Promise<Ended> {
    child.kill(signal);
    return ended;
  }

  it('begins again over what an earlier start left half made, and stops all it started', async () => {
    mkdirSync(join(folder, 'data', 'base'), { recursive: true });
    const demo = start(args);
    const [, url = ''] = await demo.printed(/open: (\S+)/);
    const rows = (await (await fetch(`${url}/api/tables/passages/rows?limit=1`)).json()) as {
      window: { total: number };
    };
    expect(rows.window.total).toBe(300);
    const boat = (await (await fetch(`${url}/api/tables/boats/rows?limit=1`)).json()) as {
      rows: { picture: string }[];
    };
    const picture = await fetch(url + (boat.rows[0]?.picture ?? ''));
    expect(picture.headers.get('content-type')).toContain('image/svg+xml');
    const { code, stderr } = await stopped(demo, 'SIGINT');
    expect(code).toBe(0);
    expect(stderr).toContain('A half-made PostgreSQL cluster is removed');
    expect(stderr).toContain('passages: 300 of 300');
    expect(existsSync(join(folder, 'data', 'postmaster.pid'))).toBe(false);
  });

  it('finds its data again, and another port where its own is taken', async () => {
    const { server } = await occupy(port);
    const demo = start(args);
    await demo.printed(/open: /);
    const { code, stderr } = await stopped(demo, 'SIGTERM');
    expect(code).toBe(0);
    expect(stderr).toMatch(new RegExp(`Port ${port} is taken; PostgreSQL uses \\d+`));
    expect(stderr).toContain('The demo data is there already');
    server.close();
  });

  it('stops PostgreSQL when it is stopped in the middle of its preparations', async () => {
    const demo = start([...args, '--passages', '3000000']);
    await demo.printed(/passages: 0 of/);
    const { code } = await stopped(demo, 'SIGTERM');
    expect(code).toBe(0);
    expect(existsSync(join(folder, 'data', 'postmaster.pid'))).toBe(false);
    const again = start(args);
    await again.printed(/open: /);
    expect((await stopped(again, 'SIGTERM')).stderr).toContain('passages: 300 of 300');
  });
});
