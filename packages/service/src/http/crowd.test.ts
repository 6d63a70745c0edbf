import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

describe('many requests at once', () => {
  let service: TestService;
  let watcher: pg.Client;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const fresh = await freshDatabase('ephoros_crowd', [
      'create function nap() returns int language sql as $$ select 1 from pg_sleep(1.5) $$',
      'create view tired as select nap() as a',
      'create table quick (id int primary key)',
      'insert into quick values (1)',
    ]);
    ({ drop } = fresh);
    // Two connections are for counting and for the planner, three for rows; of those one table
    // takes two.
    service = await startService(fresh.url, '', {
      connections: 5,
      queue: 4,
      // However busy the machine is, nothing is handed over.
      patience: 60_000,
    });
    watcher = new pg.Client({ connectionString: fresh.url });
    await watcher.connect();
    // The catalog is read.
    await service.get(rowsPath('quick'));
  });

  afterAll(async () => {
    await watcher.end();
    await service.close();
    await drop();
  });

  const tired = (limit: number): ReturnType<TestService['get']> =>
    service.get(rowsPath('tired', { total: 'none', limit: String(limit) }));

  it('share the statement where they are the same', async () => {
    const asked = Array.from({ length: 6 }, () => tired(1));
    let most = 0;
    let answered = false;
    const all = Promise.all(asked).finally(() => {
      answered = true;
    });
    const asking = (): boolean => !answered;
    while (asking()) {
      const { rows } = await watcher.query<{ n: number }>(
        `select count(*)::int as n from pg_stat_activity where datname = current_database() and state = 'active' and query like '%"tired"%' and pid <> pg_backend_pid()`,
      );
      most = Math.max(most, rows[0]?.n ?? 0);
    }
    expect(most).toBe(1);
    const answers = await all;
    expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200, 200, 200]);
  });

  it('are refused at once where too many wait, and one slow table leaves the others alone', async () => {
    const slow = [1, 2, 3, 4, 5].map(tired);
    let answered = false;
    void Promise.race(slow).then(() => (answered = true));
    // Two run, three wait: there is no room for more of that table.
    await until(
      () => service.get('/metrics'),
      ({ body }) => String(body).includes('ephoros_connections{state="awaited"} 3'),
    );
    const refused = await tired(6);
    expect(refused.status).toBe(503);
    expect(refused.headers.get('retry-after')).toBe('1');
    expect(refused.body.type).toBe('urn:ephoros:problem:service-full');
    const quick = await service.get(rowsPath('quick'));
    expect(quick.status).toBe(200);
    expect(answered).toBe(false);
    const answers = await Promise.all(slow);
    expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200, 200]);
  });
});
