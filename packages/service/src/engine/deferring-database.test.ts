import type { Statement } from '@ephoros/core/sql';
import type { PositionIndex } from '../positions/index.ts';
import { Failure, WaitBudget, type Answer, type Database } from '../run/index.ts';
import { DeferringDatabase } from './deferring-database.ts';

const statement: Statement = { text: 'select 1', parameters: [] };

/** A database that answers a statement after so many ms, and the planner at once, or after some as well. */
class Timed {
  readonly limiter = { waiting: 0 };
  readonly cancelled: string[] = [];
  readonly ran: string[] = [];
  cost = 1;
  takes = 0;
  /** Ms that the planner takes. */
  plans = 0;

  run = ({ text }: Statement, { signal }: { signal?: AbortSignal } = {}): Promise<Answer> => {
    this.ran.push(text);
    if (text.startsWith('explain')) {
      const plan = [{ Plan: { 'Node Type': 'Result', 'Plan Rows': 1, 'Total Cost': this.cost } }];
      const answer = answerOf(JSON.stringify(plan));
      if (this.plans === 0) return Promise.resolve(answer);
      return new Promise((resolve) => setTimeout(() => resolve(answer), this.plans));
    }
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => resolve(answerOf('here')), this.takes);
      signal?.addEventListener('abort', () => {
        clearTimeout(timer);
        this.cancelled.push(text);
        reject(new Failure('cancelled'));
      });
    });
  };
}

function answerOf(text: string): Answer {
  return { rows: [[text]], types: [25], cut: false, waited: 0, ran: 1 };
}

let timed: Timed;
let deferred: number[];
let far: { readonly answer: Answer } | { readonly progress: { share: number; elapsed: number } };

beforeEach(() => {
  timed = new Timed();
  deferred = [];
  far = { progress: { share: 0.4, elapsed: 10 } };
});

/** One that waits so many ms. */
function deferring(waitLimit: number): DeferringDatabase {
  const longAnswer: PositionIndex['longAnswer'] = (_statement, wanted) => {
    deferred.push(wanted.waitLimit);
    return Promise.resolve(far);
  };
  return new DeferringDatabase(timed as unknown as Database, { longAnswer }, waitLimit);
}

describe('a statement that a request waits for', () => {
  it('is answered where it is quick, and the planner is not consulted', async () => {
    expect(await deferring(10_000).run(statement)).toMatchObject({ rows: [['here']] });
    expect([timed.ran, deferred]).toEqual([['select 1'], []]);
  });

  it('is waited for where the planner says that it is not long', async () => {
    timed.takes = 2_000;
    expect(await deferring(6_000).run(statement)).toMatchObject({ rows: [['here']] });
    expect(timed.ran).toEqual(['select 1', 'explain (format json) select 1']);
  });

  it('goes on without the request where the planner says that it is long', async () => {
    timed.takes = 60_000;
    timed.cost = 1e9;
    await expect(deferring(4_000).run(statement)).rejects.toMatchObject({
      name: 'NotReady',
      what: 'answer',
      progress: { share: 0.4 },
    });
    // It is given up here, and waited for there for the rest of the time.
    expect(timed.cancelled).toEqual(['select 1']);
    expect(deferred).toEqual([expect.any(Number)]);
    expect(deferred[0]).toBeLessThanOrEqual(3_500);
    expect(deferred[0]).toBeGreaterThan(0);
  });

  it('is not begun in vain where the planner says of a large table that it is long', async () => {
    timed.cost = 1e9;
    far = { answer: answerOf('there') };
    const wanted = { rows: 5_000_000 };
    expect(await deferring(8_000).run(statement, wanted)).toMatchObject({ rows: [['there']] });
    expect(timed.ran).toEqual(['explain (format json) select 1']);
    expect(deferred).toEqual([expect.any(Number)]);
    expect(deferred[0]).toBeGreaterThan(400);
    timed.cost = 1;
    const other = { ...statement, text: 'select 2' };
    expect(await deferring(800).run(other, wanted)).toMatchObject({ rows: [['here']] });
  });

  it('goes on without the request where the planner was wrong', async () => {
    timed.takes = 60_000;
    await expect(deferring(40).run(statement)).rejects.toMatchObject({ what: 'answer' });
    // A timer may be early by a part of a millisecond.
    expect(deferred).toHaveLength(1);
    expect(deferred[0]).toBeLessThan(2);
  });

  it('goes on in another way where there is one, once its time is up', async () => {
    timed.takes = 60_000;
    // However dear the planner thinks it: it may be quick all the same.
    timed.cost = 1e9;
    const taken: string[] = [];
    const other: Statement = { text: 'select 2', parameters: [] };
    const otherWay = { statement: other, taken: () => taken.push(other.text) };
    const waits = deferring(40);
    await expect(waits.run(statement, { otherWay })).rejects.toMatchObject({ what: 'answer' });
    expect([timed.cancelled, taken]).toEqual([['select 1'], ['select 2']]);
    expect(deferred[0]).toBeLessThan(2);
    // The other one is what is requested then.
    far = { answer: answerOf('there') };
    expect(await waits.run(other)).toMatchObject({ rows: [['there']] });
    expect(timed.ran).not.toContain('select 2');
    timed.takes = 0;
    expect(await waits.run(statement, { otherWay })).toMatchObject({ rows: [['here']] });
    expect(taken).toEqual(['select 2']);
  });

  it('is requested where it goes on, and not begun again', async () => {
    timed.takes = 60_000;
    const waits = deferring(800);
    await expect(waits.run(statement)).rejects.toMatchObject({ what: 'answer' });
    far = { answer: answerOf('there') };
    expect(await waits.run(statement)).toMatchObject({ rows: [['there']] });
    expect(timed.ran.filter((text) => text === 'select 1')).toHaveLength(1);
    expect(deferred).toHaveLength(2);
    expect(deferred[1]).toBeGreaterThan(10);
  });

  it('is waited for no longer than what is left of the wait limit of the whole request', async () => {
    timed.cost = 1e9;
    const budget = new WaitBudget(0);
    const pending = deferring(60_000).run(statement, { budget, rows: 5_000_000 });
    await expect(pending).rejects.toMatchObject({ what: 'answer' });
    expect(deferred).toEqual([0]);
  });

  it('is given up for something else that is found instead', async () => {
    timed.takes = 60_000;
    const costs: number[] = [];
    const found = await deferring(40).unless(statement, {}, (cost, giveUp) => {
      costs.push(cost);
      giveUp();
      expect(timed.cancelled).toEqual(['select 1']);
      return Promise.resolve({ other: true });
    });
    expect([found, costs, deferred]).toEqual([{ other: true }, [1], []]);
  });

  it('is waited for where planning takes long as well: the database has no time', async () => {
    timed.takes = 1_200;
    timed.plans = 400;
    const instead = (): Promise<undefined> => Promise.reject(new Error('asked for'));
    const found = await deferring(3_000).unless(statement, {}, instead);
    expect(found).toMatchObject({ rows: [['here']] });
  });

  it('is waited for longer while others wait for connections, and adds nothing to that', async () => {
    timed.takes = 150;
    timed.limiter.waiting = 3;
    const instead = (): Promise<undefined> => Promise.reject(new Error('asked for'));
    expect(await deferring(40).unless(statement, {}, instead)).toMatchObject({ rows: [['here']] });
    expect([timed.ran, deferred]).toEqual([['select 1'], []]);
  });

  it('is not waited for for ever in a crowd', async () => {
    timed.takes = 60_000;
    timed.limiter.waiting = 3;
    await expect(deferring(10).run(statement)).rejects.toMatchObject({ what: 'answer' });
  });

  it('is cancelled when the caller goes away', async () => {
    timed.takes = 60_000;
    const leaving = new AbortController();
    const answer = deferring(10_000).run(statement, { signal: leaving.signal });
    leaving.abort();
    await expect(answer).rejects.toMatchObject({ kind: 'cancelled' });
    expect([timed.cancelled, deferred]).toEqual([['select 1'], []]);
  });

  it('that asks for a plan gets none made for itself', async () => {
    timed.takes = 0;
    const planning = { text: 'explain (analyze, format json) select 1', parameters: [] };
    await deferring(1_000).run(planning);
    expect(timed.ran).toEqual([planning.text]);
  });
});
