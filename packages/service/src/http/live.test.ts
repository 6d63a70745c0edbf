import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { liveTriggersOf as triggersOf } from '@ephoros/core/sql';
import { Records, Tokens } from '../records/index.ts';
import { Listener } from '../testing/listener.ts';
import { startService, type TestService } from '../testing/service.ts';

let url = '';
let drop: () => Promise<void>;
let service: TestService;
let client: pg.Client;
let records: Records;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('live', [
    'create table berths (id int primary key, quay int not null, name text not null, fee int)',
    "insert into berths select i, i % 3, 'Berth ' || i, i from generate_series(1, 3000) i",
    'create table plain (id int primary key, name text)',
    "insert into plain select i, 'n' from generate_series(1, 10) i",
    `create table "odd names" ("a ""key" text, "when" timestamptz, bytes bytea, note text, primary key ("a ""key", "when", bytes))`,
  ]));
  service = await startService(url);
  const catalog = await service.get('/api/tables');
  expect(catalog.status).toBe(200);
  client = new pg.Client({ connectionString: url });
  await client.connect();
  const described = { key: ['id'] } as never;
  await client.query(triggersOf(described, { schema: 'public', name: 'berths' }).add);
  const odd = { key: ['a "key', 'when', 'bytes'] } as never;
  await client.query(triggersOf(odd, { schema: 'public', name: 'odd names' }).add);
  records = new Records(url);
});

afterAll(async () => {
  await service.close();
  await client.end();
  await records.close();
  await drop();
});

describe('what others write', () => {
  it('is reported by keys where the table has the triggers: what was added, changed, removed', async () => {
    const listener = await Listener.to(service, 'berths/live?filter=quay = 1');
    expect(listener.reported[0]).toEqual({ event: 'grade', data: { grade: 'triggers' } });
    await client.query("insert into berths values (5001, 1, 'new', 5), (5002, 2, 'new', 5)");
    await client.query('update berths set fee = fee + 1 where id in (1, 2, 4)');
    await client.query('update berths set quay = 2 where id = 7');
    await client.query('update berths set quay = 1 where id = 8');
    await client.query('delete from berths where id = 10');
    await listener.hears('changed', ({ removed }) => JSON.stringify(removed).includes('"10"'));
    const all = (part: string): string[] =>
      listener.changes.flatMap((one) => one[part].map((key: string[]) => key.join())).sort();
    expect(all('added')).toEqual(['5001']);
    expect(all('changed')).toEqual(['1', '4', '8']);
    // Rows of another quay are none of the question: those that are gone may have been.
    expect(all('removed')).toEqual(expect.arrayContaining(['10', '7']));
    listener.leave();
  });

  it('is reported within a second, to many at once, and once for each batch', async () => {
    const listeners = await Promise.all(
      Array.from({ length: 40 }, (_none, index) =>
        Listener.to(service, `berths/live?filter=quay = ${index % 3}`),
      ),
    );
    const began = Date.now();
    for (let id = 100; id < 200; id += 1) {
      await client.query('update berths set fee = fee + 1 where id = $1', [id]);
    }
    const wrote = Date.now() - began;
    await Promise.all(
      listeners.map((listener, index) =>
        listener.hears('changed', ({ changed }) =>
          changed.some(([id]: string[]) => Number(id) >= 197 && Number(id) % 3 === index % 3),
        ),
      ),
    );
    expect(Date.now() - began - wrote).toBeLessThan(5_000);
    for (const listener of listeners) {
      expect(listener.changes.length).toBeLessThanOrEqual(Math.ceil(wrote / 400) + 2);
      listener.leave();
    }
  });

  it('is reported as a whole where it is too much, and by counters where there are no triggers', async () => {
    const listener = await Listener.to(service, 'berths/live');
    await client.query('update berths set fee = fee + 1');
    await listener.hears('written');
    listener.leave();

    const plain = await Listener.to(service, 'plain/live');
    expect(plain.reported[0]).toEqual({ event: 'grade', data: { grade: 'counters' } });
    await client.query("update plain set name = 'm' where id = 3");
    await plain.hears('written');
    // The triggers are found when they come, and missed when they go.
    const { add, drop: undo } = triggersOf({ key: ['id'] } as never, {
      schema: 'public',
      name: 'plain',
    });
    await client.query(add);
    await plain.hears('grade', ({ grade }) => grade === 'triggers');
    await client.query("update plain set id = 33, name = 'o' where id = 3");
    const { changed, removed } = await plain.hears('changed');
    expect([changed, removed]).toEqual([[['33']], [['3']]]);
    const changedCount = (): number =>
      plain.reported.filter(({ event }) => event === 'written').length;
    const before = changedCount();
    await client.query('truncate plain');
    await until(
      () => Promise.resolve(changedCount()),
      (now) => now > before,
    );
    await client.query(undo);
    await until(
      () => Promise.resolve(plain.reported.filter(({ event }) => event === 'grade').length),
      (grades) => grades === 3,
    );
    plain.leave();
  });

  it('has keys as addresses have them, whatever the session that writes is set to', async () => {
    const listener = await Listener.to(service, `${encodeURIComponent('odd names')}/live`);
    await client.query("set timezone = 'Asia/Tokyo'; set datestyle = 'German'");
    await client.query(
      `insert into "odd names" values ('x,''"/', timestamptz '2024-03-01 12:00:00+00', '\\x00ff', 'n')`,
    );
    await client.query('reset timezone; reset datestyle');
    const { added } = await listener.hears('changed');
    expect(added).toHaveLength(1);
    const address = added[0].map(encodeURIComponent).join(',');
    const row = await service.get(`/api/tables/${encodeURIComponent('odd names')}/rows/${address}`);
    expect([row.status, row.body.row?.note]).toEqual([200, 'n']);
    listener.leave();
  });

  it('is reported to nobody who may not see it, and to nobody who is not known any more', async () => {
    const own = await startService(
      url,
      `signIn: [{ kind: tokens }]
roles:
  north: { tables: { berths: { rows: "quay = 1", hidden: [fee] } } }
  all: { tables: all }`,
      { records: url },
    );
    const tokens = new Tokens(records);
    const { text, token } = await tokens.add({ name: 'ann', roles: ['north'] });
    const other = await tokens.add({ name: 'bob', roles: ['all'] });
    const as = (one: string): Record<string, string> => ({ Authorization: `Bearer ${one}` });
    expect((await Listener.to(own, 'berths/live')).status).toBe(401);
    expect((await Listener.to(own, 'plain/live', as(text))).status).toBe(404);
    expect((await Listener.to(own, 'berths/live?filter=fee = 1', as(text))).status).toBe(400);
    const listener = await Listener.to(own, 'berths/live', as(text));
    const sees = await Listener.to(own, 'berths/live', as(other.text));
    await client.query('update berths set name = name where id in (20, 21, 22)');
    await client.query('update berths set quay = 2 where id = 25');
    await client.query('delete from berths where id in (30, 31)');
    await client.query('update berths set name = name where id = 28');
    await sees.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"28"'));
    await listener.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"28"'));
    const reported = new Set(
      listener.changes.flatMap(({ added, changed, removed }) =>
        [...added, ...changed, ...removed].map((key: string[]) => Number(key[0])),
      ),
    );
    // Nothing of rows out of sight, not even that they are gone.
    expect([...reported].sort()).toEqual([22, 28]);
    await tokens.revoke(token.id);
    await until(() => Promise.resolve(listener.ended), Boolean);
    expect(sees.ended).toBe(false);
    const leaving = own.close();
    await until(() => Promise.resolve(sees.ended), Boolean);
    await leaving;
  });

  it('goes on behind a connection that broke, and says that something may have been missed', async () => {
    const listener = await Listener.to(service, 'berths/live');
    await client.query(
      "select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'ephoros live' and datname = current_database()",
    );
    await listener.hears('written');
    // Until it is connected again it is reported in another way.
    await until(async () => {
      await client.query('update berths set fee = fee + 1 where id = 77');
      return JSON.stringify(listener.changes).includes('"77"');
    }, Boolean);
    listener.leave();
    // Nobody watches any more: nothing listens.
    await until(
      async () =>
        (
          await client.query(
            "select 1 from pg_stat_activity where application_name = 'ephoros live' and datname = current_database()",
          )
        ).rowCount,
      (count) => count === 0,
    );
  });
});
