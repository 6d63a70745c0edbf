import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { parseConfiguration } from '../index.ts';
import { sendTo } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();
const desk = 'https://desk.example.com';
const path = '/api/tables/boats/rows?limit=1';

let closed: TestService;
let named: TestService;
let open: TestService;
let writing: TestService;

beforeAll(async () => {
  [closed, named, open, writing] = await Promise.all([
    startService(lowmere),
    startService(lowmere, `origins: ['${desk}', 'http://127.0.0.1:3000']`),
    startService(lowmere, "origins: ['*']"),
    startService(
      lowmere,
      `writingOrigins: ['${desk}']\nsignIn: [{ kind: proxy, header: X-Person, from: [127.0.0.9] }]`,
    ),
  ]);
});

afterAll(async () => {
  await Promise.all([closed, named, open, writing].map((one) => one.close()));
});

/** What a browser would let a page of an origin do. */
async function result(service: TestService, origin: string, at = path): Promise<string | null> {
  const { status, headers } = await service.get(at, { Origin: origin });
  expect(status).toBe(200);
  return headers.get('access-control-allow-origin');
}

const preflight = (service: TestService, origin: string): Promise<Response> =>
  fetch(`${service.url}/api/tables/boats/changes`, {
    method: 'OPTIONS',
    headers: {
      Origin: origin,
      'Access-Control-Request-Method': 'PATCH',
      'Access-Control-Request-Headers': 'authorization,content-type,idempotency-key',
    },
  });

describe('pages of other origins', () => {
  it('read nothing where none is named', async () => {
    expect(await result(closed, desk)).toBeNull();
    const wanted = await preflight(closed, desk);
    expect(wanted.status).toBe(405);
    expect(wanted.headers.get('access-control-allow-methods')).toBeNull();
  });

  it('read the API, and no more, where theirs is named; others do not', async () => {
    expect(await result(named, desk)).toBe(desk);
    expect(await result(named, 'http://127.0.0.1:3000')).toBe('http://127.0.0.1:3000');
    for (const origin of [
      'https://desk.example.com.evil.test',
      'http://desk.example.com',
      'null',
    ]) {
      expect(await result(named, origin)).toBeNull();
    }
    expect(await result(named, desk, '/health')).toBeNull();
    // What is stored between for one of them is nothing for another.
    const { headers } = await named.get(path, { Origin: desk });
    expect(headers.get('vary')).toContain('Origin');
    expect(headers.get('access-control-expose-headers')).toMatch(/Ephoros-Rows.*ETag/);
    expect(headers.get('access-control-allow-credentials')).toBeNull();
  });

  it('get errors as well as answers', async () => {
    const { status, headers } = await named.get('/api/tables/none/rows', { Origin: desk });
    expect([status, headers.get('access-control-allow-origin')]).toEqual([404, desk]);
  });

  it('ask before they write, with whatever headers they need', async () => {
    const request = await preflight(named, desk);
    expect(request.status).toBe(204);
    expect(request.headers.get('access-control-allow-methods')).toContain('PATCH');
    expect(request.headers.get('access-control-allow-headers')).toContain('idempotency-key');
    const refused = await preflight(named, 'https://elsewhere.example.com');
    expect(refused.headers.get('access-control-allow-origin')).toBeNull();
  });

  it('change nothing, whatever they send', async () => {
    const { body: document } = await named.get('/api/openapi.json');
    const writes = Object.entries(document.paths as Record<string, object>).flatMap(
      ([template, operations]) =>
        Object.keys(operations)
          .filter((method) => ['post', 'patch', 'put', 'delete'].includes(method))
          .map((method) => `${method.toUpperCase()} ${template}`),
    );
    const refused = async (service: TestService, origin: string): Promise<readonly string[]> => {
      const found = await Promise.all(
        writes.map(async (write) => {
          const [method = '', template = ''] = write.split(' ');
          const at = `/api${template.replace('{table}', 'boats').replaceAll(/\{\w+\}/g, 'x')}`;
          const answer = await sendTo(
            method,
            service.url + at,
            {},
            { headers: { Origin: origin } },
          );
          const { type } = (answer.body ?? {}) as { type?: string };
          return type === 'urn:ephoros:problem:cross-origin-refused' ? [write] : [];
        }),
      );
      return found.flat().toSorted();
    };
    // A route that is not known to ask changes something.
    const changing = [
      'DELETE /changes',
      'DELETE /views/{id}',
      'PATCH /views/{id}',
      'POST /changes',
      'POST /changes/{id}/undo',
      'POST /tables/{table}/changes',
      'POST /views',
    ];
    const selecting = [
      'DELETE /queries/{id}',
      'DELETE /selections/{id}',
      'PATCH /selections/{id}',
      'POST /selections',
    ];
    expect(await refused(named, desk)).toEqual(changing);
    expect(await refused(open, desk)).toEqual([...changing, ...selecting].toSorted());
    expect(await refused(named, 'https://elsewhere.example.com')).toEqual(writes.toSorted());
    expect(await refused(named, named.url)).toEqual([]);
    expect(await refused(writing, desk)).toEqual([]);
    expect(await refused(writing, 'https://elsewhere.example.com')).toEqual(writes.toSorted());
  });

  it('write only where callers sign in', async () => {
    expect((await preflight(writing, desk)).headers.get('access-control-allow-methods')).toContain(
      'DELETE',
    );
    const answer = await sendTo(
      'POST',
      `${writing.url}/api/changes`,
      {},
      { headers: { Origin: desk } },
    );
    expect(answer.status).toBe(401);
    await expect(startService(lowmere, `writingOrigins: ['${desk}']`)).rejects.toThrow(
      /pages of other origins write only where callers sign in/,
    );
  });

  it('are those of the address alone, where that is stated', async () => {
    const service = await startService(lowmere, "address: 'https://here.example.com'");
    const from = async (origin: string): Promise<number> =>
      (
        await sendTo(
          'POST',
          `${service.url}/api/tables/boats/query`,
          {},
          { headers: { Origin: origin } },
        )
      ).status;
    expect(await from('https://here.example.com')).toBe(200);
    // The Host header is what anybody may send.
    expect(await from(service.url)).toBe(403);
    await service.close();
  });

  it('are all of them, where that is stated', async () => {
    expect(await result(open, 'https://anything.example.com')).toBe('*');
  });

  it.each(['https://desk.example.com/', 'desk.example.com', 'https://desk.example.com/path'])(
    'are named as browsers say them, not as %s',
    (origin) => {
      const read = (): unknown => parseConfiguration(`origins: ['${origin}']`, 'ephoros.yaml');
      expect(read).toThrow(/origins\.0.*without a path/s);
    },
  );
});
