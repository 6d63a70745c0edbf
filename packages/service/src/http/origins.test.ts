import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { parseConfiguration } from '../index.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();
const desk = 'https://desk.example.com';
const path = '/api/tables/boats/rows?limit=1';

let closed: TestService;
let named: TestService;
let open: TestService;

beforeAll(async () => {
  [closed, named, open] = await Promise.all([
    startService(lowmere),
    startService(lowmere, `origins: ['${desk}', 'http://127.0.0.1:3000']`),
    startService(lowmere, "origins: ['*']"),
  ]);
});

afterAll(async () => {
  await Promise.all([closed, named, open].map((one) => one.close()));
});

/** What a browser would let a page of an origin do. */
async function told(service: TestService, origin: string, at = path): Promise<string | null> {
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
    expect(await told(closed, desk)).toBeNull();
    const asked = await preflight(closed, desk);
    expect(asked.status).toBe(405);
    expect(asked.headers.get('access-control-allow-methods')).toBeNull();
  });

  it('read the API, and no more, where theirs is named; others do not', async () => {
    expect(await told(named, desk)).toBe(desk);
    expect(await told(named, 'http://127.0.0.1:3000')).toBe('http://127.0.0.1:3000');
    for (const origin of [
      'https://desk.example.com.evil.test',
      'http://desk.example.com',
      'null',
    ]) {
      expect(await told(named, origin)).toBeNull();
    }
    expect(await told(named, desk, '/health')).toBeNull();
    // What is kept between for one of them is nothing for another.
    const { headers } = await named.get(path, { Origin: desk });
    expect(headers.get('vary')).toContain('Origin');
    expect(headers.get('access-control-expose-headers')).toMatch(/Ephoros-Rows.*ETag/);
    expect(headers.get('access-control-allow-credentials')).toBeNull();
  });

  it('are told mistakes as well as answers', async () => {
    const { status, headers } = await named.get('/api/tables/none/rows', { Origin: desk });
    expect([status, headers.get('access-control-allow-origin')]).toEqual([404, desk]);
  });

  it('ask before they write, with whatever headers they need', async () => {
    const asked = await preflight(named, desk);
    expect(asked.status).toBe(204);
    expect(asked.headers.get('access-control-allow-methods')).toContain('PATCH');
    expect(asked.headers.get('access-control-allow-headers')).toContain('idempotency-key');
    const refused = await preflight(named, 'https://elsewhere.example.com');
    expect(refused.headers.get('access-control-allow-origin')).toBeNull();
  });

  it('are all of them, where that is said', async () => {
    expect(await told(open, 'https://anything.example.com')).toBe('*');
  });

  it.each(['https://desk.example.com/', 'desk.example.com', 'https://desk.example.com/path'])(
    'are named as browsers say them, not as %s',
    (origin) => {
      const read = (): unknown => parseConfiguration(`origins: ['${origin}']`, 'ephoros.yaml');
      expect(read).toThrow(/origins\.0.*without a path/s);
    },
  );
});
