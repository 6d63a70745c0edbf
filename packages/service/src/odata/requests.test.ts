import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();

let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere, 'odata: true\ntables: { passages: { rowCap: 50 } }');
});
afterAll(async () => {
  await service.close();
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

describe('a request of OData', () => {
  it('takes options without $, in any letter case, and in a body', async () => {
    const wanted = await rowsOf('passages', { $top: '1', $select: 'id', $filter: 'toll gt 20' });
    expect(await rowsOf('passages', { TOP: '1', Select: 'id', filter: 'toll gt 20' })).toEqual(
      wanted,
    );
    const response = await fetch(`${service.url}/odata/passages/$query`, {
      method: 'POST',
      headers: { 'Content-Type': 'text/plain' },
      body: '$top=1&$select=id&$filter=toll%20gt%2020',
    });
    expect((await response.json()).value).toEqual(wanted);
  });

  it.each([
    ['the version that a client takes', { 'OData-MaxVersion': '4.0' }, 200, '4.0'],
    ['none older', { 'OData-MaxVersion': '3.0' }, 400, '4.01'],
    ['JSON without metadata', { Accept: 'application/json;odata.metadata=none' }, 200, '4.01'],
    ['no metadata in full', { Accept: 'application/json;metadata=full' }, 406, '4.01'],
    ['no feeds', { Accept: 'application/atom+xml' }, 406, '4.01'],
    [
      'whatever comes first',
      { Accept: 'application/atom+xml, application/json;q=0.5' },
      200,
      '4.01',
    ],
  ])('answers in %s', async (_what, headers, status, version) => {
    const answer = await get('passages', { $top: '1' }, headers);
    expect(answer.status).toBe(status);
    expect(answer.headers.get('odata-version')).toBe(version);
    if (status !== 200) expect(answer.body.error.message).toEqual(expect.any(String));
    const isBare = String((headers as Requested).Accept).includes('none');
    expect('@odata.context' in answer.body).toBe(status === 200 && !isBare);
  });

  it('writes large numbers as texts for those who cannot hold them', async () => {
    const accept = { Accept: 'application/json;IEEE754Compatible=true' };
    const { body, headers } = await get(
      'passages',
      { $top: '1', $select: 'id,toll', $filter: 'toll gt 20', $count: 'true' },
      accept,
    );
    expect(headers.get('content-type')).toContain('IEEE754Compatible=true');
    expect(typeof body.value[0].id).toBe('string');
    expect(typeof body['@odata.count']).toBe('string');
  });

  it.each([
    [{ $filter: "indexof(note,'x') gt 2" }, 501, 'not-implemented', '$filter', 0],
    [
      { $filter: 'toll gt 1 and matchesPattern(note,%27x%27)' },
      400,
      'unexpected-character',
      '$filter',
      34,
    ],
    [{ $filter: "toll gt 1 and matchesPattern(note,'x')" }, 501, 'not-implemented', '$filter', 14],
    [{ $filter: "toll gt 'much'" }, 400, 'type-mismatch', '$filter', 8],
    [{ $orderby: 'tol' }, 400, 'unknown-column', '$orderby', 0],
    [{ $select: 'id,nothing' }, 400, 'unknown-column', '$select', 3],
    [{ $expand: 'passages' }, 400, 'unknown-column', '$expand', 0],
    [{ $compute: 'toll mul 2 as twice' }, 501, 'not-implemented', '$compute', undefined],
    [{ $search: 'heron OR gate' }, 501, 'not-implemented', '$search', 6],
    [{ $top: 'ten' }, 400, 'not-a-whole-number', '$top', 0],
    [{ $skiptoken: '.x!' }, 400, 'malformed-cursor', '$skiptoken', 0],
    [{ $skiptoken: '.AAAA' }, 400, 'malformed-cursor', '$skiptoken', 0],
    [{ $apply: 'rollup(toll)' }, 501, 'not-implemented', '$apply', 0],
    [{ $apply: 'groupby((status))', $count: 'true' }, 501, 'not-implemented', '$count', undefined],
    [{ filtr: 'toll gt 1' }, 400, 'unknown-parameter', 'filtr', undefined],
    [{ $top: '1', top: '2' }, 400, 'repeated-parameter', 'top', undefined],
  ])('refuses %j at its place', async (request, status, code, target, position) => {
    const { status: got, body } = await get('passages', request);
    expect([got, body.error.code, body.error.target]).toEqual([status, code, target]);
    expect(body.error['@Ephoros.position']).toBe(position);
  });

  it('reads no option that is longer than other parameters may be', async () => {
    const { status, body } = await get('passages', { $filter: `note eq '${'x'.repeat(20_000)}'` });
    const { code, target } = body.error;
    expect([status, code, target]).toEqual([413, 'parameter-too-long', '$filter']);
  });

  it('reports all errors of a request at once', async () => {
    const { body } = await get('passages', {
      $filter: 'tol gt 1',
      $orderby: 'nothing',
      $top: '-1',
    });
    const targets = [body.error, ...body.error.details].map(({ target }: any) => target);
    expect(new Set(targets)).toEqual(new Set(['$filter', '$orderby', '$top']));
  });

  it.each([
    ['boats', 'POST', 405],
    ['passages(17)', 'DELETE', 405],
    ['passages(17)', 'PATCH', 405],
    ['$batch', 'POST', 501],
    ['passages(1)/nothing', 'GET', 404],
    ['nothing', 'GET', 404],
    ['passages()', 'GET', 501],
    ['passages(a=1)', 'GET', 400],
    ['passages(1', 'GET', 400],
    ['passages(%27x%27)', 'GET', 400],
    ['$crossjoin(passages,locks)', 'GET', 501],
  ])('answers %s by %s with an error of OData', async (path, method, status) => {
    const response = await fetch(`${service.url}/odata/${path}`, { method });
    expect(response.status).toBe(status);
    expect(response.headers.get('odata-version')).toBe('4.01');
    expect((await response.json()).error).toMatchObject({
      code: expect.any(String),
      message: expect.any(String),
    });
  });

  it('takes an option once, be it in the URL, in the body, with or without $', async () => {
    const response = await fetch(`${service.url}/odata/passages/$query?$top=1`, {
      method: 'POST',
      headers: { 'Content-Type': 'text/plain' },
      body: '$top=2',
    });
    const { error } = (await response.json()) as { error: any };
    expect([response.status, error.code, error.target]).toEqual([
      400,
      'repeated-parameter',
      '$top',
    ]);
  });

  it('reads quoted parameters of a type, and the weights of several', async () => {
    for (const [accept, metadata] of [
      ['application/json;odata.metadata="none"', 'none'],
      [
        'text/html, application/json;q=0.2;metadata=minimal, application/json;METADATA=none',
        'none',
      ],
      ['application/json;metadata=none;q=0, */*', 'minimal'],
    ] as const) {
      const { status, headers } = await get('passages', { $top: '1' }, { Accept: accept });
      expect([accept, status]).toEqual([accept, 200]);
      expect(headers.get('content-type')).toContain(`odata.metadata=${metadata}`);
    }
  });

  it('keeps keys and values out of the log', async () => {
    await get("owners('a secret')", { $filter: "name eq 'a secret'" });
    expect(service.log.join('')).toContain('/odata/owners(…');
    expect(service.log.join('')).not.toContain('secret');
  });

  it('sends nothing again that a client has already', async () => {
    const { headers } = await get('passages', { $top: '2' });
    const again = await get(
      'passages',
      { $top: '2' },
      // Without it Node's fetch asks for a fresh answer.
      { 'If-None-Match': headers.get('etag') ?? '', 'Cache-Control': 'max-age=0' },
    );
    expect(again.status).toBe(304);
  });
});
