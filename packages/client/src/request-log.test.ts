import { createClient, RequestLog, type LoggedRequest } from './index.ts';
import { until } from '../../core/src/testing/until.ts';
import { cacheSmallResults } from './local/index.ts';

let clock = 1_000;
/** A service that answers what the test says, each answer a second later. */
function serviceOf(answer: (url: string, request: RequestInit) => Response): typeof fetch {
  return async (url, request = {}) => {
    await Promise.resolve();
    clock += 1_000;
    request.signal?.throwIfAborted();
    return answer(url instanceof Request ? url.url : String(url), request);
  };
}
const json = (body: unknown, headers: Record<string, string> = {}, status = 200): Response =>
  new Response(JSON.stringify(body), { status, headers });
const rows = { columns: ['id'], rows: [[1], [2]], window: { total: 2 }, next: null };

function logged(
  answer: Parameters<typeof serviceOf>[0],
  most?: number,
): {
  log: RequestLog;
  client: ReturnType<typeof createClient>;
  last: () => LoggedRequest | undefined;
} {
  const log = new RequestLog({ now: () => clock, ...(most === undefined ? {} : { most }) });
  const client = createClient({ url: '/api', fetch: serviceOf(answer), log });
  return { log, client, last: () => log.entries().at(-1) };
}

describe('the log of requests', () => {
  it('shows what was requested, how long each stage took, from where the answer came', async () => {
    const { client, log, last } = logged(() =>
      json(rows, { 'Server-Timing': 'parse;dur=0.50, database;dur=12.25' }),
    );
    const states: (string | undefined)[] = [];
    log.subscribe(() => states.push(last()?.state));
    await client.rows('odd, name', { limit: 2 });
    expect(last()).toMatchObject({
      id: 1,
      method: 'GET',
      address: '/api/tables/odd%2C%20name/rows?limit=2&shape=arrays',
      about: { kind: 'rows', table: 'odd, name' },
      state: 'answered',
      status: 200,
      from: 'database',
      milliseconds: 1_000,
      stages: [
        { name: 'parse', milliseconds: 0.5 },
        { name: 'database', milliseconds: 12.25 },
      ],
      count: 2,
    });
    expect(states).toEqual(['under-way', 'under-way', 'answered']);
    expect(JSON.stringify(log.entries())).not.toContain('[1]');
  });

  it.each([
    ['/tables', 'tables', undefined],
    ['/tables/tables', 'description', 'tables'],
    ['/tables/rows/rows?limit=1&total=exact&filter=a', 'total', 'rows'],
    ['/tables/t/query', 'rows', 't'],
    ['/tables/t/rows/1,2', 'row', 't'],
    ['/tables/t/rows/1/history', 'history', 't'],
    ['/tables/t/values/lock.name?limit=3', 'values', 't'],
    ['/tables/t/mileposts?ticks=3', 'mileposts', 't'],
    ['/tables/t/changes', 'changes', 't'],
    ['/changes/x/undo', 'changes', undefined],
    ['/views/x', 'views', undefined],
  ])('says what an address is about: %s', (path, kind, table) => {
    const log = new RequestLog();
    const base = 'http://host/tables/api';
    log.begin({ method: 'GET', address: base + path, body: undefined, base }, () =>
      Promise.reject(new Error('never asked')),
    );
    expect(log.entries()[0]?.about).toMatchObject({ kind, ...(table && { table }) });
  });

  it('reports what failed, was refused or abandoned, and remembered answers', async () => {
    const { client, last } = logged((url) => {
      if (url.includes('/gone')) throw new TypeError('connection refused');
      if (url.includes('/wrong')) return json({ detail: 'There is no table.' }, {}, 404);
      return json(rows, { Age: '3' });
    });
    await client.rows('t');
    expect(last()).toMatchObject({ state: 'answered', from: 'service-cache' });
    await expect(client.rows('gone')).rejects.toThrow();
    expect(last()).toMatchObject({ state: 'failed', message: 'The service cannot be reached.' });
    await expect(client.rows('wrong')).rejects.toThrow();
    expect(last()).toMatchObject({ state: 'failed', status: 404, message: 'There is no table.' });
    const controller = new AbortController();
    const pending = client.rows('t', {}, controller.signal);
    controller.abort();
    await expect(pending).rejects.toThrow();
    expect(last()).toMatchObject({ state: 'abandoned' });
  });

  it('remembers the last ones, and nothing that was forgotten meanwhile', async () => {
    const { client, log } = logged(() => json(rows), 3);
    for (let startedAt = 0; startedAt < 5; startedAt += 1) await client.rows(`t${startedAt}`);
    expect(log.entries().map(({ about }) => about.table)).toEqual(['t2', 't3', 't4']);
    await expect(log.explain(1)).rejects.toThrow('not explained');
    const response = client.rows('t');
    log.clear();
    await response;
    expect(log.entries()).toEqual([]);
  });

  it('has a question explained that is sent once more, in its address or its body', async () => {
    const explanation = { sql: 'select 1', parameters: [], steps: [], indexes: [], rowsRead: 7 };
    const observed: [string, unknown][] = [];
    const { client, log, last } = logged((url, { body }) => {
      observed.push([url, body]);
      return json({ ...rows, explanation });
    });
    await client.rows('t', { limit: 2 });
    expect(await log.explain(last()?.id ?? 0)).toEqual(explanation);
    expect(observed.at(-1)?.[0]).toBe('/api/tables/t/rows?limit=2&shape=arrays&explain=true');
    await client.rows('t', { filter: `a = '${'x'.repeat(3_000)}'` });
    await log.explain(last()?.id ?? 0);
    const [to, body] = observed.at(-1) ?? [];
    expect(to).toBe('/api/tables/t/query');
    expect(JSON.parse(String(body))).toMatchObject({ shape: 'arrays', explain: true });
    // A request for an explanation is no request of the page.
    expect(log.entries()).toHaveLength(2);
    // How many there are is counted by another statement than the one that is reported.
    await client.rows('t', { limit: 1, total: 'exact' });
    await expect(log.explain(last()?.id ?? 0)).rejects.toThrow('not explained');
    await client.describe('t');
    await expect(log.explain(last()?.id ?? 0)).rejects.toThrow('not explained');
  });

  it('asks which indexes a question would want, in its address or its body', async () => {
    const visible: string[] = [];
    const { client, log, last } = logged((url) => {
      visible.push(url);
      return json({ ...rows, advice: [{ statement: 'create index' }] });
    });
    await client.rows('rows', { filter: "a = '/rows?'", limit: 2 });
    expect(await log.advise(last()?.id ?? 0)).toEqual([{ statement: 'create index' }]);
    expect(visible.at(-1)).toMatch(/^\/api\/tables\/rows\/advice\?filter=a/);
    await client.rows('rows', { filter: `a = '${'x'.repeat(3_000)}'` });
    await log.advise(last()?.id ?? 0);
    expect(visible.at(-1)).toBe('/api/tables/rows/advice');
    await client.groups('t', { group: [] });
    await expect(log.advise(last()?.id ?? 0)).rejects.toThrow('not explained');
  });

  it('remembers no body of a million keys', async () => {
    const { client, last } = logged(() => json({ id: 'x' }, {}, 201));
    const keys = Array.from({ length: 20_000 }, (_, index) => String(index));
    await client.selections.keep('t', { kind: 'keys', keys });
    expect(last()).toMatchObject({ long: true, state: 'answered', about: { kind: 'selections' } });
    expect(last()).not.toHaveProperty('body');
  });

  it('says that what the database was not requested is remembered', async () => {
    const { client, last } = logged(() => json(rows, { 'Server-Timing': 'parse;dur=0.50' }));
    await client.rows('t');
    expect(last()).toMatchObject({ from: 'service-cache' });
  });

  it('shows what a client that keeps small results has answered itself', async () => {
    const description = {
      name: 't',
      title: 'T',
      kind: 'table',
      key: ['id'],
      relationships: [],
      search: [],
      columns: [
        {
          name: 'id',
          label: 'Id',
          type: { kind: 'integer', bits: 32 },
          shown: true,
          nullable: false,
          sortable: true,
          filterable: true,
        },
      ],
      defaultSort: [{ column: 'id', descending: false }],
      pageSizes: [50],
      rowCap: 1000,
      estimatedRows: 2,
      remarks: [],
    };
    const { client, log, last } = logged((url) =>
      json(
        url.includes('/rows')
          ? {
              ...rows,
              table: 't',
              window: { offset: 0, limit: 50, count: 2, total: 2, totalKind: 'exact' },
              previous: null,
            }
          : description,
      ),
    );
    const keeping = cacheSmallResults(client, { log });
    await keeping.describe('t');
    await keeping.rows('t', { limit: 50 });
    await until(
      () => Promise.resolve(keeping.cached('t').where),
      (where) => where === 'memory',
    );
    const before = log.entries().length;
    const answer = await keeping.rows('t', { limit: 1 });
    expect(answer.rows).toEqual([{ id: 1 }]);
    expect(log.entries()).toHaveLength(before + 1);
    expect(last()).toMatchObject({
      from: 'browser-cache',
      state: 'answered',
      count: 1,
      about: { kind: 'rows' },
    });
  });
});
