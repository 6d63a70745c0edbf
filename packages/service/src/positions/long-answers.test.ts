import type { Statement } from '@ephoros/core/sql';
import { Failure, type Answer, type Database } from '../run/index.ts';
import { LongAnswers } from './long-answers.ts';
import { CostModel } from './cost-model.ts';

const statement = (text: string): Statement => ({ text, parameters: [] });

/** A database whose statements end when a test says so. */
class Slow {
  readonly begun: {
    readonly text: string;
    end: (rows: number) => void;
    fail: (e: Error) => void;
  }[] = [];
  readonly given: string[] = [];

  run = ({ text }: Statement, { signal }: { signal?: AbortSignal } = {}): Promise<Answer> => {
    if (text.startsWith('explain')) {
      const plan = [{ Plan: { 'Node Type': 'Seq Scan', 'Plan Rows': 1, 'Total Cost': 200_000 } }];
      return Promise.resolve(answerOf(JSON.stringify(plan)));
    }
    return new Promise((resolve, reject) => {
      signal?.addEventListener('abort', () => {
        this.given.push(text);
        reject(new Failure('cancelled'));
      });
      this.begun.push({
        text,
        end: (rows) => resolve(answerOf(String(rows))),
        fail: reject,
      });
    });
  };
}

function answerOf(text: string): Answer {
  return { rows: [[text]], types: [25], cut: false, waited: 0, ran: 1_000 };
}

let clock: number;
let slow: Slow;
let answers: LongAnswers;

beforeEach(() => {
  clock = 1_000_000;
  slow = new Slow();
  const database = slow as unknown as Database;
  answers = new LongAnswers(database, database, new CostModel(), () => clock);
});

const request = (text: string, waitLimit = 0): ReturnType<LongAnswers['request']> =>
  answers.request(statement(text), { waitLimit });

describe('answers that take long', () => {
  it('are made once for all who ask, and tell how far they are', async () => {
    const first = await request('one');
    expect(first).toEqual({ progress: { elapsed: 0, share: 0 } });
    // What the planner says comes from another connection.
    await Promise.resolve();
    clock += 500;
    // 200,000 at some 200 a millisecond take a second.
    expect(await request('one')).toEqual({ progress: { elapsed: 500, share: 0.5 } });
    clock += 100_000;
    const late = await request('one');
    expect(late).toMatchObject({ progress: { share: expect.closeTo(1, 1) } });
    expect('progress' in late && late.progress.share).toBeLessThanOrEqual(1);
    const waiting = [request('one', 10_000), request('one', 10_000)];
    slow.begun[0]?.end(7);
    for (const found of await Promise.all(waiting)) {
      expect(found).toMatchObject({ answer: { rows: [['7']] } });
    }
    expect(slow.begun).toHaveLength(1);
  });

  it('are stored a while for those who come again, with when they were made', async () => {
    await request('one');
    slow.begun[0]?.end(7);
    await request('one', 1_000);
    clock += 9_000;
    expect(await request('one')).toMatchObject({
      answer: { rows: [['7']], at: 1_000_000, ran: 0 },
    });
    clock += 2_000;
    expect(await request('one')).toHaveProperty('progress');
    expect(slow.begun).toHaveLength(2);
  });

  it('fail for those who wait, and for the next one who asks in turns', async () => {
    const waits = request('one', 10_000);
    slow.begun[0]?.fail(new Failure('time-limit'));
    await expect(waits).rejects.toMatchObject({ kind: 'time-limit' });
    await request('two');
    slow.begun[1]?.fail(new Failure('time-limit'));
    await new Promise((resolve) => setImmediate(resolve));
    await expect(request('two')).rejects.toMatchObject({ kind: 'time-limit' });
    // Then it is tried again.
    expect(await request('two')).toHaveProperty('progress');
  });

  it('are given up once nobody has requested a while', async () => {
    await request('one');
    clock += 900;
    answers.abandon(1_000);
    expect(slow.given).toEqual([]);
    clock += 200;
    answers.abandon(1_000);
    expect(slow.given).toEqual(['one']);
    expect(await request('one')).toHaveProperty('progress');
    expect(slow.begun).toHaveLength(2);
  });

  it('are not given up while somebody waits', async () => {
    const waits = request('one', 10_000);
    clock += 100_000;
    answers.abandon(1_000);
    expect(slow.given).toEqual([]);
    slow.begun[0]?.end(7);
    expect(await waits).toHaveProperty('answer');
  });

  it('that were begun before all was forgotten are for those who wait alone', async () => {
    const waits = request('one', 10_000);
    await request('two');
    answers.forget();
    // Nobody waits for the second.
    expect(slow.given).toEqual(['two']);
    slow.begun[0]?.end(7);
    expect(await waits).toMatchObject({ answer: { rows: [['7']] } });
    expect(await request('one')).toHaveProperty('progress');
  });
});
