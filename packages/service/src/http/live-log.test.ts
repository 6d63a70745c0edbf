import pg from 'pg';
import { livePublicationOf } from '@ephoros/core/sql';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { Records, Tokens } from '../records/index.ts';
import { Listener } from '../testing/listener.ts';
import { startService, type TestService } from '../testing/service.ts';

let url = '';
let drop: () => Promise<void>;
let service: TestService;
let client: pg.Client;

/** A row with a value of every kind, and one that no question is about. */
const fillKinds = `insert into kinds values (1, 9223372036854775807, 12345678901234567890.123456789, true, E'a "b" ''c''',
  '2024-02-29 23:59:59.123456+00', '0001-01-01', 'open', 'Z', '8c9f6f0e-0000-4000-8000-000000000001', 'null',
  '{a,NULL,"b c"}', '[1,5)', '\\x00ff', null), (2, 1, 1, false, 'n', now(), now(), 'shut', 'Y', null, null, null, null, null, 1)`;

const publicationOf = (name: string): ReturnType<typeof livePublicationOf> =>
  livePublicationOf({ schema: 'public', name });

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('live_log', [
    'create table quays (id int primary key, name text)',
    "insert into quays values (0, 'East'), (1, 'North'), (2, 'West')",
    'create table berths (id int primary key, quay int not null, name text not null, fee int, quay_of_id int references quays)',
    "insert into berths select i, i % 3, 'Berth ' || i, i, i % 3 from generate_series(1, 3000) i",
    'create table whole (id int primary key, quay int, marks jsonb, tags text[], "odd ""name" text)',
    `insert into whole select i, i % 3, '{"a": [1, null]}', '{x,"y z",NULL}', 'n' from generate_series(1, 30) i`,
    'create table other (id int not null unique, name text)',
    "insert into other select i, 'n' from generate_series(1, 10) i",
    `create table "odd names" ("a ""key" text, "when" timestamptz, bytes bytea, note text, primary key ("a ""key", "when", bytes))`,
    'create table parted (id int, year int, name text, primary key (id, year)) partition by list (year)',
    'create table parted_1 partition of parted for values in (2024)',
    'create table parted_2 partition of parted for values in (2025)',
    "create type state as enum ('open', 'shut')",
    "create domain code as text check (value ~ '^[A-Z]$')",
    'create table kinds (id int primary key, big bigint, exact numeric, flag bool, name text, at timestamptz, day date, state state, code code, id_of uuid, marks jsonb, tags text[], span int4range, bytes bytea, gone int)',
    fillKinds,
    "insert into parted values (1, 2024, 'n'), (2, 2025, 'n')",
  ]));
  client = new pg.Client({ connectionString: url });
  await client.connect();
  for (const table of ['berths', 'whole', 'other', 'odd names', 'parted', 'kinds']) {
    await client.query(publicationOf(table).add);
  }
  // Run again it finds all as it is.
  await client.query(publicationOf('berths').add);
  await client.query(
    'alter table whole replica identity full; alter table kinds replica identity full',
  );
  service = await startService(url);
});

afterAll(async () => {
  await service.close();
  await client.end();
  await drop();
});

const of = (listener: Listener, part: string): string[] =>
  listener.changes.flatMap((one) => one[part].map((key: string[]) => key.join())).sort();

describe('what others write, by the log', () => {
  it('is reported by keys: what was added, changed, removed, also under another key', async () => {
    const listener = await Listener.to(service, 'berths/live?filter=quay = 1');
    expect(listener.reported[0]).toEqual({ event: 'grade', data: { grade: 'log' } });
    await client.query("insert into berths values (5001, 1, 'new', 5), (5002, 2, 'new', 5)");
    await client.query('begin; update berths set fee = 0 where id = 13; rollback');
    await client.query('update berths set fee = fee + 1 where id in (1, 2, 4)');
    await client.query('update berths set quay = 1 where id = 8');
    await client.query('update berths set id = 5004 where id = 16');
    await client.query('delete from berths where id = 10');
    await listener.hears('changed', ({ removed }) => JSON.stringify(removed).includes('"10"'));
    expect(of(listener, 'added')).toEqual(['5001', '5004']);
    expect(of(listener, 'changed')).toEqual(['1', '4', '8']);
    expect(of(listener, 'removed')).toEqual(expect.arrayContaining(['10', '16']));
    listener.leave();
  });

  it('is exact where the log has whole rows: what came into the question, and what left it', async () => {
    const listener = await Listener.to(service, 'whole/live?filter=quay = 1');
    await client.query('update whole set quay = 2 where id in (1, 3)');
    await client.query('update whole set quay = 1 where id = 2');
    await client.query(`update whole set marks = '[]', "odd ""name" = null where id in (4, 5)`);
    await client.query('delete from whole where id in (7, 8, 9)');
    await listener.hears('changed', ({ removed }) => JSON.stringify(removed).includes('"7"'));
    expect(of(listener, 'added')).toEqual(['2']);
    expect(of(listener, 'changed')).toEqual(['4']);
    expect(of(listener, 'removed')).toEqual(['1', '7']);
    listener.leave();
  });

  it.each([
    'big = 9223372036854775807',
    "exact = 12345678901234567890.123456789 AND flag = true AND name = 'a \"b\" ''c'''",
    "at = TIMESTAMP('2024-02-29T23:59:59.123456Z') AND day = DATE('0001-01-01')",
    "state = 'open' AND code = 'Z' AND id_of = '8c9f6f0e-0000-4000-8000-000000000001'",
    'marks IS NOT NULL AND tags IS NOT NULL AND span IS NOT NULL AND bytes IS NOT NULL AND gone IS NULL',
  ])('knows rows as they were by values of every kind: %s', async (filter) => {
    const query = `kinds/live?filter=${encodeURIComponent(filter)}`;
    const listener = await Listener.to(service, query);
    expect(listener.reported[0]?.data).toEqual({ grade: 'log' });
    const all =
      "big = 0, exact = 0, flag = false, at = now(), day = now(), state = 'shut', code = 'Y', id_of = null, marks = null, tags = null, gone = 1";
    await client.query(`begin; update kinds set ${all}; delete from kinds where id = 2; commit`);
    await listener.hears('changed', ({ removed }) => JSON.stringify(removed).includes('"1"'));
    expect(of(listener, 'removed')).toEqual(['1']);
    listener.leave();
    await client.query('truncate kinds');
    await client.query(fillKinds);
  });

  it('says which rows leave the sight of callers with rules, and nothing of those out of sight', async () => {
    const own = await startService(
      url,
      `signIn: [{ kind: tokens }]
roles:
  north: { tables: { whole: { rows: "quay = 1 and id > 12" }, berths: { rows: "quay = 1" } } }`,
      { records: url },
    );
    const records = new Records(url);
    const { text } = await new Tokens(records).add({ name: 'ann', roles: ['north'] });
    await records.close();
    const as = { Authorization: `Bearer ${text}` };
    const listener = await Listener.to(own, 'whole/live', as);
    const keys = await Listener.to(own, 'berths/live', as);
    await client.query('update whole set quay = 2 where id in (13, 14, 15)');
    await client.query('update whole set quay = 1 where id in (17, 18)');
    await client.query('delete from whole where id in (10, 16, 20, 21)');
    await client.query('update whole set tags = tags where id in (11, 19, 22)');
    await client.query('update berths set quay = 2 where id = 31');
    await client.query('update berths set fee = 0 where id = 34');
    await listener.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"22"'));
    expect(of(listener, 'added')).toEqual(['17', '18']);
    expect(of(listener, 'removed')).toEqual(['13', '16']);
    expect(of(listener, 'changed')).toEqual(['19', '22']);
    // With keys alone in the log nobody knows whether it was read.
    await keys.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"34"'));
    expect(of(keys, 'removed')).toEqual([]);
    await own.close();
  });

  it('says nothing to callers with rules of what is hidden from them, by keys, events or marks', async () => {
    await client.query(
      "insert into whole select i, 1, '{}', '{}' from generate_series(401, 407) i",
    );
    const own = await startService(
      url,
      `signIn: [{ kind: tokens }]
roles:
  north: { tables: { whole: { rows: "quay = 1", hidden: [marks] }, quays: { rows: "id = 1" } } }
  all: { tables: all }`,
      { records: url },
    );
    const records = new Records(url);
    const tokens = new Tokens(records);
    const { text } = await tokens.add({ name: 'eve', roles: ['north'] });
    const other = await tokens.add({ name: 'bob', roles: ['all'] });
    await records.close();
    const as = { Authorization: `Bearer ${text}` };
    const all = { Authorization: `Bearer ${other.text}` };
    const sees = await Listener.to(own, 'whole/live', all);
    const counts = await Listener.to(own, 'quays/live', all);
    const listener = await Listener.to(own, 'whole/live', as);
    // Without a publication and triggers: by counters, which count every row.
    const counters = await Listener.to(own, 'quays/live', as);
    await counters.hears('grade');
    const mark = async (): Promise<unknown> =>
      (await own.get('/api/tables/quays/written', as)).body.mark;
    expect(await mark()).toBeNull();
    await client.query('update quays set name = name where id <> 1');
    await client.query(`update whole set marks = '{"b": 2}' where id in (404, 407)`);
    // Others are notified of all of it.
    await sees.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"407"'));
    await client.query('insert into whole select i, 2 from generate_series(5000, 6500) i');
    await sees.hears('written');
    await counts.hears('written');
    await client.query(`update whole set tags = '{seen}' where id = 401`);
    await listener.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"401"'));
    expect(['added', 'changed', 'removed'].map((part) => of(listener, part))).toEqual([
      [],
      ['401'],
      [],
    ]);
    for (const one of [listener, counters]) {
      expect(one.reported.filter(({ event }) => event === 'written')).toEqual([]);
    }
    expect(await mark()).toBeNull();
    await client.query('delete from whole where id >= 5000');
    await own.close();
  });

  it('notifies callers with several roles of the rows that any of them shows', async () => {
    await client.query(
      "insert into whole select 600 + i, i, '{}', '{}' from generate_series(0, 2) i",
    );
    const own = await startService(
      url,
      `signIn: [{ kind: tokens }]
roles:
  north: { tables: { whole: { rows: "quay = 1" } } }
  west: { tables: { whole: { rows: "quay = {claims.quay}", hidden: [marks] } } }`,
      { records: url },
    );
    const records = new Records(url);
    const tokens = new Tokens(records);
    const claims = { quay: 2 };
    const both = await tokens.add({ name: 'both', roles: ['north', 'west'], claims });
    const one = await tokens.add({ name: 'one', roles: ['north', 'west'] });
    await records.close();
    const as = (text: string): Record<string, string> => ({ Authorization: `Bearer ${text}` });
    const sees = await Listener.to(own, 'whole/live', as(both.text));
    // Without the claim the second role shows nothing of the table.
    const less = await Listener.to(own, 'whole/live', as(one.text));
    await client.query(`update whole set tags = '{x}' where id in (600, 601, 602)`);
    const hasAll = ({ changed }: any): boolean => JSON.stringify(changed).includes('"602"');
    await sees.hears('changed', hasAll);
    await client.query(`update whole set tags = '{y}' where id = 601`);
    await until(
      () => Promise.resolve(of(less, 'changed')),
      (keys) => keys.length > 1,
    );
    expect([...new Set(of(sees, 'changed'))]).toEqual(['601', '602']);
    expect([...new Set(of(less, 'changed'))]).toEqual(['601']);
    await own.close();
  });

  it('has keys as addresses have them, of partitions by their table, and of tables without a primary key', async () => {
    const odd = await Listener.to(service, `${encodeURIComponent('odd names')}/live`);
    await client.query("set timezone = 'Asia/Tokyo'; set datestyle = 'German'");
    await client.query(
      `insert into "odd names" values ('x,''"/', timestamptz '2024-03-01 12:00:00.123456+00', '\\x00ff', 'n')`,
    );
    await client.query('reset timezone; reset datestyle');
    const { added } = await odd.hears('changed');
    const address = added[0].map(encodeURIComponent).join(',');
    const row = await service.get(`/api/tables/${encodeURIComponent('odd names')}/rows/${address}`);
    expect([row.status, row.body.row?.note]).toEqual([200, 'n']);
    odd.leave();

    const parted = await Listener.to(service, 'parted/live');
    expect(parted.reported[0]?.data).toEqual({ grade: 'log' });
    await client.query('update parted set year = 2024 where id = 2');
    await client.query("update parted set name = 'm' where id = 1");
    await parted.hears('changed', ({ changed }) => JSON.stringify(changed).includes('"1"'));
    expect(of(parted, 'added')).toEqual(['2,2024']);
    expect(of(parted, 'removed')).toEqual(['2,2025']);
    parted.leave();

    const other = await Listener.to(service, 'other/live');
    await client.query("update other set name = 'm' where id = 3");
    expect((await other.hears('changed')).changed).toEqual([['3']]);
    other.leave();
  });

  it('is reported as a whole where it is too much, or a table is emptied', async () => {
    const listener = await Listener.to(service, 'berths/live');
    await client.query('update berths set fee = fee + 1');
    await listener.hears('written');
    const changedCount = (): number =>
      listener.reported.filter(({ event }) => event === 'written').length;
    const before = changedCount();
    await client.query('truncate berths');
    await until(
      () => Promise.resolve(changedCount()),
      (now) => now > before,
    );
    listener.leave();
  });

  it('keeps nobody waiting while the log cannot be followed yet: another transaction is open', async () => {
    const other = new pg.Client({ connectionString: url });
    await other.connect();
    await other.query("begin; insert into other values (4001, 'n')");
    const own = await startService(url);
    const listener = await Listener.to(own, 'other/live');
    expect(listener.reported[0]?.data).toEqual({ grade: 'counters' });
    await client.query("update other set name = 'm' where id = 5");
    await listener.hears('written');
    // Nobody waits for it any more: it is given up.
    listener.leave();
    const again = await Listener.to(own, 'other/live');
    await other.query('commit');
    await again.hears('grade', ({ grade }) => grade === 'log');
    await client.query("update other set name = 'm' where id = 6");
    expect((await again.hears('changed')).changed).toEqual([['6']]);
    again.leave();
    await other.end();
    await own.close();
  });

  it('reports of related tables too that something was written', async () => {
    const own = `berths/live?filter=${encodeURIComponent("quay_of.name = 'North'")}`;
    const listener = await Listener.to(service, own);
    expect(listener.reported[0]?.data).toEqual({ grade: 'log' });
    const plain = await Listener.to(service, 'berths/live?filter=quay = 1');
    await client.query("update quays set name = 'South' where id = 1");
    await listener.hears('written');
    expect(plain.reported.filter(({ event }) => event === 'written')).toEqual([]);
    listener.leave();
    plain.leave();
  });

  it('goes on behind a connection that broke, is reported otherwise without it, and keeps no log for nobody', async () => {
    const listener = await Listener.to(service, 'whole/live');
    await client.query(
      "select pg_terminate_backend(pid) from pg_stat_activity where application_name = 'ephoros live' and backend_type = 'walsender' and datname = current_database()",
    );
    await listener.hears('written');
    // Until it is connected again it is reported in another way.
    await until(async () => {
      await client.query('update whole set quay = quay where id = 24');
      return of(listener, 'changed').includes('24');
    }, Boolean);
    await client.query(publicationOf('whole').drop);
    await listener.hears('grade', ({ grade }) => grade === 'counters');
    await client.query(publicationOf('whole').add);
    await until(
      () =>
        Promise.resolve(listener.reported.filter(({ event }) => event === 'grade').at(-1)?.data),
      (data) => data.grade === 'log',
    );
    listener.leave();
    await until(
      async () =>
        (
          await client.query(
            'select 1 from pg_replication_slots where database = current_database()',
          )
        ).rowCount,
      (count) => count === 0,
    );
  });
});
