import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { gate, shutGate } from '../testing/gate.ts';
import { poll, ready, startService, type TestService } from '../testing/service.ts';

let url: string;
let drop: () => Promise<void>;
let database: pg.Client;
let open: () => Promise<void>;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('ephoros_long_answers', [
    // So that it takes its time, whatever machine this is.
    `create function slowly(n int) returns int language sql volatile cost 1000 as
       $$ select n from ${gate} $$`,
    'create view dawdling as select slowly(n) as a from generate_series(1, 600) n',
  ]));
  database = new pg.Client({ connectionString: url });
  await database.connect();
});

afterAll(async () => {
  await database.end();
  await drop();
});

beforeEach(async () => {
  open = await shutGate(url);
});

afterEach(() => open());

const start = (more: object = {}): Promise<TestService> =>
  startService(url, '', { deferAfter: 60, ...more });
const path = '/api/tables/dawdling/groups?group=a&limit=2';
const running = async (): Promise<number> => {
  const { rows: found } = await database.query<{ n: number }>(
    `select count(*)::int as n from pg_stat_activity where datname = current_database() and state = 'active' and query like '%dawdling%' and query not like 'explain%' and pid <> pg_backend_pid()`,
  );
  return found[0]?.n ?? 0;
};

describe('an answer that takes long', () => {
  it('is made once for all who ask, also in turns, and stored until they come for it', async () => {
    const service = await start();
    const first = await poll(service, path);
    expect([first.status, first.body.status]).toEqual([202, 'running']);
    expect(first.body.progress.share).toBeLessThan(1);
    // The request's own statement has ended by then, and the one for all is under way.
    await until(running, (count) => count === 1);
    let most = 0;
    let turns = 0;
    const watched = until(
      async () => {
        most = Math.max(most, await running());
        // Others have requested in turns by then.
        if ((turns += 1) === 10) await open();
        return poll(service, path);
      },
      ({ status }) => status === 200,
    );
    const others = await Promise.all([watched, ready(service, path), ready(service, path)]);
    expect([most, turns >= 10]).toEqual([1, true]);
    for (const { body } of others) expect(body.groups).toHaveLength(2);
    await service.close();
  });

  it('is given up when nobody asks for it any more', async () => {
    const service = await start({ positionIndex: { interest: 3_000 } });
    expect((await poll(service, path)).status).toBe(202);
    await until(running, (count) => count === 1);
    await until(running, (count) => count === 0);
    await service.close();
  });

  it('has a limit of its own, behind that of what requests wait for', async () => {
    const service = await start({ timeLimit: 2_000, longLimit: 2_500 });
    const { status, body } = await ready(service, path);
    expect([status, body.type]).toEqual([504, 'urn:ephoros:problem:time-limit']);
    await service.close();
  });
});
