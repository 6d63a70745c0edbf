import { EventEmitter } from 'node:events';
import type { KnownTotal, PositionIndex } from '../positions/index.ts';
import { Failure } from '../run/index.ts';
import { answerCalls, caller, type Channel } from './calls.ts';
import { remotePositionIndex, positionIndexMethods } from './position-index-calls.ts';

/** Two ends of a channel, over which only plain data goes. */
function channel(): [Channel, Channel] {
  const [one, other] = [new EventEmitter(), new EventEmitter()];
  const end = (mine: EventEmitter, theirs: EventEmitter): Channel => ({
    send: (message) => {
      const plain: unknown = JSON.parse(JSON.stringify(message));
      setImmediate(() => theirs.emit('message', plain));
    },
    listen: (listener) => mine.on('message', listener),
  });
  return [end(one, other), end(other, one)];
}

describe('calls between processes', () => {
  it('bring each answer to who requested it, in whatever order', async () => {
    const [worker, leader] = channel();
    const wait = (milliseconds: unknown): Promise<unknown> =>
      new Promise((resolve) => setTimeout(() => resolve(milliseconds), milliseconds as number));
    answerCalls(leader, { wait: ([milliseconds]) => wait(milliseconds) });
    const call = caller(worker);
    expect(await Promise.all([call('wait', [20]), call('wait', [1])])).toEqual([20, 1]);
  });

  it('give nothing where the other end fails, or knows no such method', async () => {
    const [worker, leader] = channel();
    answerCalls(leader, { fail: () => Promise.reject(new Error('lost')) });
    const call = caller(worker);
    expect([await call('fail', []), await call('other', [])]).toEqual([undefined, undefined]);
  });

  it('pass over what is none of theirs', async () => {
    const [worker, leader] = channel();
    answerCalls(leader, { one: () => Promise.resolve(1) });
    const call = caller(worker);
    for (const odd of [null, 'text', { kind: 'other' }, { type: 'metrics' }]) {
      leader.send(odd as never);
      worker.send(odd as never);
    }
    expect(await call('one', [])).toBe(1);
  });

  it('tell the other end when nobody waits any more', async () => {
    const [worker, leader] = channel();
    let gone = false;
    answerCalls(leader, {
      long: (_args, signal) =>
        new Promise((resolve) => {
          signal.addEventListener('abort', () => {
            gone = true;
            resolve(undefined);
          });
        }),
    });
    const controller = new AbortController();
    const called = caller(worker)('long', [], controller.signal);
    setTimeout(() => controller.abort(), 5);
    await called;
    expect(gone).toBe(true);
  });

  it('reach a positions as if it were here', async () => {
    const [worker, leader] = channel();
    const requests: unknown[] = [];
    const known: KnownTotal = { rows: 5, kind: 'exact', countedAt: 7 };
    const positions: PositionIndex = {
      total: (...args) => {
        requests.push(args.slice(0, 3));
        return Promise.resolve(known);
      },
      places: (...args) => {
        requests.push(args.slice(0, 2));
        return Promise.resolve({ indexed: true, sample: { number: 10, values: ['a', null] } });
      },
      begin: () => Promise.resolve('mileposts'),
      beginGroups: () => Promise.resolve(),
      lose: () => Promise.resolve(),
      forget: () => Promise.resolve(),
      longAnswer: () => Promise.reject(new Failure('time-limit')),
      mark: () => Promise.resolve('a mark'),
      overview: () => Promise.resolve(undefined),
      close: () => Promise.resolve(),
    };
    answerCalls(leader, positionIndexMethods(positions));
    const distant = remotePositionIndex(worker);
    const statement = { text: 'select 1', parameters: ['x', 2] };
    const counting = { key: 'k', count: statement, estimate: statement, written: statement };
    expect(await distant.total(counting, 'exact', 200)).toEqual(known);
    const window = { offset: 25, limit: 5 };
    expect(await distant.places({ key: 'w', countKey: 'k', window })).toEqual({
      indexed: true,
      sample: { number: 10, values: ['a', null] },
    });
    expect(await distant.overview('w', 3)).toBeUndefined();
    expect(requests).toEqual([
      [counting, 'exact', 200],
      [{ key: 'w', countKey: 'k', window }, 0],
    ]);
    await expect(distant.longAnswer(statement, { waitLimit: 1 })).rejects.toMatchObject({
      kind: 'time-limit',
    });
  });
});
