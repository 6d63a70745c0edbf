import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { gate, shutGate } from '../testing/gate.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';
import { runningLike } from '../testing/watching.ts';

describe('many requests at once', () => {
  let service: TestService;
  let url: string;
  let watcher: pg.Client;
  let drop: () => Promise<void>;

  beforeAll(async () => {
    const fresh = await freshDatabase('ephoros_crowd', [
      `create function nap() returns int language sql as $$ select 1 from ${gate} $$`,
      'create view tired as select nap() as a',
      'create table quick (id int primary key)',
      'insert into quick values (1)',
    ]);
    ({ url, drop } = fresh);
    // Two connections are for counting and for the planner, three for rows; of those one table
    // takes two.
    service = await startService(url, '', {
      connections: 5,
      queue: 4,
      // However busy the machine is, nothing is passed over.
      deferAfter: 60_000,
    });
    watcher = new pg.Client({ connectionString: url });
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
    const open = await shutGate(url);
    const pending = Array.from({ length: 6 }, () => tired(1));
    const running = (): Promise<number> => runningLike(watcher, '"tired"');
    await until(running, (count) => count > 0);
    // All of them have come by the time that a later one is answered.
    await service.get(rowsPath('quick'));
    expect(await running()).toBe(1);
    await open();
    const answers = await Promise.all(pending);
    expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200, 200, 200]);
  });

  it('are refused at once where too many wait, and one slow table leaves the others alone', async () => {
    const open = await shutGate(url);
    const slow = [1, 2, 3, 4, 5].map(tired);
    // Two run, three wait: there is no room for more of that table.
    await until(
      () => service.get('/metrics'),
      ({ body }) => String(body).includes('ephoros_connections{state="awaited"} 3'),
    );
    const refused = await tired(6);
    expect(refused.status).toBe(503);
    expect(refused.headers.get('retry-after')).toBe('1');
    expect(refused.body.type).toBe('urn:ephoros:problem:service-busy');
    const quick = await service.get(rowsPath('quick'));
    expect(quick.status).toBe(200);
    await open();
    const answers = await Promise.all(slow);
    expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200, 200]);
  });
});
