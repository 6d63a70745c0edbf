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
