import type { RowsAnswer, Window } from '@ephoros/core/answer';
import type { WrittenQuery } from '@ephoros/core/query';
import { until } from '../../core/src/testing/until.ts';
import { createClient, remoteRows, type RemoteRows, type OnProgress } from './index.ts';

/** A service that looks through a result: each question finds what there is by then. */
class SearchingService {
  /** Rows looked through, of how many, and how many of them are found. */
  scanned = 0;
  readonly of = 1_000;
  readonly requests: { offset: number; total: string | undefined }[] = [];

  get found(): number {
    return Math.floor(this.scanned / 10);
  }

  request = (query: WrittenQuery): Promise<RowsAnswer> => {
    const { place, limit = 0, total } = query;
    const offset = place?.kind === 'offset' ? place.offset : 0;
    this.requests.push({ offset: place?.kind === 'offset' ? offset : -1, total });
    const rows = Array.from(
      { length: Math.max(0, Math.min(limit, this.found - offset)) },
      (_row, at) => ({ id: offset + at }),
    );
    const whole = this.scanned === this.of;
    const window: Window = {
      ...{ offset, limit, count: rows.length, total: this.found },
      totalKind: whole ? 'exact' : 'estimate',
      ...(whole ? {} : { scanned: { rows: this.scanned, of: this.of } }),
    };
    const ends = whole && offset + rows.length >= this.found;
    return Promise.resolve({
      ...{ table: 't', columns: ['id'], rows, window },
      next: ends ? null : `behind ${offset + rows.length}`,
      previous: null,
    });
  };
}

function check(service: SearchingService): RemoteRows {
  const source = remoteRows({ request: service.request, query: {}, blockSize: 10, settle: 1 });
  source.setVisibleRows(0, 10);
  return source;
}

describe('a result that is looked through', () => {
  it('grows while it is looked at, and says how far it is', async () => {
    const service = new SearchingService();
    service.scanned = 5;
    const source = check(service);
    await until(
      () => Promise.resolve(source.state()),
      ({ progress }) => progress !== undefined,
    );
    expect(source.state()).toMatchObject({
      total: 0,
      status: 'ready',
      progress: { kind: 'searching', rows: 5, of: 1_000, stopped: false },
    });
    service.scanned = 70;
    await until(
      () => Promise.resolve(source.state()),
      ({ total }) => total === 7,
    );
    expect(source.row(6)).toEqual({ id: 6 });
    service.scanned = service.of;
    await until(
      () => Promise.resolve(source.state()),
      ({ total, totalKind }) => total === 100 && totalKind === 'exact',
    );
    expect(source.state().progress).toBeUndefined();
    source.close();
  });

  it('is requested by position, since no cursor leads from block to block', async () => {
    const service = new SearchingService();
    service.scanned = 350;
    const source = check(service);
    await until(
      () => Promise.resolve(source.row(9)),
      (row) => row !== undefined,
    );
    source.setVisibleRows(10, 30);
    await until(
      () => Promise.resolve(source.row(29)),
      (row) => row !== undefined,
    );
    expect(service.requests.every(({ offset }) => offset >= 0)).toBe(true);
    // Behind what was found there is nothing to be requested.
    expect(Math.max(...service.requests.map(({ offset }) => offset))).toBeLessThan(40);
    source.close();
  });

  it('is left as it is once somebody has read enough, until they want more', async () => {
    const service = new SearchingService();
    service.scanned = 30;
    const source = check(service);
    await until(
      () => Promise.resolve(source.state()),
      ({ total }) => total === 3,
    );
    source.stop?.();
    expect(source.state().progress).toMatchObject({ stopped: true });
    const startedAt = service.requests.length;
    service.scanned = 60;
    // Longer than the pause between two questions.
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect([service.requests.length, source.state().total]).toEqual([startedAt, 3]);
    source.retry();
    await until(
      () => Promise.resolve(source.state()),
      ({ total }) => total === 6,
    );
    expect(source.state().progress).toMatchObject({ stopped: false });
    source.close();
  });
});

describe('an answer that is not ready', () => {
  /** Says so many times that it is not ready, and then answers. */
  function slowly(times: number): { fetch: typeof fetch; request: () => number } {
    let startedAt = 0;
    return {
      request: () => startedAt,
      fetch: () => {
        startedAt += 1;
        if (startedAt > times) {
          return Promise.resolve(Response.json({ table: 't', aggregates: [], values: { n: 1 } }));
        }
        const running = {
          status: 'running',
          progress: { share: startedAt / 10, elapsed: startedAt },
        };
        return Promise.resolve(
          Response.json(running, { status: 202, headers: { 'Retry-After': '1' } }),
        );
      },
    };
  }

  it('is requested until it is, and its progress is reported', async () => {
    const { fetch, request } = slowly(3);
    const client = createClient({ url: 'http://service', fetch });
    const reported: number[] = [];
    const answer = await client.aggregates('t', {}, undefined, ({ share }) => reported.push(share));
    expect(answer.values).toEqual({ n: 1 });
    expect([request(), reported]).toEqual([4, [0.1, 0.2, 0.3]]);
  });

  it('is given up as soon as nobody wants it', async () => {
    const { fetch, request: send } = slowly(1_000_000);
    const client = createClient({ url: 'http://service', fetch });
    const leaving = new AbortController();
    const gone = new Error('gone');
    const answer = client.groups('t', {}, leaving.signal, () => leaving.abort(gone));
    await expect(answer).rejects.toBe(gone);
    expect(send()).toBe(1);
  });

  it('is reported by a source whose rows are being found', () => {
    let notify: OnProgress = () => undefined;
    const source = remoteRows({
      request: (_query, _signal, onProgress) => {
        notify = onProgress ?? notify;
        return new Promise<RowsAnswer>(() => undefined);
      },
      query: {},
      total: 1_000,
      blockSize: 10,
    });
    source.setVisibleRows(500, 510);
    const heard: unknown[] = [];
    source.subscribe(() => heard.push(source.state().progress));
    notify({ share: 0.43, elapsed: 900 });
    expect(heard.at(-1)).toEqual({ kind: 'finding', share: 0.43 });
    expect(source.state().status).toBe('loading');
    source.close();
  });
});
