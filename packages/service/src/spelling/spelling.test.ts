import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { parseConfiguration } from '../index.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();

/** The worked examples, as the documentation has them. */
const page = readFileSync(join(process.cwd(), 'docs/spellings.md'), 'utf8');
const examples = /```yaml\n([^`]*)```/.exec(page)?.[1] ?? '';

let service: TestService;
let database: pg.Client;

beforeAll(async () => {
  service = await startService(lowmere, `origins: ['https://desk.example.com']\n${examples}`);
  database = new pg.Client({ connectionString: lowmere });
  await database.connect();
});
afterAll(async () => {
  await service.close();
  await database.end();
});

async function ids(sql: string): Promise<number[]> {
  const { rows } = await database.query(`select id::int from passages ${sql}`);
  return rows.map(({ id }) => id);
}

const request = (list: readonly any[]): number[] => list.map(({ id }) => Number(id));

describe('a page that is there already', () => {
  it('counts pages from 0, says the order in two parameters, and conditions in brackets', async () => {
    const { status, body, headers } = await service.get(
      '/wharf/passages/list?pageSize=3&pageNo=1&sortField=toll&sortDir=DOWN&_=1732' +
        '&where[status]=disputed&where[toll][lt]=100&where[direction][any][]=up&where[direction][any][]=down&fields=id,toll',
    );
    expect(status).toBe(200);
    const where = "where status = 'disputed' and toll < 100";
    expect(request(body.data.items)).toEqual(
      await ids(`${where} order by toll desc nulls last, id desc limit 3 offset 3`),
    );
    const total = (await ids(where)).length;
    expect(body).toEqual({
      data: { items: expect.any(Array) },
      paging: { pageNo: 1, pageSize: 3, totalItems: total, totalPages: Math.ceil(total / 3) },
    });
    expect(Object.keys(body.data.items[0])).toEqual(['id', 'toll']);
    expect(headers.get('etag')).toMatch(/^"/);
  });

  it('counts rows from 1, has a direction behind each column, and a list of conditions', async () => {
    const { body, headers } = await service.get(
      '/barge/passages.list?start=11&count=5&order=toll:falling,id&cond[0][f]=toll&cond[0][is]=from&cond[0][v]=20' +
        '&cond[1][f]=note&cond[1][is]=has&cond[1][v]=heron',
    );
    const where = "where toll >= 20 and note ilike '%heron%'";
    expect(request(body)).toEqual(
      await ids(`${where} order by toll desc nulls last, id limit 5 offset 10`),
    );
    expect(headers.get('x-rows')).toBe(String((await ids(where)).length));
    // An emptied field says nothing.
    const open = await service.get('/barge/passages.list?start=&count=2&order=');
    expect(open.body).toHaveLength(2);
  });

  it('asks by conditions within conditions, and goes on by a cursor', async () => {
    const condition = {
      match: 'any',
      rules: [
        { column: 'lock.name', test: 'equals', to: 'Fallow Lock' },
        {
          match: 'all',
          rules: [
            { column: 'toll', test: 'equals', to: null },
            { column: 'wait_minutes', test: '>', to: 60 },
          ],
        },
      ],
    };
    const search = new URLSearchParams({ q: JSON.stringify(condition), take: '4', by: '-id' });
    const where = `where lock_id = (select id from locks where name = 'Fallow Lock') or toll is null and wait_minutes > 60`;
    const first = await service.get(`/ferry/passages?${search.toString()}`);
    expect(request(first.body.rows)).toEqual(await ids(`${where} order by id desc limit 4`));
    search.set('from', first.body.more);
    const second = await service.get(`/ferry/passages?${search.toString()}`);
    expect(request(second.body.rows)).toEqual(
      await ids(`${where} order by id desc limit 4 offset 4`),
    );
  });

  it.each([
    ['/wharf/passages/list?pageNo=-1', 'not-a-whole-number', 'pageNo'],
    ['/wharf/passages/list?pagesize=3', 'unknown-parameter', 'pagesize'],
    ['/wharf/passages/list?pageSize=many', 'not-a-whole-number', 'pageSize'],
    ['/wharf/passages/list?pageSize=1&pageSize=2', 'repeated-parameter', 'pageSize'],
    ['/wharf/passages/list?sortField=tol', 'unknown-column', 'sortField'],
    ['/wharf/passages/list?sortField=toll&sortDir=sideways', 'not-one-of', 'sortDir'],
    ['/wharf/passages/list?where[tol]=3', 'unknown-column', 'where[tol]'],
    ['/wharf/passages/list?where[toll][gtt]=3', 'not-one-of', 'where[toll][gtt]'],
    ['/wharf/passages/list?where[toll]=much', 'type-mismatch', 'where[toll]'],
    ['/wharf/boats/list?where[crew]=Ada', 'not-comparable', 'where'],
    ['/wharf/passages/list?where[passed_at]=soon', 'invalid-value', 'where'],
    ['/wharf/passages/list?where=3', 'unexpected-token', 'where'],
    ['/wharf/passages/list?where[toll][lt]=', 'wrong-argument-count', 'where[toll][lt]'],
    ['/wharf/passages/list?where[a][b][c]=1', 'unexpected-token', 'where[a][b][c]'],
    ['/wharf/passages/list?pageSize=%zz', 'malformed-escape', 'pageSize'],
    ['/barge/passages.list?cond[x][f]=toll', 'unexpected-token', 'cond[x][f]'],
    ['/barge/passages.list?cond[0][v]=3', 'unknown-column', 'cond[0]'],
    ['/barge/passages.list?start=0', 'not-a-whole-number', 'start'],
    ['/ferry/passages?q={"rules":3}', 'unexpected-token', 'q'],
    ['/ferry/passages?q={"column":"toll","tost":"equals"}', 'unexpected-token', 'q'],
    ['/ferry/passages?q={', 'unexpected-end', 'q'],
    ['/ferry/passages?from=AAAA', 'malformed-cursor', 'from'],
  ])('is told what is wrong with %s in its own words', async (path, code, parameter) => {
    const { status, body } = await service.get(path);
    expect([status, body.errors[0].code, body.errors[0].parameter]).toEqual([400, code, parameter]);
  });

  it('reports what is too long with the rest', async () => {
    const { status, body } = await service.get(`/ferry/passages?q=${'x'.repeat(20_000)}&take=x`);
    const answer = body.errors.map(({ code, parameter }: any) => [code, parameter]);
    expect([status, answer]).toEqual([
      413,
      [
        ['parameter-too-long', 'q'],
        ['not-a-whole-number', 'take'],
      ],
    ]);
  });

  it('is served where it asks, and nowhere else', async () => {
    expect((await service.get('/wharf/nothing/list')).status).toBe(404);
    expect((await service.get('/wharf/passages')).status).toBe(404);
    expect((await fetch(`${service.url}/ferry/passages`, { method: 'POST' })).status).toBe(405);
    const { headers } = await service.get('/ferry/passages', {
      Origin: 'https://desk.example.com',
    });
    expect(headers.get('access-control-allow-origin')).toBe('https://desk.example.com');
  });
});

describe('a spelling that cannot be', () => {
  const errors = (text: string): string => {
    try {
      parseConfiguration(`spelling:\n${text}`, 'test.yaml');
    } catch (thrown) {
      return (thrown as Error).message;
    }
    return '';
  };
  const answer = 'answer: { rows: "" }';

  it.each([
    [`- { at: /x, parameters: {}, ${answer} }`, '2:5', 'say which table'],
    [
      `- { at: "/x/{table}", table: boats, parameters: {}, ${answer} }`,
      '2:23',
      'names the table already',
    ],
    [`- { at: "/x/{table}/{page}", parameters: {}, ${answer} }`, '2:5', '{table} alone'],
    [`- { at: /api/x, table: boats, parameters: {}, ${answer} }`, '2:5', 'the service’s own'],
    [`- { at: /, table: boats, parameters: {}, ${answer} }`, '2:5', 'the service’s own'],
    [
      `- { at: /x, table: boats, parameters: { search: q, columns: q }, ${answer} }`,
      '2:41',
      'also the name of',
    ],
    [
      `- { at: /x, table: boats, parameters: { page: { name: p, from: 1 }, offset: { name: o, from: 0 } }, ${answer} }`,
      '2:69',
      'name one',
    ],
    [
      `- { at: /x, table: boats, parameters: { page: { name: p, from: 2 } }, ${answer} }`,
      '2:58',
      'page.from',
    ],
    [
      `- { at: /x, table: boats, parameters: { filter: { name: f, form: json } }, ${answer} }`,
      '2:41',
      'its column and its value',
    ],
    [
      `- { at: /x, table: boats, parameters: { sort: { name: s, ascending: [a], descending: [a] } }, ${answer} }`,
      '2:41',
      'both directions',
    ],
    [
      `- { at: /x, table: boats, parameters: {}, answer: { rows: data, total: data.total } }`,
      '2:53',
      'inside of rows',
    ],
    [
      `- { at: /x, table: boats, parameters: {}, answer: { rows: "", total: total } }`,
      '2:53',
      'inside of rows',
    ],
    [`- { at: /x, table: boats, parameters: {}, answer: { rows: "a..b" } }`, '2:53', 'no path'],
    [
      `- { at: /x, table: boats, parameters: {}, operators: { gte: atleast }, ${answer} }`,
      '2:56',
      'gte',
    ],
  ])('is told at its line: %s', (text, place, message) => {
    const note = errors(`  ${text}`.replace('  -', '-'));
    expect(note).toContain(message);
    expect(note).toMatch(new RegExp(`^test.yaml:${place}: `));
  });

  it('is refused when its table is not there', async () => {
    const text = `spelling:\n- { at: /x, table: boatz, parameters: {}, ${answer} }`;
    await expect(startService(lowmere, text)).rejects.toThrow(
      'test.yaml:2:13: no table is published as boatz; perhaps boats',
    );
  });
});
