import pg from 'pg';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { conditionOfLine, startService, type TestService } from '../testing/service.ts';

const { lowmere, passages } = testDatabases();

type Parameters = Readonly<Record<string, string>>;

function path(query: string, parameters: Parameters = {}): string {
  return `/api/tables/passages/${query}?${new URLSearchParams(parameters).toString()}`;
}

describe('groups over HTTP', () => {
  let service: TestService;
  const database = new pg.Client({ connectionString: lowmere });

  beforeAll(async () => {
    await database.connect();
    service = await startService(lowmere);
  });

  afterAll(async () => {
    await service.close();
    await database.end();
  });

  const groups = async (parameters: Parameters): Promise<any> =>
    (await service.get(path('groups', parameters))).body;

  it('carry value, rows, lines below, exact aggregates, a filter and links', async () => {
    const { rows } = await database.query<Record<string, string>>(
      `select c.name, count(*) as n, count(distinct p.status) as below, sum(toll) as toll,
         avg(wait_minutes) as wait from passages p join locks l on l.id = lock_id
         join canals c on c.id = canal_id group by 1 order by 4 desc limit 3`,
    );
    const body = await groups({
      group: 'lock.canal.name,status',
      aggregate: 'sum(toll),avg(wait_minutes)',
      sort: '-sum(toll)',
      limit: '3',
    });
    expect(
      body.groups.map(({ value, count, below, aggregates }: any) => ({
        name: value,
        n: String(count),
        below: String(below),
        toll: aggregates['sum(toll)'],
        wait: aggregates['avg(wait_minutes)'],
      })),
    ).toEqual(rows);
    expect(body.levels.map(({ label }: any) => label)).toEqual(['Canal', 'Status']);
    expect(body.aggregates).toMatchObject([
      { name: 'sum(toll)', label: 'Sum of toll', encoding: 'string' },
      { name: 'avg(wait_minutes)', label: 'Average of wait minutes', type: { kind: 'numeric' } },
    ]);
    const [first] = body.groups;
    const inside = await service.get(
      path('groups', {
        group: 'lock.canal.name,status',
        aggregate: 'sum(toll),avg(wait_minutes)',
        sort: '-sum(toll)',
        path: JSON.stringify([first.value]),
      }),
    );
    expect(inside.body.path).toEqual([first.value]);
    expect(inside.body.depth).toBe(1);
    expect(inside.body.groups).toHaveLength(first.below);
    const counts = inside.body.groups.map(({ count }: any) => count);
    expect(counts.reduce((sum: number, count: number) => sum + count, 0)).toBe(first.count);
    // The same below as by a path, and the rows of a line are those that it counts.
    const byPath = await groups({
      group: 'lock.canal.name,status',
      sort: '-sum(toll)',
      path: JSON.stringify([first.value]),
    });
    expect(byPath.groups.map(({ count }: any) => count)).toEqual(counts);
    for (const [answer, line] of [
      [body, first],
      [inside.body, inside.body.groups[0]],
    ]) {
      const filter = conditionOfLine(answer, line);
      const filtered = await service.get(path('rows', { filter, limit: '1' }));
      expect(filtered.body.window.total).toBe(line.count);
    }
  });

  it('have null as a group of its own, last or first', async () => {
    const last = await groups({ group: 'keeper_id', limit: '500' });
    const missing = last.groups.at(-1);
    expect(missing).toMatchObject({ value: null, filter: 'keeper_id IS NULL' });
    const first = await groups({ group: 'keeper_id', nulls: 'first', limit: '1' });
    expect(first.groups[0]).toEqual(missing);
    const { body } = await service.get(
      path('groups', { group: 'keeper_id,status', path: '[null]' }),
    );
    const sum = body.groups.reduce((total: number, { count }: any) => total + count, 0);
    expect(sum).toBe(missing.count);
  });

  it('come by page, offset and cursor, in both directions', async () => {
    const whole = (await groups({ group: 'boat_id', sort: '-count()', limit: '300' })).groups;
    const wanted = { group: 'boat_id', sort: '-count()', limit: '40' };
    const paged = await groups({ ...wanted, page: '3' });
    expect(paged.groups).toEqual(whole.slice(80, 120));
    expect(paged.window).toMatchObject({ offset: 80, count: 40, totalKind: 'exact' });
    const next = await groups({ ...wanted, after: paged.next });
    expect(next.groups).toEqual(whole.slice(120, 160));
    expect(next.window.offset).toBeNull();
    const back = await groups({ ...wanted, before: next.previous });
    expect(back.groups).toEqual(paged.groups);
    const { headers } = await service.get(path('groups', { ...wanted, page: '3' }));
    const [, link = ''] = /<([^>]*)>; rel="next"/.exec(headers.get('link') ?? '') ?? [];
    expect((await service.get(link)).body.groups).toEqual(next.groups);
    const end = await groups({ ...wanted, offset: String(paged.window.total - 10) });
    expect([end.groups.length, end.next]).toEqual([10, null]);
    expect((await groups({ ...wanted, offset: '999999' })).groups).toEqual([]);
  });

  it('reach windows behind those that are read at once', async () => {
    const request = { group: 'id', sort: '-id', limit: '50' };
    const deep = await groups({ ...request, offset: '7000' });
    expect(deep.groups.map(({ value }: any) => value)).toEqual(
      Array.from({ length: 50 }, (_, index) => String(passages - 7000 - index)),
    );
    const further = await groups({ ...request, after: deep.next });
    expect(further.groups[0].value).toBe(String(passages - 7050));
    const before = await groups({ ...request, before: deep.previous });
    expect(before.groups.at(-1).value).toBe(String(passages - 6999));
  });

  it('follow the filter and the search, and come in the declared order of an enum', async () => {
    const body = await groups({ group: 'status', filter: 'toll > 100', search: 'greased' });
    const { rows } = await database.query<{ value: string; count: number }>(
      `select status as value, count(*)::int as count from passages
         where toll > 100 and note ilike '%greased%' group by 1 order by 1`,
    );
    expect(body.groups.map(({ value, count }: any) => ({ value, count }))).toEqual(rows);
    // Stated once, and not by every line.
    expect(body.filter).toBe('toll > 100');
    expect(body.groups[0].filter).not.toContain('toll');
  });

  it('are by parts of dates in a named time zone, and by calendar months there', async () => {
    const zone = 'Australia/Adelaide';
    const body = await groups({ group: `hour(passed_at,'${zone}')`, aggregate: 'max(passed_at)' });
    const { rows } = await database.query<{ value: number; count: number }>(
      `select extract(hour from passed_at at time zone '${zone}')::int as value, count(*)::int as count
         from passages group by 1 order by 1`,
    );
    expect(body.groups.map(({ value, count }: any) => ({ value, count }))).toEqual(rows);
    const months = await groups({ group: `bin(passed_at,'P1M','${zone}')`, limit: '2' });
    const [month] = months.groups;
    expect(month.filter).toMatch(
      /^passed_at >= DATE\('....-..-..'\) AND passed_at < DATE\(.*\) AND BIN\(passed_at, 'P1M'/,
    );
    const filter = conditionOfLine(months, month);
    const { body: within } = await service.get(path('rows', { filter, limit: '1' }));
    expect(within.window.total).toBe(month.count);
  });

  it('tell how they came about, where that is allowed', async () => {
    const result = await startService(lowmere, '', { explain: true });
    try {
      const given = { group: 'status', explain: 'true' };
      const { body } = await result.get(path('groups', given));
      expect(body.explanation.sql).toContain('group by 1');
      expect(body.explanation.steps.length).toBeGreaterThan(1);
      expect(
        (await result.get(path('aggregates', { explain: 'true' }))).body.explanation,
      ).toBeDefined();
    } finally {
      await result.close();
    }
  });

  it('are requested by a body as well', async () => {
    const body = { group: ['status', 'direction'], path: ['disputed'], aggregate: 'sum(toll)' };
    const response = await fetch(`${service.url}/api/tables/passages/groups`, {
      method: 'POST',
      body: JSON.stringify(body),
    });
    const answer = (await response.json()) as { groups: { value: string }[] };
    expect(answer.groups.map(({ value }) => value)).toEqual(['up', 'down']);
    const odd = await fetch(`${service.url}/api/tables/passages/aggregates`, {
      method: 'POST',
      body: JSON.stringify({ group: 'status' }),
    });
    expect(odd.status).toBe(400);
  });

  it('are refused with every error at its place', async () => {
    const { status, body } = await service.get(
      path('groups', {
        group: "bin(toll,0),crew,hour(passed_at,'CEST'),status,status",
        path: '["x",1,2,"disputd",5]',
        aggregate: 'sum(note),sum(id),median(status),totl(toll),count(toll,id)',
        sort: 'id,-sum(note)',
      }),
    );
    expect(status).toBe(400);
    const answered = body.errors.map(({ code, parameter, position, length }: any) => [
      code,
      parameter,
      position,
      length,
    ]);
    expect(answered).toEqual([
      ['invalid-bin', 'group', 9, 1],
      ['unknown-column', 'group', 12, 4],
      ['unknown-time-zone', 'group', 32, 6],
      ['repeated-term', 'group', 47, 6],
      ['path-too-long', 'path', 19, 1],
      ['unknown-enum-value', 'path', 9, 9],
      ['not-aggregable', 'aggregate', 4, 4],
      ['not-aggregable', 'aggregate', 14, 2],
      ['not-aggregable', 'aggregate', 25, 6],
      ['unknown-aggregate', 'aggregate', 33, 10],
      ['wrong-argument-count', 'aggregate', 44, 14],
      ['not-a-group-sort', 'sort', 0, 2],
      ['not-aggregable', 'sort', 8, 4],
    ]);
  });

  it.each<[Parameters, string]>([
    [{}, 'missing-group'],
    [{ group: 'bin(toll,-5)' }, 'invalid-bin'],
    [{ group: "bin(passed_at,'P5D')" }, 'invalid-bin'],
    [{ group: "month(lock_id,'UTC')" }, 'type-mismatch'],
    [{ group: '3' }, 'group-without-column'],
    [{ group: 'id,lock_id,boat_id,status,direction,toll,keeper_id' }, 'too-many-levels'],
    [{ group: 'status', path: '["disputed"]' }, 'path-too-long'],
    [{ group: 'status,toll', path: '[5]' }, 'type-mismatch'],
    [{ group: 'toll,status', path: '["much"]' }, 'type-mismatch'],
    [{ group: 'status,toll', path: '{"a":1}' }, 'unexpected-token'],
    [{ group: 'status', after: 'x' }, 'malformed-cursor'],
    [{ group: 'status', aggregate: 'percentile(toll,101)' }, 'invalid-value'],
    [{ group: 'status', columns: 'id' }, 'unknown-parameter'],
    [{ group: 'status,' }, 'unexpected-end'],
  ])('are refused for %j', async (parameters, code) => {
    const { status, body } = await service.get(path('groups', parameters));
    expect(status).toBe(400);
    expect(body.errors.map((one: any) => one.code)).toEqual([code]);
  });

  it.each<[string, string, number]>([
    ['-count(),-sum(tol)', 'unknown-column', 14],
    ['status,-percentile(toll, 200)', 'invalid-value', 25],
  ])('have the mistakes inside of the sort %s at their places', async (sort, code, position) => {
    const { body } = await service.get(path('groups', { group: 'status', sort }));
    expect(body.errors).toMatchObject([{ code, parameter: 'sort', position }]);
  });

  it.each(['infinity', '24 hours'])('are refused for the path %s of an enum', async (value) => {
    const asked = { group: 'status,id', path: JSON.stringify([value]) };
    const { body } = await service.get(path('groups', asked));
    expect(body.errors).toMatchObject([{ code: 'unknown-enum-value', position: 1 }]);
  });

  it('leave rows to be sorted by columns', async () => {
    const { body } = await service.get(path('rows', { sort: '-sum(toll)' }));
    expect(body.errors).toMatchObject([{ code: 'sort-needs-column', position: 1, length: 9 }]);
  });

  describe('aggregates of the whole', () => {
    it('are exact, and follow the filter', async () => {
      const filter = "status = 'disputed'";
      const { body } = await service.get(
        path('aggregates', {
          aggregate:
            'count(),count(toll),distinct(boat_id),sum(toll),min(passed_at),share(),median(toll)',
          filter,
        }),
      );
      const { rows } = await database.query(
        `select count(*)::int as "count()", count(toll)::int as "count(toll)",
           count(distinct boat_id)::int as "distinct(boat_id)", sum(toll) as "sum(toll)",
           to_char(min(passed_at) at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as "min(passed_at)",
           1 as "share()", trim_scale(percentile_cont(0.5) within group (order by toll)::numeric) as "median(toll)"
           from passages where ${filter}`,
      );
      expect(body.values).toEqual(rows[0]);
    });

    it('are the number of rows where none is named, and null of nothing', async () => {
      const { body } = await service.get(path('aggregates'));
      expect(body.values).toEqual({ 'count()': passages });
      const none = await service.get(
        path('aggregates', { filter: 'id < 0', aggregate: 'sum(toll),count(),avg(toll),share()' }),
      );
      expect(none.body.values).toEqual({
        'sum(toll)': null,
        'count()': 0,
        'avg(toll)': null,
        'share()': null,
      });
    });
  });

  describe('values of a column', () => {
    it('come with counts, without the condition on the column itself', async () => {
      const filter = "status = 'disputed' AND toll > 100 AND (status = 'passed' OR toll > 5)";
      const { body } = await service.get(path('values/status', { filter, sort: '-count()' }));
      const { rows } = await database.query<{ value: string; count: number }>(
        `select status as value, count(*)::int as count from passages
           where toll > 100 and (status = 'passed' or toll > 5) group by 1 order by 2 desc, 1`,
      );
      expect(body.values.map(({ value, count }: any) => ({ value, count }))).toEqual(rows);
      expect(body.range).toBeUndefined();
    });

    it('are searched, and are of related columns, too', async () => {
      const { body } = await service.get(path('values/lock.canal.name', { containing: 'LEV' }));
      expect(body.values.map(({ value }: any) => value)).toEqual(['Heron Level']);
      expect(body.values[0].filter).toBe("lock.canal.name = 'Heron Level'");
      const none = await service.get(path('values/lock.canal.name', { containing: '%' }));
      expect(none.body.window).toMatchObject({ count: 0, total: 0 });
    });

    it('of numbers and times have a range and a histogram', async () => {
      const { body } = await service.get(path('values/toll', { bins: '7', limit: '1' }));
      const { rows } = await database.query<{ least: string; greatest: string; n: number }>(
        'select min(toll) as least, max(toll) as greatest, count(toll)::int as n from passages',
      );
      expect(body.range).toEqual({ least: rows[0]?.least, greatest: rows[0]?.greatest });
      expect(body.histogram).toHaveLength(7);
      expect(body.histogram[0].from).toBe(rows[0]?.least);
      expect(body.histogram.at(-1).to).toBe(rows[0]?.greatest);
      const counted = body.histogram.reduce((sum: number, { count }: any) => sum + count, 0);
      expect(counted).toBe(rows[0]?.n);
      for (const { from, to, count } of body.histogram.slice(0, -1)) {
        const filter = `toll >= ${from} AND toll < ${to}`;
        const within = await service.get(path('rows', { filter, limit: '1' }));
        expect(within.body.window.total).toBe(count);
      }
      const times = await service.get(path('values/passed_at', { bins: '5', limit: '1' }));
      const [, second] = times.body.histogram;
      const filter = `passed_at >= TIMESTAMP('${second.from}') AND passed_at < TIMESTAMP('${second.to}')`;
      const within = await service.get(path('rows', { filter, limit: '1' }));
      expect(within.body.window.total).toBe(second.count);
      const empty = await service.get(path('values/toll', { filter: 'id < 0', bins: '3' }));
      expect(empty.body).toMatchObject({ range: null, values: [] });
    });

    it.each<[string, Parameters, string]>([
      ['statsu', {}, 'unknown-column'],
      ['status', { bins: '5' }, 'no-histogram'],
      ['toll', { bins: '0' }, 'not-a-whole-number'],
      ['toll', { bins: '201' }, 'not-a-whole-number'],
      ['toll', { filter: "toll = 'x'" }, 'type-mismatch'],
    ])('of %s are refused for %j', async (column, parameters, code) => {
      const { status, body } = await service.get(path(`values/${column}`, parameters));
      expect(status).toBe(400);
      expect(body.errors.map((one: any) => one.code)).toEqual([code]);
    });
  });
});
