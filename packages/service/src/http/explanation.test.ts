import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

const { lowmere, passages } = testDatabases();
let service: TestService;

beforeAll(async () => {
  service = await startService(lowmere);
});

afterAll(() => service.close());

describe('an explanation', () => {
  it('tells the query, the SQL, what is bound, the plan and the ways taken', async () => {
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
