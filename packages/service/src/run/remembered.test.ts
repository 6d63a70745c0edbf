import { Remembered } from './index.ts';
import type { Answer, Database } from './index.ts';

const statement = (text: string): { text: string; parameters: [] } => ({ text, parameters: [] });

describe('remembered answers', () => {
  let clock = 1_000_000;
  let ran: string[] = [];
  let took = 500;
  const database = {
    run: ({ text }: { text: string }): Promise<Answer> => {
      ran.push(text);
      return Promise.resolve({ rows: [[text], [String(ran.length)]], waited: 1, ran: took });
    },
  } as unknown as Database;

  beforeEach(() => {
    clock = 1_000_000;
    ran = [];
    took = 500;
  });

  const now = (): number => clock;

  it('are given again for some times as long as they took, and tell their age', async () => {
    const remembered = new Remembered(database, { now });
    expect((await remembered.run(statement('a'))).at).toBeUndefined();
    clock += 4_000;
    const again = await remembered.run(statement('a'));
    expect(again).toMatchObject({ at: 1_000_000, ran: 0, rows: [['a'], ['1']] });
    clock += 2_000;
    expect((await remembered.run(statement('a'))).rows[1]).toEqual(['2']);
  });

  it('are not kept where they are quick to make, nor for long', async () => {
    const remembered = new Remembered(database, { now });
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
    const byNumber = new Remembered(database, { now, answers: 2 });
    for (const text of ['a', 'b', 'c', 'c', 'b', 'a']) await byNumber.run(statement(text));
    expect(ran).toEqual(['a', 'b', 'c', 'a']);
    ran = [];
    const byRows = new Remembered(database, { now, rows: 3 });
    for (const text of ['a', 'b', 'b', 'a']) await byRows.run(statement(text));
    expect(ran).toEqual(['a', 'b', 'a']);
  });
});
