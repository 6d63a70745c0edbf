import { strFromU8, unzipSync } from 'fflate';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../testing/service.ts';

const { lowmere } = testDatabases();
const aggregates =
  'count(),sum(toll),avg(wait_minutes),max(passed_at),distinct(boat_id),median(toll),share(toll)';

let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere, 'exports: { rows: 200 }');
});

afterAll(() => service.close());

type Parameters = Readonly<Record<string, string>>;

async function file(parameters: Parameters): Promise<string> {
  const search = new URLSearchParams({ format: 'ndjson', ...parameters }).toString();
  const response = await fetch(`${service.url}/api/tables/passages/export?${search}`);
  expect(response.status).toBe(200);
  return response.text();
}

/** The groups of the last level as the outline has them, opened one after the other. */
async function outline(parameters: Parameters, levels: readonly string[]): Promise<unknown[]> {
  const below = async (path: unknown[]): Promise<unknown[]> => {
    const search = new URLSearchParams({
      ...parameters,
      group: levels.join(','),
      path: JSON.stringify(path),
      limit: '1000',
    });
    const { body } = await service.get(`/api/tables/passages/groups?${search.toString()}`);
    const lines: unknown[] = [];
    for (const { value, aggregates: made } of body.groups) {
      const here = [...path, value];
      if (here.length < levels.length) lines.push(...(await below(here)));
      else
        lines.push({ ...Object.fromEntries(levels.map((name, at) => [name, here[at]])), ...made });
    }
    return lines;
  };
  return below([]);
}

describe('groups as a file', () => {
  it.each([
    [['status'], { aggregate: aggregates, sort: '-sum(toll)' }],
    [['lock.canal.name', 'status'], { aggregate: aggregates, filter: 'toll > 20' }],
    [['month(passed_at)', 'direction'], { sort: '-month(passed_at),-count()', search: 'heron' }],
    [['keeper_id', 'direction'], { nulls: 'first', sort: '-keeper_id,-direction' }],
  ])('are the lines of the outline, levels and all: %j', async (levels, request) => {
    const lines = (await file({ ...request, group: levels.join(',') })).trimEnd().split('\n');
    const wanted = await outline({ aggregate: 'count()', ...request }, levels);
    expect(wanted.length).toBeGreaterThan(1);
    expect(lines.map((line) => JSON.parse(line) as unknown)).toEqual(wanted);
  });

  it('have a header by name or by label, and begin and end where that is wanted', async () => {
    const given = { format: 'csv', group: 'status', aggregate: 'sum(toll)', 'line-end': 'lf' };
    const whole = (await file(given)).split('\n');
    expect(whole[0]).toBe('status,sum(toll)');
    expect((await file({ ...given, header: 'labels' })).split('\n')[0]).toBe('Status,Sum of toll');
    const part = await file({ ...given, offset: '1', limit: '2', header: 'none' });
    expect(part.split('\n').slice(0, 2)).toEqual(whole.slice(2, 4));
  });

  it('tell what is wrong with them before the first byte', async () => {
    const codes = async (parameters: Parameters): Promise<string[]> => {
      const search = new URLSearchParams({ format: 'csv', ...parameters }).toString();
      const { body } = await service.get(`/api/tables/passages/export?${search}`);
      return body.errors.map(({ code, parameter }: any) => `${code} ${parameter ?? ''}`);
    };
    expect(await codes({ aggregate: 'sum(toll)' })).toEqual(['missing-group group']);
    expect(await codes({ group: 'status', columns: 'id' })).toEqual(['unknown-parameter columns']);
    expect(await codes({ group: 'nope', aggregate: 'sum(note)', sort: 'id' })).toEqual([
      ...['unknown-column group', 'not-aggregable aggregate', 'not-a-group-sort sort'],
    ]);
  });

  it('are broken off where there are more of them than a file may have', async () => {
    const search = 'format=csv&group=boat_id&aggregate=count()';
    const response = await fetch(`${service.url}/api/tables/passages/export?${search}`);
    await expect(response.text()).rejects.toThrow();
  });
});

describe('groups in a workbook', () => {
  /** The rows of the first sheet as they are folded: how many levels each lies below, and its cells. */
  async function sheetOf(parameters: Parameters): Promise<[number, unknown[]][]> {
    const search = new URLSearchParams({ format: 'xlsx', ...parameters }).toString();
    const response = await fetch(`${service.url}/api/tables/passages/export?${search}`);
    const entries = unzipSync(new Uint8Array(await response.arrayBuffer()));
    const xml = strFromU8(entries['xl/worksheets/sheet1.xml'] ?? new Uint8Array());
    expect(xml).toContain('summaryBelow="0"');
    return [...xml.matchAll(/<row ([^>]*)>(.*?)<\/row>/gs)].map(
      ([, attributes = '', cells = '']) => {
        const depth = Number(/outlineLevel="(\d+)"/.exec(attributes)?.[1] ?? 0);
        const values = [...cells.matchAll(/<c [^>]*>(?:<v>|<is><t[^>]*>)(.*?)<\//gs)];
        return [depth, values.map(([, value]) => value)];
      },
    );
  }

  it('are lines of every level, each above those that lie in it, to be folded', async () => {
    const request = { group: 'lock.canal.name,direction', aggregate: 'count(),sum(toll)' };
    const sort = '-lock.canal.name,-sum(toll)';
    const [header, ...lines] = await sheetOf({ ...request, sort, levels: 'folded' });
    expect(header).toEqual([0, ['lock.canal.name', 'direction', 'count()', 'sum(toll)']]);
    const below = await outline({ ...request, sort }, ['lock.canal.name', 'direction']);
    const above = await outline({ ...request, sort: '-lock.canal.name' }, ['lock.canal.name']);
    const wanted = (above as Record<string, unknown>[]).flatMap((canal) => [
      [0, [canal['lock.canal.name'], canal['count()'], canal['sum(toll)']].map(text)],
      ...(below as Record<string, unknown>[])
        .filter((one) => one['lock.canal.name'] === canal['lock.canal.name'])
        .map((one) => [1, Object.values(one).map(text)]),
    ]);
    expect(lines.map(([depth, values]) => [depth, values.map(text)])).toEqual(wanted);
  });

  it('are folded in nothing else', async () => {
    for (const path of ['format=csv&group=status', 'format=xlsx']) {
      const { status, body } = await service.get(
        `/api/tables/passages/export?${path}&levels=folded`,
      );
      expect([status, body.errors[0].code, body.errors[0].parameter]).toEqual([
        ...[400, 'not-one-of', 'levels'],
      ]);
    }
  });
});

/** As a workbook spells it: numbers without zeros at their end. */
function text(value: unknown): string {
  const number = Number(value);
  return Number.isFinite(number) ? String(number) : String(value).replaceAll('&apos;', "'");
}
