import { freshDatabase, perform } from '../../../../demo/src/testing/databases.ts';
import { noConfiguration } from '../config/index.ts';
import { Database } from '../run/index.ts';
import { rowsPath, startService } from '../testing/service.ts';
import { readCatalog } from './index.ts';

const everyType = `create table "Every ""Type""" (
  id int primary key, small int2, whole int4, big int8, exact numeric(30,10), any_numeric numeric, single float4,
  double float8, words text, short varchar(5), fixed char(3), flag boolean, day date, clock time, clock_zone timetz,
  local timestamp, moment timestamptz, span interval, mark uuid, colour colour, doc json, docb jsonb,
  numbers int[], texts text[], grid int8[], moments timestamptz[], bytes bytea, positive positive, range int4range, ranges nummultirange,
  place point, network inet, amount money, bits bit(3), odd_array point[])`;

const setUp = [
  `create type colour as enum ('red', 'deep "blue"')`,
  'create domain positive as int not null check (value > 0)',
  everyType,
  `insert into "Every ""Type""" values (1, -32768, 2147483647, 9223372036854775807, 12345678901234567890.0123456789,
    'NaN', 'Infinity', 'NaN', 'quote " and \\ and 🛶', 'áé', 'ab', true, '2024-02-29', '10:15:00.5', '10:15:00+02',
    '2024-02-29 10:15:00.123456', '2024-02-29 10:15:00+02', '1 year 2 mons 3 days 04:05:06.7', '0f8fad5b-d9cb-469f-a165-70867728950e',
    'deep "blue"', '{"a": 1.0}', '{"b": [1, null]}', '{1,NULL,3}', '{"a b","q\\"","NULL",NULL}', '{{1,2},{3,9223372036854775807}}',
    '{"2024-02-29 10:15:00+02"}', '\\x00ff', 5, '[1,5)', '{[1,2],[3,4)}', '(1,2)', '10.0.0.1', '12.34', '101', '{"(1,2)"}')`,
  `insert into "Every ""Type""" (id, positive, moment, day) values (2, 1, 'infinity', '0044-03-15 BC')`,
  `insert into "Every ""Type""" (id, positive, numbers, single, double) values (3, 1, '[0:1]={7,8}', 1e-20, 0.1)`,
];

describe('values of every type', () => {
  it('arrive without loss', async () => {
    const database = await freshDatabase('ephoros_types', setUp);
    const service = await startService(database.url);
    try {
      const { body } = await service.get(rowsPath('Every "Type"', { sort: 'id' }));
      const [first, second, third] = body.rows;
      expect(first).toEqual({
        id: 1,
        small: -32768,
        whole: 2147483647,
        big: '9223372036854775807',
        exact: '12345678901234567890.0123456789',
        any_numeric: 'NaN',
        single: 'Infinity',
        double: 'NaN',
        words: 'quote " and \\ and 🛶',
        short: 'áé',
        fixed: 'ab ',
        flag: true,
        day: '2024-02-29',
        clock: '10:15:00.5',
        clock_zone: '10:15:00+02:00',
        local: '2024-02-29T10:15:00.123456',
        moment: '2024-02-29T08:15:00Z',
        span: 'P1Y2M3DT4H5M6.7S',
        mark: '0f8fad5b-d9cb-469f-a165-70867728950e',
        colour: 'deep "blue"',
        doc: { a: 1 },
        docb: { b: [1, null] },
        numbers: [1, null, 3],
        texts: ['a b', 'q"', 'NULL', null],
        grid: [
          ['1', '2'],
          ['3', '9223372036854775807'],
        ],
        moments: ['2024-02-29T08:15:00Z'],
        bytes: 'AP8=',
        positive: 5,
        range: '[1,5)',
        ranges: '{[1,2],[3,4)}',
        place: '(1,2)',
        network: '10.0.0.1',
        amount: '$12.34',
        bits: '101',
        odd_array: '{"(1,2)"}',
      });
      expect(second).toMatchObject({ moment: 'infinity', day: '0044-03-15 BC', words: null });
      expect(third).toMatchObject({ numbers: [7, 8], single: 1e-20, double: 0.1 });

      const { body: description } = await service.get(
        `/api/tables/${encodeURIComponent('Every "Type"')}`,
      );
      const column = (name: string): any =>
        description.columns.find((one: any) => one.name === name);
      expect(column('exact')).toMatchObject({
        type: { kind: 'numeric', precision: 30, scale: 10 },
        encoding: 'string',
      });
      expect(column('colour').type.values).toEqual(['red', 'deep "blue"']);
      expect(column('positive')).toMatchObject({
        type: { kind: 'integer', bits: 32 },
        nullable: false,
      });
      expect(column('short').type).toEqual({ kind: 'text', maxLength: 5 });
      expect(column('place')).toMatchObject({
        type: { kind: 'opaque', name: 'point' },
        filterable: true,
        sortable: false,
      });
      expect(column('range')).toMatchObject({ type: { kind: 'range' }, encoding: 'string' });

      for (const { name, sortable } of description.columns) {
        const sorted = await service.get(rowsPath('Every "Type"', { sort: name }));
        expect([name, sorted.status]).toEqual([name, sortable ? 200 : 400]);
      }
    } finally {
      await service.close();
      await database.drop();
    }
  });
});

describe('what is published', () => {
  const tables = [
    'create table keyed (a int, b text, c int, primary key (b, a))',
    `insert into keyed values (1, 'x,y', 3), (2, 'ü/%', 4)`,
    'create table by_index (a int not null, b int)',
    'create unique index on by_index (a)',
    'create table nullable_index (a int)',
    'create unique index on nullable_index (a)',
    'create table partial_index (a int not null)',
    'create unique index on partial_index (a) where a > 0',
    'create view looked_at as select a, b from by_index',
    'create schema harbour',
    'create table harbour.fees (id int primary key, amount int)',
    'create table parted (id int, part int, primary key (id, part)) partition by list (part)',
    'create table parted_1 partition of parted for values in (1)',
    'insert into parted values (1, 1)',
    'create table closed (id int primary key)',
    'create table half_open (id int primary key, seen int, unseen int)',
    'create schema ephoros',
    'create table ephoros.own (id int primary key)',
  ];

  it('is what the role may read, with the key that is usable', async () => {
    const database = await freshDatabase('ephoros_published', [
      ...tables,
      'drop role if exists ephoros_reader',
      'create role ephoros_reader login',
      'grant usage on schema harbour to ephoros_reader',
      'grant select on keyed, by_index, nullable_index, partial_index, looked_at, parted, harbour.fees to ephoros_reader',
      'grant select (id, seen) on half_open to ephoros_reader',
    ]);
    const service = await startService(database.url.replace('ephoros@', 'ephoros_reader@'));
    try {
      const keys: Record<string, string[]> = {};
      for (const { name } of (await service.get('/api/tables')).body.tables) {
        keys[name] = (await service.get(`/api/tables/${name}`)).body.key;
      }
      expect(keys).toEqual({
        by_index: ['a'],
        half_open: ['id'],
        keyed: ['b', 'a'],
        looked_at: [],
        nullable_index: [],
        partial_index: [],
        parted: ['id', 'part'],
        'harbour.fees': ['id'],
      });
      expect((await service.get('/api/tables/half_open/rows')).body.columns).toEqual([
        'id',
        'seen',
      ]);
      const row = await service.get(`/api/tables/keyed/rows/${encodeURIComponent('x,y')},1`);
      expect(row.body.row).toEqual({ a: 1, b: 'x,y', c: 3 });
      const other = await service.get(`/api/tables/keyed/rows/${encodeURIComponent('ü/%')},2`);
      expect(other.body.row.c).toBe(4);
      expect((await service.get('/api/tables/parted/rows')).body.window.total).toBe(1);
      expect((await service.get('/api/tables/closed')).status).toBe(404);
    } finally {
      await service.close();
      await database.drop();
      await perform(database.url.replace(/ephoros_published$/, 'postgres'), [
        'drop role ephoros_reader',
      ]);
    }
  });

  it('follows the configuration', async () => {
    const database = await freshDatabase('ephoros_configured', tables);
    const service = await startService(
      database.url,
      `
title: Harbour office
publish: listed
tables:
  harbour.fees:
    name: fees
    title: Harbour fees
    sort: -amount
    order: [amount]
    pageSizes: [10, 20, 5000]
    rowCap: 100
    columns:
      amount: { label: Amount due, format: { kind: money, currency: EUR } }
  looked_at: { key: [a], columns: { b: { hidden: true } } }
  closed: { hidden: true }
`,
    );
    try {
      const { body } = await service.get('/api/tables');
      expect(body).toMatchObject({
        title: 'Harbour office',
        tables: [{ name: 'fees' }, { name: 'looked_at' }],
      });
      const fees = (await service.get('/api/tables/fees')).body;
      expect(fees).toMatchObject({
        title: 'Harbour fees',
        pageSizes: [10, 20],
        rowCap: 100,
        defaultSort: [{ column: 'amount', descending: true }],
      });
      expect(fees.columns).toMatchObject([
        { name: 'amount', label: 'Amount due', format: { kind: 'money' } },
        { name: 'id' },
      ]);
      const view = (await service.get('/api/tables/looked_at')).body;
      expect(view).toMatchObject({ key: ['a'], columns: [{ name: 'a' }] });
      const hidden = await service.get(rowsPath('looked_at', { filter: 'b = 1' }));
      expect(hidden.body.errors).toMatchObject([{ code: 'unknown-column' }]);
    } finally {
      await service.close();
      await database.drop();
    }
  });

  it('calls values as the configuration says, in groups and aggregates too', async () => {
    const database = await freshDatabase('ephoros_called', [
      "create type way as enum ('up', 'down')",
      'create table trip (id int primary key, way way, fast boolean)',
      "insert into trip values (1, 'up', true), (2, 'down', false)",
    ]);
    const named = (labels: string): string =>
      `tables: { trip: { columns: { way: { valueLabels: ${labels} }, fast: { valueLabels: { true: fast } } } } }`;
    const service = await startService(database.url, named('{ up: upstream }'));
    try {
      const up = { up: 'upstream' };
      const described = await service.get('/api/tables/trip');
      expect(described.body.columns).toMatchObject([
        { name: 'id' },
        { valueLabels: up },
        { valueLabels: { true: 'fast' } },
      ]);
      const { body } = await service.get(
        '/api/tables/trip/groups?group=way&aggregate=max(way),distinct(way)',
      );
      expect(body.levels).toMatchObject([{ valueLabels: up }]);
      expect(body.aggregates[0]).toMatchObject({ name: 'max(way)', valueLabels: up });
      expect(body.aggregates[1]).not.toHaveProperty('valueLabels');
      // What is answered, and requested, is the value.
      expect(body.groups.map(({ value }: { value: string }) => value)).toEqual(['up', 'down']);
      expect((await service.get(rowsPath('trip', { filter: "way = 'upstream'" }))).status).toBe(
        400,
      );
      await expect(startService(database.url, named('{ sideways: across }'))).rejects.toThrow(
        /^test.yaml:1:\d+: way has no value sideways; it has up, down$/m,
      );
    } finally {
      await service.close();
      await database.drop();
    }
  });

  it('names foreign keys as the configuration says, and both of one name after their columns', async () => {
    const database = await freshDatabase('ephoros_links', [
      'create table port (id int primary key, name text)',
      'create table trip (id int primary key, from_id int references port, to_id int references port, via int references port, viaid int references port)',
      "insert into port values (1, 'Ostle'), (2, 'Tarrow')",
      'insert into trip values (1, 1, 2, null, 2)',
    ]);
    const service = await startService(
      database.url,
      'tables: { trip: { relationships: { from_id: origin } } }',
    );
    try {
      const { body } = await service.get(
        rowsPath('trip', { columns: 'origin.name,to.name,via.name,viaid.name' }),
      );
      expect(body.rows).toEqual([
        { 'origin.name': 'Ostle', 'to.name': 'Tarrow', 'via.name': null, 'viaid.name': 'Tarrow' },
      ]);
      const back = await service.get(
        rowsPath('port', { filter: "HAS(trip_via_to, origin.name = 'Ostle')" }),
      );
      expect(back.body.rows).toMatchObject([{ id: 2 }]);
      await expect(
        startService(database.url, 'tables: { trip: { relationships: { form_id: x } } }'),
      ).rejects.toThrow('trip has no foreign key on form_id');
    } finally {
      await service.close();
      await database.drop();
    }
  });

  it('is refused where the configuration names what is not there, with line and column', async () => {
    const database = await freshDatabase('ephoros_misconfigured', tables);
    const configuration = [
      'tables:',
      '  keyd: {}',
      '  by_index:',
      '    sort: -aa',
      '    order: [b, c]',
      '    columns:',
      '      bb: { label: X }',
    ].join('\n');
    try {
      await expect(startService(database.url, configuration)).rejects.toThrow(
        [
          'test.yaml:2:3: the role can read no table keyd; perhaps keyed',
          'test.yaml:4:5: by_index cannot be sorted by aa',
          'test.yaml:5:16: by_index has no column c; perhaps a',
          'test.yaml:7:7: by_index has no column bb; perhaps b',
        ].join('\n'),
      );
    } finally {
      await database.drop();
    }
  });
});

it('is read however short the time limit of queries is', async () => {
  const { url, drop } = await freshDatabase('catalog_limit', [
    `do $$ begin for i in 1..400 loop
       execute format('create table t%s (id int primary key, a int references t%s, b text)', i, greatest(1, i - 1));
     end loop; end $$`,
  ]);
  const database = new Database({ url, timeLimit: 30 });
  try {
    const { tables } = await readCatalog(database, noConfiguration);
    expect(tables.size).toBe(400);
    // Its sessions have their own limit again.
    await expect(
      database.run({ text: 'select 1 from pg_sleep(5)', parameters: [] }),
    ).rejects.toMatchObject({ kind: 'time-limit' });
  } finally {
    await database.close();
    await drop();
  }
});
