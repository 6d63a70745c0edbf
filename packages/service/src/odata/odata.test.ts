import pg from 'pg';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();

let service: TestService;
let database: pg.Client;

beforeAll(async () => {
  service = await startService(lowmere, 'odata: true\ntables: { passages: { rowCap: 50 } }');
  database = new pg.Client({ connectionString: lowmere });
  await database.connect();
});
afterAll(async () => {
  await service.close();
  await database.end();
});

type Requested = Readonly<Record<string, string>>;
type Got = Awaited<ReturnType<TestService['get']>>;

const get = (
  path: string,
  wanted: Requested = {},
  headers: Record<string, string> = {},
): Promise<Got> => {
  const search = Object.entries(wanted).map(
    ([name, value]) => `${name}=${encodeURIComponent(value)}`,
  );
  return service.get(`/odata/${path}${search.length === 0 ? '' : `?${search.join('&')}`}`, headers);
};

async function rowsOf(path: string, wanted: Requested): Promise<any[]> {
  const { status, body } = await get(path, wanted);
  if (status !== 200) throw new Error(JSON.stringify(body));
  return body.value;
}

async function answer(sql: string): Promise<any[]> {
  return (await database.query(sql)).rows;
}

// Which clause of the standard's conformance levels each test holds stands in docs/odata.md.
describe('an OData service', () => {
  it('is not there where nobody switched it on', async () => {
    const plain = await startService(lowmere);
    expect((await plain.get('/odata/')).status).toBe(404);
    await plain.close();
  });

  it('has a service document at its root, with every table', async () => {
    const { status, body, headers } = await get('');
    expect(status).toBe(200);
    expect(headers.get('odata-version')).toBe('4.01');
    expect(headers.get('content-type')).toMatch(/^application\/json;odata.metadata=minimal/);
    expect(body['@odata.context']).toBe(`${service.url}/odata/$metadata`);
    const names = body.value.map(({ name, kind, url }: any) => [name, kind, url]);
    expect(names).toContainEqual(['passages', 'EntitySet', 'passages']);
    expect(names).toHaveLength(6);
  });

  it('reports its model as XML and as JSON, with nothing but types of CSDL', async () => {
    const xml = await get('$metadata');
    expect(xml.headers.get('content-type')).toBe('application/xml; charset=utf-8');
    expect(xml.body).toContain('<Property Name="toll" Type="Edm.Decimal" Precision="8" Scale="2">');
    expect(xml.body).toContain('<NavigationProperty Name="lock" Type="Ephoros.locks"/>');
    expect(xml.body).toContain(
      '<NavigationProperty Name="passages" Type="Collection(Ephoros.passages)"/>',
    );
    expect(xml.body).toContain('<NavigationPropertyBinding Path="lock" Target="locks"/>');
    const types = [...String(xml.body).matchAll(/ Type="(?:Collection\()?(Edm\.\w+)/g)].map(
      ([, type]) => type,
    );
    expect(types.length).toBeGreaterThan(30);
    const { body } = await get('$metadata', { $format: 'json' });
    expect(body.Ephoros.passages.$Key).toEqual(['id']);
    expect(body.Ephoros.passages.toll).toMatchObject({
      $Type: 'Edm.Decimal',
      $Precision: 8,
      $Scale: 2,
      $Nullable: true,
    });
    expect(body.Ephoros.Tables.passages).toMatchObject({
      $Collection: true,
      $Type: 'Ephoros.passages',
    });
    expect(Object.keys(body.Ephoros)).toHaveLength(7);
    const old = { 'OData-MaxVersion': '4.0' };
    expect((await get('$metadata', {}, old)).body).toContain('Version="4.0"');
    expect((await get('$metadata', { $format: 'json' }, old)).status).toBe(406);
  });

  it('hands out all rows page by page, each once, by links', async () => {
    const first = await get('passages', {
      $filter: "status eq 'disputed'",
      $select: 'id',
      $orderby: 'toll desc',
    });
    const ids: number[] = [];
    let { body } = first;
    let pages = 0;
    for (;;) {
      expect(body.value.length).toBeLessThanOrEqual(50);
      ids.push(...body.value.map(({ id }: any) => id));
      pages += 1;
      const next = body['@odata.nextLink'];
      if (next === undefined) break;
      body = await (await fetch(next)).json();
    }
    expect(pages).toBeGreaterThan(2);
    const all = await answer(
      "select id::int from passages where status = 'disputed' order by toll desc nulls last, id desc",
    );
    expect(ids).toEqual(all.map(({ id }) => id));
  });

  it('keeps to what is wanted in all over the pages, and to a page that is preferred', async () => {
    const { body, headers } = await get(
      'passages',
      { $top: '7', $skip: '3', $select: 'id', $orderby: 'id', $count: 'true' },
      { Prefer: 'odata.maxpagesize=5' },
    );
    expect(headers.get('preference-applied')).toBe('maxpagesize=5');
    expect(body['@odata.count']).toBe(
      (await answer('select count(*)::int as n from passages'))[0].n,
    );
    const more = await (
      await fetch(body['@odata.nextLink'], { headers: { Prefer: 'maxpagesize=5' } })
    ).json();
    const ids = [...body.value, ...more.value].map(({ id }: any) => id);
    const wanted = await answer('select id::int from passages order by id offset 3 limit 7');
    expect(ids).toEqual(wanted.map(({ id }) => id));
    expect(more['@odata.nextLink']).toBeUndefined();
    expect((await get('passages', { $top: '0', $count: 'true' })).body).toMatchObject({
      value: [],
    });
  });

  it.each([
    ["status eq 'disputed' and toll gt 20", "status = 'disputed' and toll > 20"],
    ['not (toll gt 20)', '(toll > 20) is not true'],
    ['toll ne 4', 'toll is distinct from 4'],
    ['toll eq null', 'toll is null'],
    ['toll in (4,5.5,null)', 'toll in (4, 5.5) or toll is null'],
    [
      "lock/canal/name eq 'Wend Cut'",
      "lock_id in (select l.id from locks l join canals c on c.id = canal_id where c.name = 'Wend Cut')",
    ],
    ['keeper eq null', 'keeper_id is null'],
    ["contains(tolower(note),'heron')", "lower(note) like '%heron%'"],
    ["not startswith(note,'Toll')", "note not like 'Toll%'"],
    [
      'year(passed_at) eq 2024 and month(passed_at) eq 2',
      "date_trunc('month', passed_at at time zone 'UTC') = '2024-02-01'",
    ],
    ['passed_at ge 2024-02-29T10:15:00+02:00', "passed_at >= '2024-02-29 08:15Z'"],
    [
      'wait_minutes div 7 eq 2 and wait_minutes mod 2 eq 1',
      'wait_minutes / 7 = 2 and wait_minutes % 2 = 1',
    ],
    ['(toll add 1) mul 2 divby 4 gt 30', '(toll + 1) * 2 / 4 > 30'],
    ["crossing gt duration'PT20M'", "crossing > '20 minutes'"],
  ])('counts the rows of %s as the database does', async (filter, where) => {
    const wanted = String((await answer(`select count(*) as n from passages where ${where}`))[0].n);
    expect(Number(wanted)).toBeGreaterThan(0);
    const count = await get('passages/$count', { $filter: filter });
    expect(count.headers.get('content-type')).toBe('text/plain; charset=utf-8');
    expect(count.body).toBe(wanted);
    const { body } = await get('passages', { $filter: filter, $count: 'true', $top: '1' });
    expect(body['@odata.count']).toBe(Number(wanted));
  });

  it.each([
    ['passages/any()', 'exists (select from passages where boat_id = b.id)'],
    [
      'passages/any(p: p/toll gt 100)',
      'exists (select from passages where boat_id = b.id and toll > 100)',
    ],
    [
      'passages/all(p: p/toll gt 10)',
      'not exists (select from passages where boat_id = b.id and (toll > 10) is not true)',
    ],
    ['passages/$count gt 6', '(select count(*) from passages where boat_id = b.id) > 6'],
    ["crew/any(c: c eq 'Ada')", "'Ada' = any (crew)"],
  ])('knows of rows that refer: %s', async (filter, where) => {
    const wanted = String((await answer(`select count(*) as n from boats b where ${where}`))[0].n);
    expect((await get('boats/$count', { $filter: filter })).body).toBe(wanted);
  });

  it('sorts nulls first upwards, last downwards, and by related columns', async () => {
    const upwards = await rowsOf('passages', {
      $orderby: 'toll,id desc',
      $top: '3',
      $select: 'id,toll',
    });
    const wanted = await answer(
      'select id::int from passages order by toll nulls first, id desc limit 3',
    );
    expect(upwards.map(({ id }) => id)).toEqual(wanted.map(({ id }) => id));
    const byName = await rowsOf('passages', {
      orderby: 'lock/name desc',
      $top: '1',
      $select: 'id',
      $expand: 'lock($select=name)',
    });
    const [last] = await answer(
      'select max(name collate "default") as name from locks join passages on lock_id = locks.id',
    );
    expect(byName[0].lock.name).toBe(last.name);
  });

  it('gives a row with what it refers to, and null where it refers to none', async () => {
    const [wanted] = await answer(
      `select p.id::int, l.name as lock, c.name as canal from passages p
       join locks l on l.id = lock_id join canals c on c.id = canal_id where keeper_id is null limit 1`,
    );
    const { body } = await get(`passages(${wanted.id})`, {
      $select: 'id',
      $expand: 'lock($select=name;$expand=canal($select=name)),keeper',
    });
    expect(body).toEqual({
      '@odata.context': `${service.url}/odata/$metadata#passages(id,lock(name,canal(name)),keeper())/$entity`,
      id: wanted.id,
      lock: { name: wanted.lock, canal: { name: wanted.canal } },
      keeper: null,
    });
    expect((await get(`passages(${wanted.id})/keeper`)).status).toBe(204);
    const lock = await get(`passages(${wanted.id})/lock`, { $select: 'name' });
    expect(lock.body).toMatchObject({ name: wanted.lock });
    const canal = await get(`passages(${wanted.id})/lock/canal/name/$value`);
    expect(canal.status).toBe(501);
  });

  it('gives a value of a row, in JSON and as it is; nothing where there is none', async () => {
    const [{ id, toll, note }] = await answer(
      'select id::int, toll, note from passages where note is not null and toll is not null limit 1',
    );
    expect((await get(`passages(${id})/toll`)).body.value).toBe(Number(toll));
    expect((await get(`passages(${id})/toll/$value`)).body).toBe(toll);
    expect((await get(`passages(${id})/note/$value`)).body).toBe(note);
    const [{ id: free }] = await answer('select id::int from passages where toll is null limit 1');
    expect((await get(`passages(${free})/toll`)).status).toBe(204);
    expect((await get('passages(0)')).status).toBe(404);
  });

  it('gives the rows that refer to a row, as a collection of their own', async () => {
    const [{ n }] = await answer(
      'select count(*)::int as n from passages where lock_id = 3 and toll > 20',
    );
    const { body } = await get('locks(3)/passages', {
      $filter: 'toll gt 20',
      $count: 'true',
      $top: '2',
    });
    expect(body['@odata.count']).toBe(n);
    expect(body.value.every(({ lock_id }: any) => lock_id === 3)).toBe(true);
    expect((await get('locks(3)/passages/$count', { $filter: 'toll gt 20' })).body).toBe(String(n));
  });

  it.each([
    'locks(0)/passages',
    'locks(0)/passages/$count',
    'passages(0)/lock',
    'passages(0)/keeper',
  ])('leads nowhere from a row that there is not: %s', async (path) => {
    const { status, body } = await get(path);
    expect([status, body.error.code]).toEqual([404, 'unknown-row']);
  });

  it('searches for words and phrases that must all occur', async () => {
    const count = await get('passages/$count', { $search: '"upper gate" AND heron' });
    const [{ n }] = await answer(
      "select count(*) as n from passages where note ilike '%heron%' and note ilike '%upper gate%'",
    );
    expect(count.body).toBe(String(n));
  });

  it('groups and sums, in the order that is requested, whatever it is of', async () => {
    const apply =
      'filter(toll gt 4)/groupby((lock/canal/name,status),aggregate(toll with sum as total,$count as n,boat_id with countdistinct as boats))';
    const rows: any[] = [];
    let url = `passages?$apply=${encodeURIComponent(apply)}&$orderby=${encodeURIComponent('n desc,status')}`;
    for (;;) {
      const { body } = await service.get(`/odata/${url}`, { Prefer: 'maxpagesize=7' });
      rows.push(...body.value);
      if (body['@odata.nextLink'] === undefined) break;
      url = body['@odata.nextLink'].split('/odata/')[1];
    }
    const wanted = await answer(
      `select c.name, status, sum(toll)::float8 as total, count(*)::int as n, count(distinct boat_id)::int as boats
       from passages join locks l on l.id = lock_id join canals c on c.id = canal_id where toll > 4
       group by 1, 2 order by n desc, status, c.name`,
    );
    expect(rows.length).toBeGreaterThan(7);
    expect(rows).toEqual(
      wanted.map(({ name, ...line }) => ({ lock: { canal: { name } }, ...line })),
    );
    const { body } = await get('passages', {
      $apply: 'aggregate(toll with max as most,toll with average as mean)',
    });
    const [{ most, mean }] = await answer(
      'select max(toll)::float8 as most, avg(toll)::float8 as mean from passages',
    );
    expect(body.value).toEqual([{ most, mean }]);
    const one = await rowsOf('passages', {
      $apply: 'groupby((status))',
      $orderby: 'status desc',
      $top: '1',
    });
    expect(one).toEqual([
      { status: (await answer('select max(status)::text as s from passages'))[0].s },
    ]);
  });
});
