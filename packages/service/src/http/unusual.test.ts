import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { conditionOfLine, rowsPath, startService, type TestService } from '../testing/service.ts';

let service: TestService;
let drop: () => Promise<void>;

beforeAll(async () => {
  const fresh = await freshDatabase('ephoros_unusual', [
    'create table "a,b" (id int primary key, "a,b" int, "-neg" int, "count()" int, " blank " int, "say ""hi""" int, "x.y_id" int references "a,b")',
    `insert into "a,b" values (1, 2, 3, 4, 5, 6, 1)`,
    'create schema "a.b"',
    'create schema a',
    'create table "a.b".c (id int primary key)',
    'create table a."b.c" (id int primary key)',
    'insert into "a.b".c values (1)',
    'insert into a."b.c" values (2)',
    'create table rows (id text primary key)',
    `insert into rows values (''), ('1'), ('rows')`,
    'create table parent (id int primary key, n int)',
    'create table child () inherits (parent)',
    'insert into parent values (1, 1), (2, 2)',
    'insert into child values (1, 3)',
    ...Array.from({ length: 60 }, (_, n) => `create table s${n} (id int primary key, v int)`),
    `create table star (id int primary key, ${Array.from({ length: 60 }, (_, n) => `p${n} int references s${n}`).join(', ')})`,
    'create table odd (id int primary key, ts timestamptz, o oid, pt point, iv interval)',
    `insert into odd values (1, 'infinity', 17, '(1,2)', 'P-1D'), (2, '2024-01-01', 4294967295, null, 'P1D')`,
    'create table hundred (id int primary key, ends int, word text, place int)',
    `insert into hundred select n, 2147483647 - n, case n when 1 then 'Straße' when 2 then 'ΟΔΟΣ' when 3 then 'ﬁn' else 'x' end, n from generate_series(1, 100) n`,
    'analyze',
  ]);
  ({ drop } = fresh);
  service = await startService(fresh.url);
});

afterAll(async () => {
  await service.close();
  await drop();
});

describe('names', () => {
  it('are one thing wherever a parameter lists them', async () => {
    const table = encodeURIComponent('a,b');
    const names = ['"a,b"', '"-neg"', '"count()"', '" blank "', '"say ""hi"""'];
    const parameters = {
      columns: names.join(','),
      sort: `-${names[1]},${names[0]}`,
      filter: names.map((name) => `${name} > 0`).join(' AND '),
    };
    const { status, body } = await service.get(rowsPath('a,b', parameters));
    expect([status, body.columns, body.rows]).toEqual([
      200,
      ['a,b', '-neg', 'count()', ' blank ', 'say "hi"'],
      [{ 'a,b': 2, '-neg': 3, 'count()': 4, ' blank ': 5, 'say "hi"': 6 }],
    ]);
    const groups = await service.get(
      `/api/tables/${table}/groups?group=${encodeURIComponent('"a,b","-neg"')}&sort=${encodeURIComponent('-"a,b"')}`,
    );
    expect([groups.status, groups.body.groups?.[0].value]).toEqual([200, 2]);
    // A relationship with a dot in its name, and what lies behind it.
    const related = await service.get(
      rowsPath('a,b', { columns: '"x.y"."a,b","x.y.-neg"', filter: '"x.y"."-neg" = 3' }),
    );
    expect([related.status, related.body.rows]).toEqual([200, [{ 'x.y.a,b': 2, 'x.y.-neg': 3 }]]);
    const wrong = await service.get(rowsPath('a,b', { columns: '"a,c"' }));
    expect(wrong.body.errors[0].hint).toBe('Did you mean a,b?');
  });

  it('tell two tables apart that dots make the same', async () => {
    const { body } = await service.get('/api/tables');
    const listed = body.tables.map(({ name }: any) => name);
    expect(listed).toEqual(expect.arrayContaining(['"a.b"."c"', '"a"."b.c"']));
    expect((await service.get(rowsPath('"a.b"."c"'))).body.rows).toEqual([{ id: 1 }]);
    expect((await service.get(rowsPath('"a"."b.c"'))).body.rows).toEqual([{ id: 2 }]);
  });

  it('may be "rows", and keys the empty text', async () => {
    for (const id of ['', '1', 'rows']) {
      expect((await service.get(`/api/tables/rows/rows/${id}`)).body.row).toEqual({ id });
    }
    expect((await service.get('/api/tables/rows/rows/2')).status).toBe(404);
  });

  it('reach over so many foreign keys at most', async () => {
    const paths = (count: number): string =>
      Array.from({ length: count }, (_, n) => `p${n}.v`).join(',');
    expect((await service.get(rowsPath('star', { columns: paths(40) }))).status).toBe(200);
    const { status, body } = await service.get(rowsPath('star', { columns: paths(60) }));
    expect([status, body.errors[0].code]).toEqual([400, 'too-many-related']);
  });
});

describe('tables that are unusual', () => {
  it('have no key where others share their rows', async () => {
    const { body } = await service.get('/api/tables/parent');
    expect(body.key).toEqual([]);
    expect(body.remarks).toHaveLength(1);
    expect((await service.get(rowsPath('parent'))).body.rows).toHaveLength(3);
  });

  it('hold infinity, object identifiers, points and negative durations', async () => {
    const found = async (filter: string): Promise<number[]> => {
      const { status, body } = await service.get(
        rowsPath('odd', { columns: 'id', filter, sort: 'id' }),
      );
      expect([filter, status, body.errors]).toEqual([filter, 200, undefined]);
      return body.rows.map(({ id }: any) => id);
    };
    expect(await found('year(ts) = 2024')).toEqual([2]);
    expect(await found('year(ts) IS NULL')).toEqual([1]);
    expect(await found('o + 1 = 18')).toEqual([1]);
    expect(await found('o > -1 AND o < 99999999999')).toEqual([1, 2]);
    expect(await found('pt IS NULL')).toEqual([2]);
    expect(await found("iv < '-PT1H'")).toEqual([1]);
    expect(await found('(id > 1) IS NULL')).toEqual([]);
    const sum = await service.get('/api/tables/odd/aggregates?aggregate=count(pt),max(o)');
    expect(sum.body.values).toEqual({ 'count(pt)': 1, 'max(o)': '4294967295' });
    expect(
      (await service.get(rowsPath('odd', { filter: "pt = '(1,2)'" }))).body.errors[0].code,
    ).toBe('not-comparable');
  });

  it('have percentiles at their exact places, and bins whose conditions reach to the end of a type', async () => {
    const at = async (percent: number): Promise<unknown> => {
      const aggregate = `percentile(place,${percent})`;
      const { body } = await service.get(`/api/tables/hundred/aggregates?aggregate=${aggregate}`);
      return Object.values(body.values as object)[0];
    };
    // 0.07 times 100 is a little more than 7 in floats.
    expect(await Promise.all([7, 14, 28, 29, 55, 57, 58, 99, 100, 0].map(at))).toEqual([
      7, 14, 28, 29, 55, 57, 58, 99, 100, 1,
    ]);
    const { body } = await service.get('/api/tables/hundred/groups?group=bin(ends,1000)');
    for (const line of body.groups) {
      const filter = conditionOfLine(body, line);
      const rows = await service.get(rowsPath('hundred', { filter, limit: '1' }));
      expect([filter, rows.body.window?.total]).toEqual([filter, line.count]);
    }
  });

  it('fold letter case as Unicode does', async () => {
    const found = async (text: string): Promise<number[]> => {
      const filter = `CASEI(word) = CASEI('${text}')`;
      const { body } = await service.get(
        rowsPath('hundred', { columns: 'id', filter, limit: '3' }),
      );
      return body.rows.map(({ id }: any) => id);
    };
    expect(await found('STRASSE')).toEqual([1]);
    expect(await found('οδος')).toEqual([2]);
    expect(await found('οδοσ')).toEqual([2]);
    expect(await found('FIN')).toEqual([3]);
  });

  it('say what all lines of an outline have in common once', async () => {
    const filter = `word <> '${'y'.repeat(5_000)}'`;
    const { body } = await service.get(
      `/api/tables/hundred/groups?${new URLSearchParams({ group: 'id', filter, limit: '100' }).toString()}`,
    );
    expect(body.groups).toHaveLength(100);
    expect(body.filter).toHaveLength(filter.length);
    expect(JSON.stringify(body.groups).length).toBeLessThan(10_000);
  });

  it.each(['LATIN1', 'SQL_ASCII'])('are served out of databases in %s', async (encoding) => {
    const { maintenance } = testDatabases();
    const name = `ephoros_${encoding.toLowerCase()}`;
    const url = maintenance.replace(/postgres$/, name);
    await perform(maintenance, [
      `drop database if exists ${name} with (force)`,
      `create database ${name} encoding '${encoding}' locale_provider libc locale 'C' template template0`,
    ]);
    await perform(url, [
      'create table t (id int primary key, name text)',
      `insert into t values (1, 'Abc'), (2, 'b')`,
    ]);
    const own = await startService(url);
    try {
      const ids = async (parameters: Record<string, string>): Promise<unknown> => {
        const { status, body } = await own.get(rowsPath('t', { columns: 'id', ...parameters }));
        return status === 200
          ? body.rows.map(({ id }: any) => id)
          : [status, body.errors?.[0].code];
      };
      expect(await ids({ sort: '-name' })).toEqual([2, 1]);
      expect(await ids({ filter: "name LIKE 'A%'" })).toEqual([1]);
      expect(await ids({ search: 'bC' })).toEqual([1]);
      expect(await ids({ filter: "CASEI(name) = CASEI('ABC')" })).toEqual([400, 'needs-unicode']);
      expect(await ids({ filter: "ACCENTI(name) = 'Abc'" })).toEqual([400, 'needs-unicode']);
      // What such a database cannot hold is a value that it refuses, or none of its own.
      const [status] = [(await own.get(rowsPath('t', { filter: "name = 'Ω'" }))).status];
      expect([200, 400]).toContain(status);
    } finally {
      await own.close();
      await perform(maintenance, [`drop database ${name} with (force)`]);
    }
  });
});
