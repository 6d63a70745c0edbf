import { freshDatabase, perform } from '../../../../demo/src/testing/databases.ts';
import { mistakesIn } from '../testing/editing.ts';
import { sendTo, type Answered } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

let service: TestService;
let url: string;
let drop: () => Promise<void>;

/** Constraints of every kind, some of which wait for the end of the transaction. */
const statements = [
  `create table docks (id int primary key, name text not null unique,
     place int unique, slot int constraint docks_slot unique deferrable,
     kind text check (kind in ('wet', 'dry')))`,
  `create table cranes (id int primary key,
     dock_id int references docks on delete cascade on update cascade,
     spare_dock int references docks on delete set null, load int not null default 1)`,
  `create table hooks (id int primary key, crane_id int not null references cranes on delete cascade)`,
  `create table logs (id int primary key, dock_id int references docks on delete restrict)`,
  `create table tides (id int primary key, during int4range not null,
     exclude using gist (during with &&))`,
  `create table pairs (id int primary key, partner int not null references pairs deferrable initially deferred)`,
  `create table audited (id int primary key, n int)`,
  `create function audited_total() returns trigger language plpgsql as $$ begin
     if (select sum(n) from audited) > 100 then raise exception 'More than 100 in all.'; end if;
     return null; end $$`,
  `create constraint trigger audited_total after insert or update on audited
     deferrable initially deferred for each row execute function audited_total()`,
  `create table amounts (id numeric primary key, note text)`,
  `create table parcels (id uuid primary key, note text)`,
];

const rows = [
  `truncate docks, cranes, hooks, logs, tides, pairs, audited, amounts, parcels`,
  `insert into docks select n, 'D' || n, n, n, 'wet' from generate_series(1, 6) n`,
  `insert into cranes (id, dock_id, spare_dock) values (1, 1, 2), (2, 1, null), (3, 2, 1), (4, 3, 3)`,
  `insert into hooks values (1, 1), (2, 1), (3, 3)`,
  `insert into logs values (1, 4)`,
  `insert into tides values (1, '[1,5)'), (2, '[5,9)')`,
  `insert into pairs values (1, 1)`,
  `insert into audited values (1, 50)`,
  `insert into amounts values (1.10, 'a')`,
  `insert into parcels values ('0f8fad5b-d9cb-469f-a165-70867728950e', 'a')`,
];

const tables = [
  'docks',
  'cranes',
  'hooks',
  'logs',
  'tides',
  'pairs',
  'audited',
  'amounts',
  'parcels',
];
const configuration = `tables:\n${tables
  .map((name) => `  ${name}: { changes: { add: true, change: true, remove: true } }`)
  .join('\n')}`;

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('change_order', statements));
  service = await startService(url, configuration, { changes: url, records: url });
});
beforeEach(() => perform(url, rows));
afterAll(async () => {
  await service.close();
  await drop();
});

const send = (changes: readonly object[], parameters = ''): Promise<Answered> =>
  sendTo('POST', `${service.url}/api/changes${parameters}`, { changes });
const undo = (id: string, parameters = ''): Promise<Answered> =>
  sendTo('POST', `${service.url}/api/changes/${id}/undo${parameters}`, {});
const all = async (table: string): Promise<any[]> =>
  (await service.get(`/api/tables/${table}/rows?sort=id`)).body.rows;
const history = async (path: string): Promise<any[]> =>
  (await service.get(`/api/tables/${path}/history`)).body.entries;

const add = (table: string, values: object, more: object = {}) => ({
  kind: 'add',
  table,
  values,
  ...more,
});
const change = (table: string, id: number | string, values: object, was: object = {}) => ({
  kind: 'change',
  table,
  key: [String(id)],
  was,
  values,
});
const remove = (table: string, id: number | string) => ({
  kind: 'remove',
  table,
  key: [String(id)],
});

describe('the order of the changes of a set', () => {
  it.each<[string, object[]]>([
    [
      'a value is taken before it is given up',
      [change('docks', 1, { name: 'D2' }), change('docks', 2, { name: 'free', kind: 'dry' })],
    ],
    [
      'two rows swap their names',
      [change('docks', 1, { name: 'D2' }), change('docks', 2, { name: 'D1' })],
    ],
    [
      'two rows swap a number that may be null',
      [change('docks', 1, { place: 2 }), change('docks', 2, { place: 1 })],
    ],
    [
      'two rows swap their keys',
      [change('amounts', '1.10', { id: '2' }), add('amounts', { id: '1.10' })],
    ],
    [
      'three rows change names around, and two others swap',
      [
        change('docks', 1, { name: 'D2' }, { name: 'D1' }),
        change('docks', 2, { name: 'D3' }),
        change('docks', 3, { name: 'D1' }),
        change('docks', 4, { name: 'D5' }),
        change('docks', 5, { name: 'D4' }),
      ],
    ],
    [
      'rows swap by a constraint that can wait',
      [change('docks', 1, { slot: 2 }), change('docks', 2, { slot: 1 })],
    ],
    [
      'ranges change places',
      [change('tides', 1, { during: '[5,9)' }), change('tides', 2, { during: '[1,5)' })],
    ],
    [
      'a new row takes the name of one that goes',
      [add('docks', { id: 9, name: 'D6' }), remove('docks', 6)],
    ],
    ['a row goes before those that refer to it', [remove('docks', 4), remove('logs', 1)]],
    [
      'a row goes before those that refer to it leave',
      [remove('docks', 4), change('logs', 1, { dock_id: 5 })],
    ],
    [
      'a row goes with which another would go that leaves',
      [remove('docks', 3), change('cranes', 4, { dock_id: 5, spare_dock: null })],
    ],
    [
      'a row refers to one that is added after it',
      [add('cranes', { id: 9, dock_id: 9 }), add('docks', { id: 9, name: 'N' })],
    ],
  ])('does not matter: %s', async (_what, changes) => {
    const given = await send(changes);
    expect([given.status, mistakesIn(given)]).toEqual([200, []]);
    expect(given.body.outcomes.map(({ kind }: any) => kind)).toEqual(changes.map(() => 'done'));
    const after = await Promise.all(tables.map(all));
    const undone = await undo(given.body.id);
    expect([undone.status, mistakesIn(undone)]).toEqual([200, []]);
    const before = await Promise.all(tables.map(all));
    await perform(url, rows);
    expect(before).toEqual(await Promise.all(tables.map(all)));
    expect((await send([...changes].reverse())).status).toBe(200);
    expect(await Promise.all(tables.map(all))).toEqual(after);
  });

  it('is named as the reason where there is none that the database takes', async () => {
    const answer = await send([
      change('docks', 1, { name: 'D2' }),
      change('docks', 2, { name: 'D3' }),
      change('docks', 4, { kind: 'dry' }),
    ]);
    expect(answer.status).toBe(422);
    expect(mistakesIn(answer)).toEqual(['0 name value-taken', '1 name value-taken']);
    expect((await all('docks'))[0].name).toBe('D1');
  });
});

describe('rows that follow others', () => {
  it('are counted in a dry run and in the answer, are in the history, and come back', async () => {
    const before = await Promise.all(tables.map(all));
    const dry = await send([remove('docks', 1)], '?dryRun=true');
    const follows = expect.arrayContaining([
      { table: 'hooks', kind: 'remove', count: 2 },
      { table: 'cranes', kind: 'remove', count: 2 },
      { table: 'cranes', kind: 'change', count: 1 },
    ]);
    expect(dry.body.outcomes).toEqual([{ kind: 'done', key: ['1'], row: null, follows }]);
    const removed = await send([remove('docks', 1)]);
    expect(removed.body.outcomes[0].follows).toEqual(dry.body.outcomes[0].follows);
    expect((await history('hooks')).slice(0, 2)).toMatchObject([
      { kind: 'remove', rule: 'delete cascade', before: { crane_id: 1 } },
      { kind: 'remove', rule: 'delete cascade' },
    ]);
    expect((await history('cranes/rows/3'))[0]).toMatchObject({
      kind: 'change',
      rule: 'delete set',
      before: { spare_dock: 1 },
      after: { spare_dock: null },
    });
    const undone = await undo(removed.body.id);
    expect(mistakesIn(undone)).toEqual([]);
    expect(await Promise.all(tables.map(all))).toEqual(before);
    const again = await undo(undone.body.id);
    expect(mistakesIn(again)).toEqual([]);
    expect((await all('cranes')).map(({ id }) => id)).toEqual([3, 4]);
  });

  it('of others are not taken by an undo', async () => {
    const added = await send([add('docks', { id: 9, name: 'N' })]);
    await perform(url, ['insert into cranes (id, dock_id) values (9, 9)']);
    const undone = await undo(added.body.id);
    expect(mistakesIn(undone)).toEqual(['0 undo-affects-others']);
    expect(await all('cranes')).toHaveLength(5);
    await perform(url, ['delete from cranes where id = 9']);
    expect((await undo(added.body.id)).status).toBe(200);
  });

  it('get the new key of the row that they refer to, and the old one again', async () => {
    const before = await Promise.all(tables.map(all));
    const changed = await send([change('docks', 1, { id: 11 })]);
    expect(mistakesIn(changed)).toEqual(['0 still-referenced']);
    await perform(url, ['update cranes set spare_dock = null']);
    const renamed = await send([change('docks', 1, { id: 11 })]);
    expect(renamed.body.outcomes[0].follows).toEqual([
      { table: 'cranes', kind: 'change', count: 2 },
    ]);
    expect((await history('cranes/rows/1'))[0]).toMatchObject({
      rule: 'update cascade',
      before: { dock_id: 1 },
      after: { dock_id: 11 },
    });
    expect(mistakesIn(await undo(renamed.body.id))).toEqual([]);
    expect(await all('docks')).toEqual(before[0]);
    expect((await all('cranes')).map(({ dock_id }) => dock_id)).toEqual([1, 1, 2, 3]);
  });

  it('may be named by the set as well', async () => {
    const removed = await send([remove('docks', 1), remove('cranes', 1), remove('hooks', 2)]);
    expect(removed.body.outcomes.map(({ kind }: any) => kind)).toEqual(['done', 'done', 'done']);
    const lines = await history('cranes/rows/1');
    expect(lines.filter(({ set }) => set === removed.body.id)).toHaveLength(1);
    expect(mistakesIn(await undo(removed.body.id))).toEqual([]);
    expect(await all('hooks')).toHaveLength(3);
  });
});

describe('undo', () => {
  it('does not depend on the order in which a set was sent', async () => {
    const before = await Promise.all(tables.map(all));
    const added = await send([
      add('cranes', { id: 9, dock_id: { ref: 'p' } }),
      add('docks', { id: 9, name: 'N' }, { ref: 'p' }),
    ]);
    expect(mistakesIn(await undo(added.body.id))).toEqual([]);
    expect(await Promise.all(tables.map(all))).toEqual(before);
  });

  it('takes a set back that touches a row twice', async () => {
    const before = await all('docks');
    const set = await send([
      change('docks', 1, { place: 70 }),
      { kind: 'set', table: 'docks', filter: 'id < 3', values: { kind: 'dry' } },
      { kind: 'set', table: 'docks', filter: 'id = 1', values: { kind: null, name: 'X' } },
    ]);
    expect(set.status).toBe(200);
    expect(mistakesIn(await undo(set.body.id))).toEqual([]);
    expect(await all('docks')).toEqual(before);
  });

  it('follows a row to its new key, with its whole history', async () => {
    await perform(url, [`insert into amounts values (7.10, 'a')`]);
    const noted = await send([change('amounts', '7.10', { note: 'b' })]);
    const renamed = await send([change('amounts', '7.10', { id: '2.5' })]);
    await send([change('amounts', '2.5', { id: '3' })]);
    const entries = await history('amounts/rows/3');
    expect(entries.map(({ key, keyBefore }) => [keyBefore, key])).toEqual([
      [['2.5'], ['3']],
      [['7.10'], ['2.5']],
      [null, ['7.10']],
    ]);
    expect(mistakesIn(await undo(noted.body.id))).toEqual([]);
    expect((await all('amounts'))[1]).toEqual({ id: '3', note: 'a' });
    expect((await undo(renamed.body.id)).status).toBe(409);
    // Another row that has the old key has none of that history.
    await perform(url, [`insert into amounts values (2.5, 'other')`]);
    await send([change('amounts', '2.5', { note: 'c' })]);
    expect((await history('amounts/rows/3')).map(({ after }) => after.note)).not.toContain('c');
  });
});

describe('mode=each', () => {
  it('leaves out the one row that breaks what is checked at the end', async () => {
    const answer = await send(
      [
        add('pairs', { id: 5, partner: 6 }),
        add('pairs', { id: 6, partner: 5 }),
        add('pairs', { id: 7, partner: 99 }),
        add('pairs', { id: 8, partner: 8 }),
      ],
      '?mode=each',
    );
    expect(answer.status).toBe(200);
    expect(answer.body.outcomes.map(({ kind }: any) => kind)).toEqual([
      'done',
      'done',
      'refused',
      'done',
    ]);
    expect((await all('pairs')).map(({ id }) => id)).toEqual([1, 5, 6, 8]);
    expect(mistakesIn(await undo(answer.body.id))).toEqual([]);
    const triggered = await send(
      [
        add('audited', { id: 2, n: 40 }),
        add('audited', { id: 3, n: 70 }),
        add('audited', { id: 4, n: 5 }),
      ],
      '?mode=each',
    );
    expect(triggered.body.outcomes.map(({ kind }: any) => kind)).toEqual([
      'done',
      'refused',
      'done',
    ]);
    expect(triggered.body.outcomes[1].errors[0].message).toBe('More than 100 in all.');
  });

  it('has no set where nothing was saved', async () => {
    const answer = await send([add('pairs', { id: 7, partner: 99 })], '?mode=each');
    expect([answer.status, answer.body.id, answer.body.outcomes[0].kind]).toEqual([
      200,
      null,
      'refused',
    ]);
    const keyed = await sendTo(
      'POST',
      `${service.url}/api/changes?mode=each`,
      { changes: [add('pairs', { id: 7, partner: 99 })] },
      { headers: { 'Idempotency-Key': 'nothing saved' } },
    );
    expect(keyed.body.id).toBeNull();
  });
});

describe('a key', () => {
  it('is the same however it is spelled', async () => {
    const id = '0F8FAD5B-D9CB-469F-A165-70867728950E';
    expect((await service.get(`/api/tables/parcels/rows/${id}`)).body.row.note).toBe('a');
    expect((await send([change('parcels', id, { note: 'b' })])).status).toBe(200);
    const twice = [change('parcels', id, { note: 'b' }), remove('parcels', id.toLowerCase())];
    expect(mistakesIn(await send(twice))).toEqual(['1 duplicate-row']);
    const amounts = [
      change('amounts', '1.10', { note: 'b' }),
      change('amounts', '1.1', { note: 'c' }),
    ];
    expect(mistakesIn(await send(amounts))).toEqual(['1 duplicate-row']);
    const each = await send(amounts, '?mode=each');
    expect(each.body.outcomes.map(({ kind }: any) => kind)).toEqual(['done', 'refused']);
    expect(await all('amounts')).toEqual([{ id: '1.10', note: 'b' }]);
  });
});
