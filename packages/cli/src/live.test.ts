import pg from 'pg';
import { freshDatabase } from '../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { start, type Ended } from './testing/command.ts';

let url = '';
let drop: () => Promise<void>;
let service: TestService;
let client: pg.Client;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('cli_live', [
    'create table berths (id int primary key, quay int not null, name text)',
    "insert into berths select i, i % 3, 'Berth ' || i from generate_series(1, 30) i",
    'create view names as select name from berths',
  ]));
  service = await startService(url);
  client = new pg.Client({ connectionString: url });
  await client.connect();
});

afterAll(async () => {
  await service.close();
  await client.end();
  await drop();
});

const run = (...args: readonly string[]): Promise<Ended> =>
  start(args, { EPHOROS_DATABASE: url, EPHOROS_URL: service.url }).ended;

describe('ephoros live', () => {
  it('prints what the owner of a table runs, and then shows which rows others write', async () => {
    const { stdout: add } = await run('live', 'berths', '--sql');
    await client.query(add);
    const watching = start(['live', 'berths', '--filter', 'quay = 1'], {
      EPHOROS_URL: service.url,
    });
    await watching.printed(/Watching, row by row, by triggers\./);
    await client.query("insert into berths values (31, 1, 'new'), (32, 2, 'new')");
    await watching.printed(/^\+ 31$/m);
    await client.query('update berths set name = name where quay = 1 and id < 5');
    await watching.printed(/^~ 1\n~ 4$/m);
    await client.query('delete from berths where id = 31');
    await watching.printed(/^- 31$/m);
    watching.child.kill('SIGINT');
    const { code, stdout } = await watching.ended;
    expect(code).toBe(0);
    expect(stdout).not.toContain('32');

    await client.query((await run('live', 'berths', '--sql', '--drop')).stdout);
    const { rows } = await client.query(
      "select 1 from pg_trigger where tgname like 'ephoros_live%' union all select 1 from pg_proc where proname like 'ephoros_live%'",
    );
    expect(rows).toEqual([]);
  });

  it('prints what has it reported by the log of the server instead', async () => {
    const { stdout: add } = await run('live', 'berths', '--sql', '--log');
    await client.query(add);
    const watching = start(['live', 'berths'], { EPHOROS_URL: service.url });
    await watching.printed(/Watching, row by row, by the log of the server\./);
    await client.query("update berths set name = 'n' where id = 9");
    await watching.printed(/^~ 9$/m);
    await client.query((await run('live', 'berths', '--sql', '--log', '--drop')).stdout);
    await watching.printed(/Watching by counters/);
    watching.child.kill('SIGINT');
    expect((await watching.ended).code).toBe(0);
  });

  it('goes on over a service that was away, and reports it', async () => {
    const other = await startService(url);
    const { port } = new URL(other.url);
    const watching = start(['live', 'berths', '--json'], { EPHOROS_URL: other.url });
    await watching.printed(/\{"event":"grade","grade":"counters"\}/);
    await other.close();
    await watching.printed(/Trying again/);
    const back = await startService(url, '', { port: Number(port) });
    await watching.printed(/\{"event":"written"\}/);
    watching.child.kill('SIGINT');
    expect((await watching.ended).code).toBe(0);
    await back.close();
  });

  it('says what cannot be watched', async () => {
    const wrong = await run('live', 'berths', '--filter', 'quai = 1');
    expect([wrong.code, wrong.stderr]).toEqual([3, expect.stringContaining('Did you mean quay?')]);
    expect((await run('live', 'berth')).code).toBe(3);
    const nothing = await run('live', 'berth', '--sql');
    expect([nothing.code, nothing.stderr]).toEqual([
      2,
      'ephoros: no table is published as berth\n',
    ]);
    const useless = await run('live', 'berths', '--log');
    expect([useless.code, useless.stderr]).toEqual([2, expect.stringContaining('are for --sql')]);
    const view = await run('live', 'names', '--sql');
    expect([view.code, view.stderr]).toEqual([
      2,
      expect.stringContaining('is a view, or has no key'),
    ]);
  });
});
