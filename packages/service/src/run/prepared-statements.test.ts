import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { Database } from './index.ts';
import { PreparedStatements } from './prepared-statements.ts';

const statement = (text: string): { text: string; parameters: [] } => ({ text, parameters: [] });

describe('statements that are prepared', () => {
  it('are those that come again, and no long ones, which every session would keep', () => {
    const prepared = new PreparedStatements();
    expect(prepared.nameOf(statement('a'))).toBeUndefined();
    const name = prepared.nameOf(statement('a'));
    expect(name).toBeDefined();
    expect(prepared.nameOf(statement('a'))).toBe(name);
    const long = statement('x'.repeat(10_000));
    expect([prepared.nameOf(long), prepared.nameOf(long)]).toEqual([undefined, undefined]);
  });

  it('have other names once the tables have changed', () => {
    const prepared = new PreparedStatements();
    const again = (): string | undefined => {
      prepared.nameOf(statement('a'));
      return prepared.nameOf(statement('a'));
    };
    const before = again();
    prepared.renew();
    expect(again()).not.toBe(before);
  });
});

describe('a session that prepares statements', () => {
  it('plans once for all values where one plan serves them, and again for all others', async () => {
    const database = new Database({ url: testDatabases().lowmere, connections: 1 });
    try {
      const request = async (text: string, rounds: number, generic: boolean): Promise<void> => {
        for (let round = 1; round <= rounds; round += 1) {
          const own = { text, parameters: [String(round)] };
          await database.run(generic ? { ...own, isGeneric: generic } : own);
        }
      };
      const plans = async (mark: string): Promise<readonly number[]> => {
        const { rows } = await database.run({
          text: `select generic_plans, custom_plans from pg_prepared_statements where statement like $1`,
          parameters: [`%${mark}% limit%`],
        });
        return (rows[0] ?? []).map(Number);
      };
      const isGeneric = 'select id from passages where id > $1::int8 order by id limit 7';
      const other = 'select id from passages where id < $1::int8 order by id limit 8';
      await request(isGeneric, 40, true);
      const [once = 0] = await plans('id >');
      expect(once).toBeGreaterThan(10);
      await request(other, 20, false);
      expect(await plans('id <')).toEqual([0, 19]);
      // One here and there among others does not change the session back and forth.
      await request(isGeneric, 1, true);
      expect((await plans('id >'))[0]).toBe(once);
    } finally {
      await database.close();
    }
  });
});
