import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { gate, shutGate } from '../testing/gate.ts';
import { startService, type TestService } from '../testing/service.ts';

describe('expensive groupings', () => {
  let service: TestService;
  let url: string;
  let watcher: pg.Client;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const fresh = await freshDatabase('ephoros_expensive', [
      // What took long is remembered.
      `create function nap() returns int language sql volatile as $$ select 1 from pg_sleep(0.3), ${gate} $$`,
      'create view tired as select nap() as a',
      'create function long() returns int language sql volatile as $$ select 1 from pg_sleep(20) $$',
      'create view worn as select long() as a',
    ]);
    ({ url, drop } = fresh);
    // However busy the machine is, nothing is passed over.
    service = await startService(url, '', { deferAfter: 60_000 });
    watcher = new pg.Client({ connectionString: url });
    await watcher.connect();
  });

  afterAll(async () => {
    await watcher.end();
    await service.close();
    await drop();
  });

  const running = async (name: string): Promise<number> => {
    const { rows } = await watcher.query<{ n: number }>(
      `select count(*)::int as n from pg_stat_activity where datname = current_database() and state = 'active' and query like $1 and pid <> pg_backend_pid()`,
      [`%"${name}"%`],
    );
    return rows[0]?.n ?? 0;
  };

  it('are run once for all who ask at once, and remembered a while, which is reported', async () => {
    const open = await shutGate(url);
    const request = (): ReturnType<TestService['get']> =>
      service.get('/api/tables/tired/groups?group=a');
    const pending = [request(), request(), request()];
    await until(
      () => running('tired'),
      (count) => count === 1,
    );
    await open();
    const answers = await Promise.all(pending);
    expect(answers.map(({ body }) => body.window.asOf)).toEqual([undefined, undefined, undefined]);
    const later = await request();
    expect(Date.parse(later.body.window.asOf)).toBeLessThanOrEqual(Date.now());
    expect(later.headers.get('age')).toMatch(/^\d$/);
    expect(later.headers.get('server-timing')).toContain('database;dur=0.00');
  });

  it('are stopped at the time limit, and when the caller is gone', async () => {
    const limited = await startService(url, '', { timeLimit: 600, longLimit: 600 });
    const { status, body } = await limited.get('/api/tables/worn/groups?group=a');
    expect(status).toBe(504);
    expect(body.type).toBe('urn:ephoros:problem:time-limit');
    await limited.close();
    const controller = new AbortController();
    const answer = fetch(`${service.url}/api/tables/worn/groups?group=a`, {
      signal: controller.signal,
    });
    await until(
      () => running('worn'),
      (count) => count > 0,
    );
    controller.abort();
    await expect(answer).rejects.toThrow();
    await until(
      () => running('worn'),
      (count) => count === 0,
    );
  });
});
