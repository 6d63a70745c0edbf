import { printExpression } from '@ephoros/core/expression';
import { betweenRows, parseSort, type OrderTerm } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import fc from 'fast-check';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { rowsPath, startService, type TestService } from '../testing/service.ts';

let service: TestService;

beforeAll(async () => {
  service = await startService(testDatabases().lowmere);
});

afterAll(() => service.close());

const sorts = [
  'id',
  '-id',
  'toll',
  '-toll',
  '-toll,passed_at',
  'status,-toll',
  'note',
  '-note,status',
  'keeper_id,-wait_minutes',
  'crossing,-draught_m',
];

describe('the rows between two in an order', () => {
  it('are those that meet its condition, whatever the sort, the nulls and the ties', async () => {
    const table: TableDescription = (await service.get('/api/tables/passages')).body;
    const rows = async (parameters: Record<string, string>): Promise<any> => {
      const answer = await service.get(rowsPath('passages', parameters));
      expect(answer.status).toBe(200);
      return answer.body;
    };
    const cases = fc.record({
      sort: fc.constantFrom(...sorts),
      nulls: fc.constantFrom('first' as const, 'last' as const),
      from: fc.nat(19_900),
      count: fc.integer({ min: 1, max: 400 }),
    });
    await fc.assert(
      fc.asyncProperty(cases, async ({ sort, nulls, from, count }) => {
        const terms = parseSort(sort).terms.map(({ column: { name }, descending }) => ({
          name,
          descending,
        }));
        const { descending = false } = terms.at(-1) ?? {};
        if (!terms.some(({ name }) => name === 'id')) terms.push({ name: 'id', descending });
        const order = terms.flatMap(({ name, descending: down }): OrderTerm[] => {
          const column = table.columns.find((one) => one.name === name);
          return column === undefined ? [] : [{ column, descending: down, nulls }];
        });
        const columns = terms.map(({ name }) => name).join(',');
        const request = { sort, nulls, columns };
        const limit = String(count);
        const { rows: wanted } = await rows({ ...request, offset: String(from), limit });
        const between = betweenRows(order, wanted[0], wanted.at(-1));
        const filter = printExpression(between!);
        const found = await rows({ ...request, filter, limit: '1000' });
        expect(found.rows).toEqual(wanted);
      }),
      { numRuns: Number(process.env.EPHOROS_ROUNDS ?? 40) },
    );
  }, 60_000);
});
