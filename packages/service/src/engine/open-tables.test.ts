import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { openTables, Refused, rule, type Access } from '../index.ts';

const { lowmere } = testDatabases();

describe('tables without HTTP', () => {
  it('are read, compiled and run step by step', async () => {
    const tables = openTables({ database: lowmere });
    try {
      const access: Access = { tables: { passages: { rows: rule`status = ${'disputed'}` } } };
      const table = await tables.table('passages', access);
      const query = table.read('?columns=id,status&sort=-id&limit=3');
      const { rows, next } = await table.rows(query);
      expect(rows.map(({ status }) => status)).toEqual(['disputed', 'disputed', 'disputed']);
      expect(next).not.toBeNull();
      const { text, parameters } = table.compile(query);
      expect(text).not.toContain('disputed');
      const counted = await table.run({
        text: `select count(*) from (${text}) as own`,
        parameters,
      });
      expect(counted.rows).toEqual([['4']]);
      expect(() => table.read('filter=tol>1&limit=x')).toThrow(Refused);
      await expect(tables.table('locks', access)).rejects.toThrow('locks');
    } finally {
      await tables.close();
    }
  });
});
