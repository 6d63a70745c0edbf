import type { Query } from '@ephoros/core/query';
import { ServiceError, remoteRows, type RemoteRows, type RowsAnswer } from './index.ts';

interface Asked {
  readonly offset: number;
  readonly limit: number;
  readonly total: string | undefined;
  readonly signal: AbortSignal;
  readonly answer: () => void;
  readonly fail: (error: Error) => void;
}

/** A service of `count` rows whose answers come when the test says so. */
function slowService(count: number): {
  asked: Asked[];
  ask: (query: Query, signal: AbortSignal) => Promise<RowsAnswer>;
} {
  const asked: Asked[] = [];
  return {
    asked,
    ask: (query, signal) =>
      new Promise((resolve, reject) => {
        const offset = query.place?.kind === 'offset' ? query.place.offset : 0;
        const { limit = 0, total } = query;
        const rows = Array.from(
          { length: Math.max(0, Math.min(limit, count - offset)) },
          (_, n) => ({ id: offset + n }),
        );
        const window = {
          offset,
          limit,
          count: rows.length,
          total: total === 'none' ? null : count,
          totalKind: total === 'none' ? ('none' as const) : ('exact' as const),
        };
        signal.addEventListener('abort', () => reject(new Error('aborted')));
        asked.push({
          offset,
          limit,
          total,
          signal,
          answer: () =>
            resolve({ table: 't', columns: ['id'], rows, window, next: null, previous: null }),
          fail: reject,
        });
      }),
  };
}

const settled = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 15));

async function opened(
  count: number,
  options: { keep?: number } = {},
): Promise<{ source: RemoteRows; asked: Asked[] }> {
  const { asked, ask } = slowService(count);
  const source = remoteRows({ ask, query: {}, blockSize: 10, settle: 5, ...options });
  source.look(0, 10);
  asked[0]?.answer();
  await settled();
  return { source, asked };
}

describe('rows of a service by position', () => {
  it('are asked for in blocks when they are looked at, and counted once', async () => {
    const { source, asked } = await opened(1000);
    expect(source.state()).toMatchObject({ total: 1000, totalKind: 'exact', status: 'ready' });
    expect(source.row(9)).toEqual({ id: 9 });
    expect(source.row(10)).toBeUndefined();
    source.look(505, 525);
    await settled();
    expect(asked.slice(1).map(({ offset, total }) => [offset, total])).toEqual([
      [500, 'none'],
      [510, 'none'],
      [520, 'none'],
    ]);
    expect(source.state().status).toBe('loading');
    for (const one of asked) one.answer();
    await settled();
    expect(source.state().status).toBe('ready');
    expect(source.row(512)).toEqual({ id: 512 });
    expect(source.rowsFetched()).toBe(40);
  });

  it('are not asked for while they are flown over', async () => {
    const { source, asked } = await opened(1000);
    for (let from = 0; from < 900; from += 50) source.look(from, from + 10);
    await settled();
    expect(asked.map(({ offset }) => offset)).toEqual([0, 850]);
  });

  it('are aborted when they are no longer looked at', async () => {
    const { source, asked } = await opened(1000);
    source.look(500, 510);
    await settled();
    source.look(700, 710);
    expect(asked[1]?.signal.aborted).toBe(true);
    await settled();
    expect(asked.map(({ offset }) => offset)).toEqual([0, 500, 700]);
    expect(source.state().status).toBe('loading');
  });

  it('are kept within a bound, the least recently seen dropped first', async () => {
    const { source, asked } = await opened(1000, { keep: 3 });
    for (const from of [100, 200, 0, 300]) {
      source.look(from, from + 10);
      await settled();
      asked.at(-1)?.answer();
      await settled();
    }
    expect([0, 100, 200, 300].map((position) => source.row(position) !== undefined)).toEqual([
      true,
      false,
      true,
      true,
    ]);
  });

  it('tell who listens, until they stop listening', async () => {
    const { source, asked } = await opened(1000);
    let told = 0;
    const stop = source.subscribe(() => (told += 1));
    source.look(100, 110);
    await settled();
    asked[1]?.answer();
    await settled();
    expect(told).toBeGreaterThanOrEqual(2);
    stop();
    const before = told;
    source.look(200, 210);
    expect(told).toBe(before);
  });

  it('fail with their reason and can be asked for again', async () => {
    const { source, asked } = await opened(1000);
    source.look(100, 110);
    await settled();
    asked[1]?.fail(new ServiceError('away', 'The service cannot be reached.'));
    await settled();
    expect(source.state()).toMatchObject({ status: 'failed', error: { kind: 'away' } });
    expect(source.row(5)).toEqual({ id: 5 });
    source.retry();
    asked[2]?.answer();
    await settled();
    expect(source.state()).toMatchObject({ status: 'ready', error: undefined });
    expect(source.row(105)).toEqual({ id: 105 });
  });

  it('learn that the result has become shorter', async () => {
    let count = 1000;
    const source = remoteRows({
      ask: (query, signal) => {
        const { asked, ask } = slowService(count);
        const answer = ask(query, signal);
        asked[0]?.answer();
        return answer;
      },
      query: {},
      blockSize: 10,
      settle: 1,
    });
    source.look(0, 10);
    await settled();
    count = 995;
    source.look(990, 1000);
    await settled();
    expect(source.state().total).toBe(995);
    source.close();
  });

  it('are none for an empty result', async () => {
    const { source } = await opened(0);
    expect(source.state()).toMatchObject({ total: 0, status: 'ready' });
  });

  it('are forgotten when the source is closed, and nothing more is asked', async () => {
    const { source, asked } = await opened(1000);
    source.look(100, 110);
    await settled();
    source.close();
    expect(asked[1]?.signal.aborted).toBe(true);
    source.look(300, 310);
    await settled();
    expect(asked).toHaveLength(2);
    expect(source.row(0)).toBeUndefined();
  });
});
