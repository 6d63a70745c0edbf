import { createClient, ServiceError, where } from './index.ts';

function answering(status: number, body: string): { requests: string[]; fetch: typeof fetch } {
  const requests: string[] = [];
  return {
    requests,
    fetch: (address) => {
      requests.push(address as string);
      return Promise.resolve(new Response(body, { status }));
    },
  };
}

const name = { name: 'id', span: { start: 0, end: 0 } };

describe('the client', () => {
  it('spells a query as the URL and gives rows by column name', async () => {
    const body =
      '{"table":"a b","columns":["id","toll"],"rows":[["1",null]],"window":{"offset":0,"limit":5,"count":1,"total":1,"totalKind":"exact"}}';
    const { requests, fetch } = answering(200, body);
    const client = createClient({ url: 'http://host:1/api/', fetch });
    const { rows } = await client.rows('a b', {
      sort: [{ column: name, descending: true }],
      filter: { kind: 'property', name: 'clear', span: { start: 0, end: 0 } },
      limit: 5,
    });
    expect(requests).toEqual([
      'http://host:1/api/tables/a%20b/rows?filter=clear&sort=-id&limit=5&shape=arrays',
    ]);
    expect(rows).toEqual([{ id: '1', toll: null }]);
  });

  it('asks by a body what is too long for a URL', async () => {
    const given: { address: string; method: string | undefined; body: unknown }[] = [];
    const client = createClient({
      url: '/api',
      fetch: (address, { method, body } = {}) => {
        given.push({ address: address as string, method, body: JSON.parse(body as string) });
        return Promise.resolve(new Response('{"columns":[],"rows":[],"window":{}}'));
      },
    });
    const filter = where<'id'>().oneOf(
      'id',
      Array.from({ length: 2000 }, (_, n) => n),
    );
    await client.rows('t', { filter, limit: 5 });
    expect(given).toMatchObject([
      { address: '/api/tables/t/query', method: 'POST', body: { limit: '5', shape: 'arrays' } },
    ]);
  });

  it('asks for the mileposts of the rows and their order, and of nothing else', async () => {
    const { requests: requested, fetch } = answering(200, '{"state":"ready","ticks":[]}');
    const client = createClient({ url: '/api', fetch });
    const answer = await client.mileposts(
      't',
      { sort: [{ column: name, descending: true }], limit: 5, total: 'none', nulls: 'first' },
      50,
    );
    expect(requested).toEqual(['/api/tables/t/mileposts?sort=-id&nulls=first&ticks=50']);
    expect(answer.state).toBe('ready');
  });

  it('shows when a full service wants to be requested again', async () => {
    const full = new Response('{"title":"Full"}', {
      status: 503,
      headers: { 'Retry-After': '3' },
    });
    const client = createClient({ url: '/api', fetch: () => Promise.resolve(full) });
    await expect(client.tables()).rejects.toMatchObject({ kind: 'unavailable', retryAfter: 3 });
  });

  it('writes the parts of a key into the path, escaped', async () => {
    const { requests: asked, fetch } = answering(200, '{"row":{"id":1}}');
    await createClient({ url: '/api', fetch }).row('t', ['a,b/c', 7]);
    expect(asked).toEqual(['/api/tables/t/rows/a%2Cb%2Fc,7']);
  });

  it('rejects with the problems of a refused query', async () => {
    const problem = {
      code: 'unknown-column',
      parameter: 'sort',
      position: 1,
      length: 2,
      message: 'No.',
    };
    const body = JSON.stringify({
      title: 'T',
      detail: 'D',
      status: 400,
      requestId: 'r',
      errors: [problem],
    });
    const client = createClient({ url: '/api', fetch: answering(400, body).fetch });
    await expect(client.rows('t')).rejects.toMatchObject({
      kind: 'refused',
      status: 400,
      message: 'D',
      requestId: 'r',
      problems: [problem],
    });
  });

  it.each([
    [503, 'unavailable'],
    [504, 'failed'],
    [500, 'failed'],
    [404, 'refused'],
  ])('takes a %i that is no problem document as %s', async (status, kind) => {
    const client = createClient({ url: '/api', fetch: answering(status, '<html>').fetch });
    await expect(client.tables()).rejects.toMatchObject({ kind, status });
  });

  it('reports a service that is away from an answer that broke off and from an aborted question', async () => {
    const away = createClient({
      url: '/api',
      fetch: () => Promise.reject(new TypeError('refused')),
    });
    await expect(away.tables()).rejects.toBeInstanceOf(ServiceError);
    await expect(away.tables()).rejects.toMatchObject({ kind: 'unavailable' });
    const broken = createClient({ url: '/api', fetch: answering(200, '{"tables":').fetch });
    await expect(broken.tables()).rejects.toMatchObject({ kind: 'unavailable' });
    const reason = new Error('moved on');
    const page = new Response('<!doctype html>', { headers: { 'Content-Type': 'text/html' } });
    const elsewhere = createClient({ url: '/wrong', fetch: () => Promise.resolve(page) });
    await expect(elsewhere.tables()).rejects.toMatchObject({
      kind: 'failed',
      message: 'What answers at /wrong/tables is a page, no API. Is /wrong where it is?',
    });
    const aborted = createClient({ url: '/api', fetch: () => Promise.reject(reason) });
    await expect(aborted.tables(AbortSignal.abort(reason))).rejects.toBe(reason);
  });
});
