import { ServiceError } from '../index.ts';
import { filesClient } from './index.ts';

interface Requested {
  readonly address: string;
  readonly init: RequestInit;
}

/** A service that answers with one response, and the requests that it got. */
function answering(make: () => Response): { wanted: Requested[]; fetch: typeof fetch } {
  const wanted: Requested[] = [];
  return {
    wanted,
    fetch: (address, init = {}) => {
      wanted.push({ address: address as string, init });
      return Promise.resolve(make());
    },
  };
}

const csv = (headers: Record<string, string> = {}): Response =>
  new Response('id\r\n1\r\n', {
    headers: { 'Content-Type': 'text/csv; charset=utf-8', ...headers },
  });

const text = async (body: ReadableStream<Uint8Array<ArrayBuffer>>): Promise<string> =>
  new Response(body).text();

describe('files of rows', () => {
  it('are requested by a query and a form, and come as they are', async () => {
    const { wanted, fetch } = answering(() => csv({ 'Ephoros-Rows': '1' }));
    const files = filesClient({
      url: 'http://x/api/',
      fetch,
      headers: { Authorization: 'Bearer b' },
    });
    const file = await files.open(
      'two words',
      { filter: "name = 'é'", limit: 5, total: 'none', shape: 'arrays' },
      { format: 'csv', 'line-end': 'lf', bom: true },
    );
    expect(wanted[0]?.address).toBe(
      "http://x/api/tables/two%20words/export?filter=name%20%3D%20'%C3%A9'&limit=5&format=csv&line-end=lf&bom=true",
    );
    expect(wanted[0]?.init.headers).toMatchObject({ Authorization: 'Bearer b' });
    expect(wanted[0]?.address).toBe(
      files.url(
        'two words',
        { filter: "name = 'é'", limit: 5 },
        { format: 'csv', 'line-end': 'lf', bom: true },
      ),
    );
    expect(file).toMatchObject({ name: 'two words.csv', rows: 1, about: undefined });
    expect(file.mediaType).toBe('text/csv; charset=utf-8');
    expect(await text(file.body)).toBe('id\r\n1\r\n');
  });

  it('are requested in a body where the question is long', async () => {
    const { wanted: request, fetch } = answering(() => csv({ 'Ephoros-Rows-About': '2000' }));
    const filter = `id IN (${Array.from({ length: 900 }, (_, id) => id).join(', ')})`;
    const files = filesClient({ url: '/api', fetch });
    const file = await files.open(
      'boats',
      { filter, limit: 7 },
      { format: 'csv', formulas: false },
    );
    const { address, init } = request[0]!;
    expect([address, init.method]).toEqual(['/api/tables/boats/export', 'POST']);
    expect(init.headers).toMatchObject({ 'Content-Type': 'application/json' });
    expect(JSON.parse(init.body as string)).toEqual({
      filter,
      limit: '7',
      format: 'csv',
      formulas: 'false',
    });
    expect([file.rows, file.about]).toEqual([undefined, 2_000]);
  });

  it('are refused, not there, or given up as all answers are', async () => {
    const problem = { status: 413, detail: 'An export has at most 10 rows; this one has 20.' };
    const refusing = answering(() => new Response(JSON.stringify(problem), { status: 413 }));
    const refused = filesClient({ url: '/api', fetch: refusing.fetch });
    const open = refused.open('boats', {}, { format: 'csv' });
    await expect(open).rejects.toMatchObject({ kind: 'refused', message: problem.detail });
    const away = filesClient({
      url: '/api',
      fetch: () => Promise.reject(new TypeError('unavailable')),
    });
    await expect(away.open('boats', {}, { format: 'json' })).rejects.toThrow(ServiceError);
    const reason = new Error('not wanted any more');
    const left = filesClient({ url: '/api', fetch: () => Promise.reject(reason) });
    const aborted = left.open('boats', {}, { format: 'json' }, AbortSignal.abort(reason));
    await expect(aborted).rejects.toBe(reason);
  });
});
