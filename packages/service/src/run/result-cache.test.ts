import { ResultCache } from './index.ts';
import type { Answer, Database } from './index.ts';

const statement = (text: string): { text: string; parameters: [] } => ({ text, parameters: [] });

describe('remembered answers', () => {
  let clock = 1_000_000;
  let ran: string[] = [];
  let took = 500;
  const database = {
    run: ({ text }: { text: string }): Promise<Answer> => {
      ran.push(text);
      const rows = [[text], [String(ran.length)]];
      return Promise.resolve({ rows, types: [], cut: false, waited: 1, ran: took });
    },
  } as unknown as Database;

  beforeEach(() => {
    clock = 1_000_000;
    ran = [];
    took = 500;
  });

  const now = (): number => clock;

  it('are given again for some times as long as they took, and tell their age', async () => {
    const remembered = new ResultCache(database, { now });
    expect((await remembered.run(statement('a'))).at).toBeUndefined();
    clock += 4_000;
    const again = await remembered.run(statement('a'));
    expect(again).toMatchObject({ at: 1_000_000, ran: 0, rows: [['a'], ['1']] });
    clock += 2_000;
    expect((await remembered.run(statement('a'))).rows[1]).toEqual(['2']);
  });

  it('are not stored where they are quick to make, nor for long', async () => {
    const remembered = new ResultCache(database, { now });
    took = 5;
    await remembered.run(statement('quick'));
    await remembered.run(statement('quick'));
    expect(ran).toEqual(['quick', 'quick']);
    took = 60_000;
    await remembered.run(statement('slow'));
    clock += 31_000;
    await remembered.run(statement('slow'));
    expect(ran.slice(2)).toEqual(['slow', 'slow']);
  });

  it('make room for newer ones', async () => {
    // An answer of two short values takes some three hundred bytes.
    const remembered = new ResultCache(database, { now, bytes: 700 });
    for (const text of ['a', 'b', 'c', 'c', 'b', 'a']) await remembered.run(statement(text));
    expect(ran).toEqual(['a', 'b', 'c', 'a']);
    ran = [];
    const long = statement('x'.repeat(1_000));
    await remembered.run(long);
    await remembered.run(long);
    expect(ran).toHaveLength(2);
  });

  it('can be forgotten, since the tables are others', async () => {
    const remembered = new ResultCache(database, { now });
    await remembered.run(statement('a'));
    remembered.forget();
    await remembered.run(statement('a'));
    expect(ran).toEqual(['a', 'a']);
  });
});
