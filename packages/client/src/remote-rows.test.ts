import { until } from '../../core/src/testing/until.ts';
import { pauseAfter } from './back-off.ts';
import { ServiceError, remoteRows, type RemoteRows, type RemoteRowsOptions } from './index.ts';
import { FakeService, idsOf, type Requested } from './testing/fake-service.ts';

/** The clock of the sources, in ms: a busy machine does not move it. */
let clock = 0;

/** Several turns of the timers, each set when the one before has come: whatever is due by then is done. */
async function settled(): Promise<void> {
  for (let turn = 0; turn < 4; turn += 1) {
    await new Promise((resolve) => setTimeout(resolve, 6));
    clock += 6;
  }
}

async function opened(
  count: number,
  options: Partial<RemoteRowsOptions> = {},
): Promise<{ source: RemoteRows; service: FakeService; wanted: Requested[] }> {
  const service = new FakeService(count);
  const { wanted } = service;
  const source = remoteRows({
    request: service.request,
    query: {},
    blockSize: 10,
    settle: 5,
    now: () => clock,
    ...options,
  });
  source.setVisibleRows(0, 10);
  wanted[0]?.answer();
  await settled();
  wanted[1]?.answer();
  await settled();
  return { source, service, wanted };
}

describe('rows of a service by position', () => {
  it('are requested again on demand: the old ones stay until the new ones come', async () => {
    const { source, service, wanted } = await opened(100);
    source.setVisibleRows(40, 50);
    await settled();
    wanted.at(-1)?.answer();
    await settled();
    expect(idsOf(source, 40, 42)).toEqual([40, 41]);
    const before = wanted.length;
    service.ids.splice(0, 5);
    source.refresh();
    expect(source.state()).toMatchObject({ status: 'loading', total: 100 });
    expect(idsOf(source, 40, 42)).toEqual([40, 41]);
    // What is not looked at is forgotten, not requested.
    expect(source.row(0)).toBeUndefined();
    expect(wanted.slice(before).map(({ place, total }) => [place, total])).toEqual([
      ['offset 40', 'estimate'],
    ]);
    wanted.at(-1)?.answer();
    await settled();
    expect(idsOf(source, 40, 42)).toEqual([45, 46]);
    service.manual = false;
    wanted.at(-1)?.answer();
    await until(
      () => Promise.resolve(source.state()),
      ({ total, totalKind }) => total === 95 && totalKind === 'exact',
    );
  });

  it('stay as they were where requesting again fails, and are requested again', async () => {
    const { source, wanted: request } = await opened(100);
    source.refresh();
    request.at(-1)?.fail(new Error('broken'));
    await settled();
    expect(source.state()).toMatchObject({ status: 'failed' });
    expect(idsOf(source, 0, 2)).toEqual([0, 1]);
    source.retry();
    request.at(-1)?.answer();
    await settled();
    expect(source.state()).toMatchObject({ status: 'ready', error: undefined });
  });

  it('are requested in blocks when they are looked at, far ones by offset, neighbours by cursor', async () => {
    const { source, service, wanted: options } = await opened(1000);
    expect(source.state()).toMatchObject({ total: 1000, totalKind: 'exact', status: 'ready' });
    expect(source.row(9)).toEqual({ id: 9 });
    expect(source.row(10)).toBeUndefined();
    source.setVisibleRows(505, 525);
    await settled();
    expect(source.state().status).toBe('loading');
    expect(service.places()).toEqual(['offset 0', 'offset 500']);
    options.at(-1)?.answer();
    await settled();
    expect(service.places().at(-1)).toBe('after 509');
    service.manual = false;
    options.at(-1)?.answer();
    await settled();
    // And one ahead of the movement.
    expect(service.places()).toEqual([
      'offset 0',
      'offset 500',
      'after 509',
      'after 519',
      'after 529',
    ]);
    expect(source.state().status).toBe('ready');
    expect(source.row(512)).toEqual({ id: 512 });
    expect(source.rowsFetched()).toBe(50);
  });

  it('are fetched ahead in the direction of movement', async () => {
    const { source, service } = await opened(1000);
    service.manual = false;
    source.setVisibleRows(500, 510);
    await settled();
    source.setVisibleRows(495, 505);
    await settled();
    expect(service.places().slice(2)).toEqual(['after 509', 'before 500', 'before 490']);
  });

  it('are not requested while they are flown over', async () => {
    const { source, service } = await opened(1000);
    for (let from = 200; from < 900; from += 50) source.setVisibleRows(from, from + 10);
    await settled();
    expect(service.places()).toEqual(['offset 0', 'offset 850']);
  });

  it('are requested at once where they are read on at a walk', async () => {
    const { source, service } = await opened(1000, { settle: 40 });
    await settled();
    source.setVisibleRows(2, 12);
    expect(service.places()).toEqual(['offset 0', 'after 9']);
  });

  it('are aborted when they are no longer looked at, and few are on their way at once', async () => {
    const { source, service, wanted: asked } = await opened(1000, { keyed: false });
    source.setVisibleRows(500, 560);
    await settled();
    expect(service.places().slice(1)).toEqual(['offset 500', 'offset 510', 'offset 520']);
    source.setVisibleRows(700, 710);
    expect(asked.slice(-3).map(({ signal }) => signal.aborted)).toEqual([true, true, true]);
    await settled();
    expect(service.places().slice(4)).toEqual(['offset 700', 'offset 710']);
    expect(source.state().status).toBe('loading');
  });

  it('are stored within a bound, the least recently seen dropped first', async () => {
    const { source, service } = await opened(1000, { keep: 3, ahead: 0 });
    service.manual = false;
    for (const from of [100, 200, 0, 300]) {
      source.setVisibleRows(from, from + 10);
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
    const { source, wanted: asked } = await opened(1000);
    let reported = 0;
    const stop = source.subscribe(() => (reported += 1));
    source.setVisibleRows(100, 110);
    await settled();
    asked.at(-1)?.answer();
    await settled();
    expect(reported).toBeGreaterThanOrEqual(2);
    stop();
    const before = reported;
    source.setVisibleRows(200, 210);
    expect(reported).toBe(before);
  });

  it('fail with their reason and can be requested again', async () => {
    const { source, wanted: asked } = await opened(1000, { ahead: 0 });
    source.setVisibleRows(100, 110);
    await settled();
    asked.at(-1)?.fail(new ServiceError('failed', 'Time limit exceeded.'));
    await settled();
    expect(source.state()).toMatchObject({ status: 'failed', error: { kind: 'failed' } });
    expect(source.row(5)).toEqual({ id: 5 });
    source.retry();
    asked.at(-1)?.answer();
    await settled();
    expect(source.state()).toMatchObject({ status: 'ready', error: undefined });
    expect(source.row(105)).toEqual({ id: 105 });
  });

  it('come by themselves when a service that was away is back', async () => {
    const pauses: [number, number][] = [];
    const pause = (failures: number, least: number): number => {
      pauses.push([failures, least]);
      return 10;
    };
    const { source, wanted: asked, service } = await opened(1000, { ahead: 0, pause });
    source.setVisibleRows(10, 20);
    await settled();
    asked.at(-1)?.fail(new ServiceError('unavailable', 'Full.', { retryAfter: 2 }));
    await Promise.resolve();
    await Promise.resolve();
    expect(source.state()).toMatchObject({ status: 'retrying', error: { message: 'Full.' } });
    expect(source.state().retryAt).toBeGreaterThan(Date.now() - 100);
    await settled();
    asked.at(-1)?.fail(new ServiceError('unavailable', 'Away.'));
    service.manual = false;
    await settled();
    await settled();
    expect(pauses).toEqual([
      [1, 2000],
      [2, 0],
    ]);
    expect(source.state()).toMatchObject({ status: 'ready', error: undefined });
    expect(service.places()).toEqual(['offset 0', 'after 9', 'after 9', 'after 9']);
    expect(source.row(15)).toEqual({ id: 15 });
  });

  it('are counted about, and then exactly', async () => {
    const service = new FakeService(1000);
    service.estimate = 980;
    service.exact = false;
    const source = remoteRows({ request: service.request, query: {}, blockSize: 10 });
    source.setVisibleRows(0, 10);
    service.wanted[0]?.answer();
    await settled();
    expect(source.state()).toMatchObject({ total: 980, totalKind: 'estimate' });
    expect(service.wanted[1]).toMatchObject({ place: 'count', total: 'exact' });
    service.wanted[1]?.answer();
    await settled();
    expect(source.state()).toMatchObject({ total: 980, totalKind: 'estimate', status: 'ready' });
    service.exact = true;
    service.manual = false;
    await until(
      () => Promise.resolve(source.state()),
      ({ totalKind }) => totalKind === 'exact',
    );
    expect(source.state()).toMatchObject({ total: 1000, totalKind: 'exact' });
    source.close();
  });

  it('are counted later where nothing may be stated about their number before', async () => {
    const service = new FakeService(50);
    const isReported = { total: null, totalKind: 'none' as const, counting: true };
    let startedAt = 0;
    const source = remoteRows({
      query: {},
      blockSize: 10,
      request: async (query, signal) => {
        const answer = service.request(query, signal);
        service.wanted.at(-1)?.answer();
        const { window, ...rest } = await answer;
        startedAt += query.total === 'exact' ? 1 : 0;
        // Counted by the second time that it is requested.
        return { ...rest, window: startedAt > 1 ? window : { ...window, ...isReported } };
      },
    });
    source.setVisibleRows(0, 10);
    await until(
      () => Promise.resolve(source.state()),
      ({ total, totalKind }) => total === 50 && totalKind === 'exact',
    );
    source.close();
  });

  it('are requested further on where an answer had no room for all of them', async () => {
    const service = new FakeService(100);
    const source = remoteRows({
      query: {},
      blockSize: 20,
      request: async (query, signal) => {
        const answer = service.request({ ...query, limit: Math.min(query.limit ?? 0, 7) }, signal);
        service.wanted.at(-1)?.answer();
        const whole = await answer;
        const { limit = 0 } = query;
        return { ...whole, window: { ...whole.window, limit, cut: limit > 7 } };
      },
    });
    source.setVisibleRows(0, 20);
    await until(
      () => Promise.resolve(source.row(19)),
      (row) => row !== undefined,
    );
    expect(Array.from({ length: 20 }, (_, at) => source.row(at)?.id)).toEqual(
      Array.from({ length: 20 }, (_, at) => at),
    );
    source.close();
  });

  it('have an open end where nobody counts', async () => {
    const service = new FakeService(25);
    service.manual = false;
    const source = remoteRows({
      request: service.request,
      query: { total: 'none' },
      blockSize: 10,
      settle: 5,
    });
    source.setVisibleRows(0, 10);
    await settled();
    expect(source.state()).toMatchObject({ total: 10, totalKind: 'none', open: true });
    source.setVisibleRows(5, 30);
    await settled();
    expect(source.state()).toMatchObject({ total: 25, totalKind: 'exact', open: false });
    expect(service.wanted.map(({ total }) => total)).toEqual(['none', 'none', 'none']);
  });

  it('learn that the result has become shorter, or longer', async () => {
    const { source, service } = await opened(1000);
    service.manual = false;
    service.ids.length = 995;
    source.setVisibleRows(990, 1000);
    await settled();
    expect(source.state()).toMatchObject({ total: 995, totalKind: 'exact' });
    service.ids.push(...Array.from({ length: 30 }, (_, n) => 2000 + n));
    source.setVisibleRows(970, 980);
    await settled();
    source.setVisibleRows(989, 995);
    await settled();
    const { source: other, service: grown } = await opened(20);
    grown.manual = false;
    grown.ids.push(...Array.from({ length: 30 }, (_, n) => 2000 + n));
    other.setVisibleRows(12, 20);
    await settled();
    expect(other.state()).toMatchObject({ totalKind: 'estimate' });
    expect(other.state().total).toBeGreaterThan(20);
  });

  it('are forgotten when the source is closed', async () => {
    const { source, wanted: asked } = await opened(1000);
    source.setVisibleRows(100, 110);
    await settled();
    const underWay = asked.at(-1);
    source.close();
    expect(underWay?.signal.aborted).toBe(true);
    const before = asked.length;
    source.setVisibleRows(300, 310);
    await settled();
    expect(asked).toHaveLength(before);
    expect(source.row(0)).toBeUndefined();
  });
});

describe('the pause before a question is requested again', () => {
  it('doubles up to a bound, is never shorter than the service requested, and varies', () => {
    expect([1, 2, 3, 9].map((failures) => pauseAfter(failures, 0, 0.5))).toEqual([
      500, 1000, 2000, 10_000,
    ]);
    expect(pauseAfter(1, 3000, 0.5)).toBe(3000);
    expect(pauseAfter(1, 0, 0)).toBe(400);
    expect(pauseAfter(1, 0, 1)).toBe(600);
  });
});
