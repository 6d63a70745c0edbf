import Ajv, { type ValidateFunction } from 'ajv/dist/2020';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';

let service: TestService;
let document: any;
const ajv = new Ajv({ strict: false, allErrors: true });

let records: { url: string; drop: () => Promise<void> };

beforeAll(async () => {
  records = await freshDatabase('openapi_records', []);
  service = await startService(
    testDatabases().lowmere,
    'tables: { passages: { sort: -passed_at, columns: { direction: { valueLabels: { up: upstream } } } } }',
    { records: records.url },
  );
  const remaining = {
    table: 'passages',
    name: 'Dear',
    view: { version: 1, sort: '-toll', open: [['a', 1]] },
  };
  await fetch(`${service.url}/api/views`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(remaining),
  });
  ({ body: document } = await service.get('/api/openapi.json'));
  ajv.addSchema(document, 'api');
});

afterAll(async () => {
  await service.close();
  await records.drop();
});

/** Checks what stands at a path of the document. */
function schemaAt(...path: readonly string[]): ValidateFunction {
  const pointer = path.map((part) => part.replaceAll('~', '~0').replaceAll('/', '~1'));
  return ajv.compile({ $ref: `api#/${pointer.map(encodeURIComponent).join('/')}` });
}

/** The path of the document that an address belongs to. */
function pathOf(address: string): string {
  const parts = address.replace(/\?.*/, '').split('/').slice(2);
  const found = Object.keys(document.paths as object).find((path) => {
    const wanted = path.slice(1).split('/');
    return (
      wanted.length === parts.length &&
      wanted.every((part, index) => part.startsWith('{') || part === parts[index])
    );
  });
  if (found === undefined) throw new Error(`${address} is not documented`);
  return found;
}

async function request(
  address: string,
  body?: object,
): Promise<{ status: number; type: string; answer: unknown }> {
  const posted = body && { method: 'POST', body: JSON.stringify(body) };
  const response = await fetch(service.url + address, posted);
  const type = response.headers.get('content-type')?.split(';')[0] ?? '';
  return { status: response.status, type, answer: await response.json() };
}

/** What of an answer its documentation does not say. */
async function undocumented(address: string, body?: object): Promise<unknown> {
  const { status, type, answer } = await request(address, body);
  const method = body === undefined ? 'get' : 'post';
  const path = ['paths', pathOf(address), method, 'responses', String(status)];
  const validate = schemaAt(...path, 'content', type, 'schema');
  return validate(answer) ? undefined : [status, validate.errors];
}

const rows = '/api/tables/passages/rows';
const groups = '/api/tables/passages/groups';

describe('the description of the API', () => {
  it.each([
    ['/api/tables'],
    ['/api/tables/passages'],
    ['/api/tables/boats'],
    [`${rows}?limit=3&columns=id,lock.name,toll,note`],
    [`${rows}?limit=3&shape=arrays&total=none`],
    [`${rows}?limit=3&total=estimate&offset=40&explain=true`],
    [`${rows}?limit=3&columns=note&cells=20`],
    [`${rows}/7`],
    [`${groups}?group=direction,month(passed_at)&aggregate=count(),sum(toll),max(direction)`],
    [`${groups}?group=direction,status&path=["up"]&explain=true`],
    ['/api/tables/passages/aggregates?aggregate=avg(toll),median(passed_at)&explain=true'],
    ['/api/tables/passages/values/direction'],
    ['/api/tables/passages/values/toll?bins=5&limit=2'],
    ['/api/tables/passages/mileposts?ticks=3'],
    ['/api/tables/passages/advice?sort=-toll&search=heron'],
    ['/api/views'],
    ['/api/views/nothing'],
    // Refusals say as much as answers do.
    [`${rows}?filter=tol=1&sort=-nonsense&limt=3`],
    [`${rows}/nothing`],
    ['/api/tables/passagess'],
    [`${rows}?filter=${'x'.repeat(20_000)}`],
  ])('says what is answered to %s', async (address) => {
    expect(await undocumented(address)).toBeUndefined();
  });

  it.each([
    ['/api/tables/passages/query', { columns: ['id'], limit: 2, filter: 'toll > 3' }],
    [groups, { group: ['status'], aggregate: ['count()'] }],
    ['/api/tables/passages/aggregates', { aggregate: 'sum(toll)' }],
    ['/api/tables/passages/values/status', { limit: 3 }],
    ['/api/tables/passages/query', { filter: 'tol > 3', nonsense: 1 }],
  ])('says what is answered to %s with a body', async (address, body) => {
    expect(await undocumented(address, body)).toBeUndefined();
  });

  it('names every operation once, and every status that is answered', async () => {
    const operations = Object.entries(
      document.paths as Record<string, Record<string, any>>,
    ).flatMap(([path, methods]) =>
      Object.entries(methods).map(([method, one]) => ({ path, method, ...one })),
    );
    expect(operations.length).toBeGreaterThan(10);
    const ids = operations.map(({ operationId }) => operationId as unknown);
    expect(ids.every((id) => typeof id === 'string' && /^[a-z][A-Za-z]+$/.test(id))).toBe(true);
    expect(new Set(ids).size).toBe(ids.length);
    for (const { responses, method, path } of operations) {
      // Answers to questions have a validator.
      const changes =
        /^\/(?:selections|views|queries)|\/(?:changes|undo)$/.test(path as string) &&
        method !== 'get';
      const made = (path as string).includes('changes')
        ? '422'
        : ({ post: '201', delete: '204' }[method as string] ?? '200');
      const own = changes ? [made] : ['200', '304'];
      expect(Object.keys(responses as object)).toEqual(
        expect.arrayContaining([...own, '400', '401', '404', '405', '413', '500', '503', '504']),
      );
    }
    // The methods that are documented are those that there are.
    const refused = await fetch(`${service.url}/api/tables/passages/mileposts`, { method: 'POST' });
    expect(refused.status).toBe(405);
    expect(document.paths['/tables/{table}/mileposts']).not.toHaveProperty('post');
    const result = schemaAt('components', 'schemas', 'Problem');
    expect(result(await refused.json())).toBe(true);
  });

  it('leaves nothing open: a member that nobody has described would be noticed', async () => {
    const { answer } = await request(`${rows}?limit=1`);
    const validate = schemaAt('components', 'schemas', 'Rows');
    expect(validate(answer)).toBe(true);
    expect(validate({ ...(answer as object), surprise: 1 })).toBe(false);
    const { window, ...less } = answer as { window: unknown };
    expect(window).toBeDefined();
    expect(validate(less)).toBe(false);
  });
});
