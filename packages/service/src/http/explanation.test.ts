import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { ready, rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere, passages } = testDatabases();
let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere);
});

afterAll(() => service.close());

describe('an explanation', () => {
  it('reports the query, the SQL, what is bound, the plan and the ways taken', async () => {
    const { body } = await service.get(
      rowsPath('passages', {
        filter: "status='disputed'",
        sort: '-toll',
        limit: '5',
        explain: 'true',
      }),
    );
    const { explanation } = body;
    expect(explanation.query).toEqual({ filter: "status = 'disputed'", sort: '-toll', limit: '5' });
    expect(explanation.filter.json).toEqual({
      op: '=',
      args: [{ property: 'status' }, 'disputed'],
    });
    expect(explanation.sql).toContain('union all');
    expect(explanation.parameters).toContain('disputed');
    expect(explanation.paths).toEqual({
      nulls: 'two phases',
      cursor: 'none',
      window: 'offset',
      search: 'none',
    });
    expect(explanation.steps[0]).toEqual({
      depth: 0,
      step: 'Limit',
      rows: 6,
      milliseconds: expect.any(Number),
      ownMilliseconds: expect.any(Number),
    });
    const own = explanation.steps.map((step: any) => step.ownMilliseconds);
    expect(Math.min(...own)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...own)).toBeLessThanOrEqual(explanation.steps[0].milliseconds);
    expect(explanation.rowsRead).toBeGreaterThanOrEqual(6);
    // What was read and passed over counts, too.
    const none = await service.get(
      rowsPath('passages', { filter: "note = 'never written'", explain: 'true' }),
    );
    expect(none.body.rows).toEqual([]);
    expect(none.body.explanation.rowsRead).toBeGreaterThan(passages * 0.99);
    expect(explanation.indexes.length).toBeGreaterThan(0);
    const next = await service.get(rowsPath('passages', { sort: '-passed_at', limit: '5' }));
    const after = await service.get(
      rowsPath('passages', {
        sort: '-passed_at',
        limit: '5',
        after: next.body.next,
        explain: 'true',
      }),
    );
    expect(after.body.explanation.paths).toMatchObject({
      cursor: 'row comparison',
      window: 'after a cursor',
    });
  });

  it('shows that rows are walked along a related column, and none is read of a parent that is not wanted', async () => {
    const { url, drop } = await freshDatabase('ephoros_walked', [
      'create table quays (id int primary key, name text)',
      'create table crates (id int primary key, quay_id int references quays, weight int not null)',
      `insert into quays select n, 'quay ' || lpad((n / 2)::text, 3, '0') from generate_series(2, 1001) n`,
      'insert into crates select n, 2 + n % 1000, n % 1009 from generate_series(1, 200000) n',
      'create index on quays (name)',
      'create index on crates (quay_id)',
      'analyze',
    ]);
    const own = await startService(url);
    const hasty = await startService(url, '', { deferAfter: 20 });
    try {
      const wanted = { sort: 'quay.name,-weight', columns: 'quay.name,weight', limit: '20' };
      const { body } = await own.get(rowsPath('crates', { ...wanted, explain: 'true' }));
      const heaviest = { 'quay.name': 'quay 001', weight: expect.any(Number) };
      expect(body.rows).toEqual(Array.from({ length: 20 }, () => heaviest));
      const weights: number[] = body.rows.map(({ weight }: { weight: number }) => weight);
      expect(weights).toEqual([...weights].sort((one, other) => other - one));
      // Two quays have the first name, of two hundred crates each; the next two have as many.
      const { rowsRead, paths } = body.explanation;
      expect(rowsRead).toBeGreaterThanOrEqual(400);
      expect(rowsRead).toBeLessThan(600);
      expect(paths.parents).toMatch(/^(one by one|value by value)$/);
      // The planner takes this for a condition that nearly all rows meet.
      const none = { ...wanted, filter: 'weight + 1 <> weight + 1' };
      const walked = await own.get(rowsPath('crates', { ...none, explain: 'true' }));
      expect(walked.body.explanation.paths.parents).toMatch(/^(one by one|value by value)$/);
      // Once that turns out to take long, the rows are sorted instead.
      const gone = await ready(hasty, rowsPath('crates', none));
      expect(gone.body.rows).toEqual([]);
      const sorted = await ready(hasty, rowsPath('crates', { ...none, explain: 'true' }));
      expect(sorted.body.explanation.paths.parents).toBe('sorted');
      expect(sorted.body.rows).toEqual([]);
    } finally {
      await Promise.all([own, hasty].map((one) => one.close()));
      await drop();
    }
  });

  it('is not given where it is not allowed', async () => {
    const closed = await startService(lowmere, '', { explain: false });
    try {
      const { status, body } = await closed.get(rowsPath('passages', { explain: 'true' }));
      expect([status, body.errors[0].code]).toEqual([400, 'explain-not-allowed']);
      expect(
        (await closed.get(rowsPath('passages', { explain: 'maybe' }))).body.errors[0].code,
      ).toBe('not-one-of');
    } finally {
      await closed.close();
    }
  });
});
