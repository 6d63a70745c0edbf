import type { Place, WrittenQuery } from '@ephoros/core/query';
import { blocksOf } from '@ephoros/core/window';
import type { Progress, Row, WindowAnswer } from '@ephoros/core/answer';
import { pauseAfter } from './back-off.ts';
import { AnswerWatch, type Watched } from './answer-watch.ts';
import { Blocks, type Block, type WayToBlock } from './blocks.ts';
import { unanswered, type RowSource, type SourceState } from './row-source.ts';
import { RunningScan } from './running-scan.ts';
import { ServiceError } from './service-error.ts';
import type { OnProgress } from './transport.ts';
import { countExactly, exactly, learnt, unknownTotal, type KnownTotal } from './total.ts';
import { fetchWhole, windowOf } from './whole-window.ts';

export interface RemoteRowsOptions<Line = Row> extends Watched {
  /** Answers a window of the query, as `client.rows` does. */
  readonly request: (
    query: WrittenQuery,
    signal: AbortSignal,
    onProgress?: OnProgress,
  ) => Promise<WindowAnswer<Line>>;
  /** What to show; its `limit` and `place` are not used, since the view asks by position. */
  readonly query: WrittenQuery;
  /** How many rows there are, where that is known; else it is requested. */
  readonly total?: number;
  /** A block that is there already, `blockSize` rows from a multiple of it on; undefined for none. */
  readonly first?: { readonly from: number; readonly answer: WindowAnswer<Line> } | undefined;
  /** Rows of one request; 100 by default. */
  readonly blockSize?: number;
  /** Blocks stored at most; 60 by default. Those looked at are always stored. */
  readonly keep?: number;
  /** How long a place must be looked at in flight before it is requested, in ms; 40 by default. */
  readonly settle?: number;
  /** Requests at the same time; 3 by default. */
  readonly atOnce?: number;
  /** Blocks fetched before they are looked at, in the direction of movement; 1 by default. */
  readonly ahead?: number;
  /** Whether the table has a key, so that neighbours are requested by cursor; true by default. */
  readonly keyed?: boolean;
  /** The pause after so many failures in a row, in ms; `pauseAfter` by default. */
  readonly pause?: (failures: number, least: number) => number;
  /** The clock, in ms; `performance.now` by default. */
  readonly now?: () => number;
}

/** A row source over a service. */
export interface RemoteRows<Line = Row> extends RowSource<Line> {
  /** Rows that have crossed the wire so far. */
  readonly rowsFetched: () => number;
}

/**
 * Rows by position, in blocks that are fetched when they are looked at, or just before, and stored
 * within a bound. The first answer brings an estimate of the total; the exact one follows.
 */
export function remoteRows<Line = Row>(options: RemoteRowsOptions<Line>): RemoteRows<Line> {
  return new Remote(options);
}

class Remote<Line> implements RemoteRows<Line> {
  private readonly options: Required<
    Omit<RemoteRowsOptions<Line>, 'total' | 'first' | keyof Watched>
  >;
  private readonly watch: AnswerWatch<Line>;
  private readonly blocks: Blocks<Line>;
  /** Rows that are being requested again: they stand in for the new ones until those come. */
  private readonly old = new Map<number, readonly Line[]>();
  /** Whether the number of rows is to be requested again. */
  private recount = false;
  private readonly listeners = new Set<() => void>();
  private requestedRange = { from: 0, to: 0, at: -Infinity };
  private direction = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private pausing:
    { readonly timer: ReturnType<typeof setTimeout>; readonly until: number } | undefined;
  private failures = 0;
  private lastFailure: Error | undefined;
  private known: KnownTotal = unknownTotal;
  private readonly scan = new RunningScan(() => this.checkAgain());
  private readonly counting = new AbortController();
  private current: SourceState;
  private counts = false;
  /** Whether the first block came with an estimate, and nobody has counted since. */
  private uncounted = false;
  private fetched = 0;
  private closed = false;

  constructor(options: RemoteRowsOptions<Line>) {
    this.options = {
      blockSize: 100,
      keep: 60,
      settle: 40,
      atOnce: 3,
      ahead: 1,
      keyed: true,
      pause: (failures, least) => pauseAfter(failures, least),
      now: () => performance.now(),
      ...options,
    };
    const { total } = options;
    this.watch = new AnswerWatch(options);
    this.blocks = new Blocks(this.options.blockSize);
    if (total !== undefined) this.known = exactly(total);
    this.current = { ...unanswered, ...this.known };
    if (options.first !== undefined) this.takeFirst(options.first);
  }

  state = (): SourceState => this.current;

  row = (position: number): Line | undefined => {
    const { blockSize } = this.options;
    const index = Math.floor(position / blockSize);
    const block = this.blocks.get(index);
    const rows = block?.kind === 'loaded' ? block.rows : this.old.get(index);
    return rows?.[position % blockSize];
  };

  setVisibleRows = (from: number, to: number): void => {
    const last = this.requestedRange;
    if (this.closed || (from === last.from && to === last.to)) return;
    const at = this.options.now();
    this.requestedRange = { from, to, at };
    this.direction = Math.sign(from - last.from) || this.direction;
    const { blockSize, settle, query } = this.options;
    if (this.uncounted) {
      this.uncounted = false;
      if (query.total !== 'estimate' && query.total !== 'none') void this.count();
    }
    // Faster than a block within the time of settling, rows are flown over, not read.
    const flight = Math.abs(from - last.from) * settle > blockSize * (at - last.at);
    this.blocks.abortBut(new Set(this.wanted()));
    clearTimeout(this.timer);
    if (flight && this.known.total !== undefined) {
      this.timer = setTimeout(() => this.load(), settle);
    } else this.load();
    this.notify(false);
  };

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  stop = (): void => {
    this.scan.stop();
    this.notify(false);
  };

  retry = (): void => {
    this.scan.goOn();
    if (this.scan.searches) this.checkAgain();
    this.blocks.forgetFailed();
    this.resume();
  };

  refresh = (): void => {
    if (this.closed) return;
    for (const index of this.visibleRange()) {
      const block = this.blocks.get(index);
      if (block?.kind === 'loaded') this.old.set(index, block.rows);
    }
    this.blocks.clear();
    this.recount = true;
    this.resume();
  };

  close = (): void => {
    this.closed = true;
    clearTimeout(this.timer);
    clearTimeout(this.pausing?.timer);
    this.scan.close();
    this.counting.abort();
    this.blocks.clear();
    this.old.clear();
    this.listeners.clear();
  };

  rowsFetched = (): number => this.fetched;

  /** A block that somebody else has requested stands as if it had been requested here. */
  private takeFirst({ from, answer }: NonNullable<RemoteRowsOptions<Line>['first']>): void {
    // What was still being looked for is requested again by anyone who looks.
    if (answer.window.scanned !== undefined) return;
    const place: Place = { kind: 'offset', offset: from };
    const { blockSize } = this.options;
    const block = windowOf(answer, from, blockSize);
    this.cacheAnswer(Math.floor(from / blockSize), place, this.blocks.newChain(), block);
    this.current = { ...this.current, ...this.known, status: 'ready' };
    // It is counted once somebody looks: anyone who only draws it once asks nothing.
    this.uncounted = this.known.totalKind === 'estimate' || answer.window.counting === true;
  }

  /** The blocks that are looked at. */
  private visibleRange(): number[] {
    const { from, to } = this.requestedRange;
    const { total, open } = this.known;
    const end = total === undefined || open ? to : Math.min(to, total);
    // What is looked through is looked at even where nothing was found so far.
    const least = this.scan.searches && total === 0 ? 1 : 0;
    return range(blocksOf(from, Math.max(end, least), this.options.blockSize));
  }

  /** The blocks to have: those looked at, and then those that will be next. */
  private wanted(): number[] {
    const { ahead, blockSize } = this.options;
    const { total } = this.known;
    const visible = this.visibleRange();
    const [first = 0] = visible;
    const last = visible.at(-1) ?? first;
    const end = total === undefined ? 0 : Math.ceil(total / blockSize);
    const further = Array.from({ length: ahead }, (_, index) =>
      this.direction < 0 ? first - 1 - index : last + 1 + index,
    );
    const real = further.filter((index) => index >= 0 && index < end);
    return this.direction === 0 ? visible : [...visible, ...real];
  }

  /** Asks for what is wanted and not there, as far as requests may be under way. */
  private load(): void {
    if (this.closed) return;
    const wanted = this.wanted();
    this.blocks.touch(wanted);
    // Of a result that grows no cursor leads from block to block.
    const chained = this.options.keyed && !this.scan.searches;
    if (chained) this.blocks.dropOtherChains(wanted);
    if (this.pausing === undefined) {
      const waiting = new Set<number>();
      for (const index of wanted) {
        if (this.blocks.loading >= this.options.atOnce) break;
        if (this.blocks.has(index)) continue;
        const request = chained ? this.blocks.wayTo(index, waiting) : this.blocks.byOffset(index);
        if (request === undefined) waiting.add(index);
        else void this.fetchBlock(index, request);
      }
    }
    this.blocks.keep(this.options.keep, new Set(wanted));
  }

  private async fetchBlock(index: number, { place, chain }: WayToBlock): Promise<void> {
    const { query, blockSize } = this.options;
    const controller = new AbortController();
    const block: Block<Line> = { kind: 'loading', controller, chain };
    this.blocks.set(index, block);
    const counts = this.recount || this.known.total === undefined;
    const total = counts && query.total !== 'none' ? 'estimate' : 'none';
    try {
      const { request, keyed } = this.options;
      const onProgress = (progress: Progress): void => {
        this.scan.notYet(progress);
        this.notify(false);
      };
      const answer = await fetchWhole(
        (window) => request(window, controller.signal, onProgress),
        { ...query, limit: blockSize, place, total },
        keyed,
      );
      if (this.blocks.get(index) !== block) return;
      this.failures = 0;
      if (counts) this.recount = false;
      this.fetched += answer.rows.length;
      const from = index * blockSize;
      if (place.kind === 'offset') this.watch.see(from, answer.window.limit, answer);
      const searched = this.scan.searches;
      this.scan.came(answer.window, answer.rows.length >= blockSize);
      this.cacheAnswer(index, place, chain, windowOf(answer, from, blockSize));
      const later = this.known.totalKind === 'estimate' || answer.window.counting === true;
      // What is looked through counts itself.
      const { searches } = this.scan;
      const asks = !searches && (searched || (later && total === 'estimate'));
      if (asks && query.total !== 'estimate' && query.total !== 'none') void this.count();
    } catch (thrown) {
      // Aborted: the block has made room already.
      if (this.blocks.get(index) !== block) return;
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      if (error instanceof ServiceError && error.kind === 'unavailable') {
        this.blocks.delete(index);
        this.rest(error);
      } else this.blocks.set(index, { kind: 'failed', error });
    }
    this.load();
    this.notify();
  }

  private cacheAnswer(
    index: number,
    place: Place,
    chain: number,
    answer: WindowAnswer<Line>,
  ): void {
    const { rows, next, previous } = answer;
    const { blockSize } = this.options;
    // Rows that were added or deleted further up have moved the beginning.
    const atStart = previous === null;
    if (place.kind === 'before' && (rows.length < blockSize || atStart !== (index === 0))) {
      // What is looked at is requested by its position again.
      this.blocks.clear();
      return;
    }
    this.blocks.set(index, { kind: 'loaded', rows, next, previous, chain });
    this.old.delete(index);
    if (place.kind === 'before') return;
    const { keyed } = this.options;
    this.known = learnt(this.known, index * blockSize, answer, blockSize, keyed);
  }

  /** Asks for what is missing, and of a result that grows for the last rows that are looked at. */
  private checkAgain(): void {
    const last = this.scan.searches ? (this.visibleRange().at(-1) ?? 0) : -1;
    const block = this.blocks.get(last);
    if (block?.kind === 'loaded') {
      this.old.set(last, block.rows);
      this.blocks.delete(last);
    }
    this.load();
    this.notify();
  }

  /** Waits before anything is requested again. */
  private rest(error: ServiceError): void {
    this.lastFailure = error;
    if (this.pausing !== undefined) return;
    this.failures += 1;
    const pause = this.options.pause(this.failures, (error.retryAfter ?? 0) * 1000);
    this.pausing = {
      timer: setTimeout(() => this.resume(), pause),
      until: Date.now() + pause,
    };
  }

  private resume(): void {
    clearTimeout(this.pausing?.timer);
    this.pausing = undefined;
    this.load();
    this.notify();
  }

  /** Asks for the exact total until it is there. */
  private async count(): Promise<void> {
    if (this.counts) return;
    this.counts = true;
    const { request, query } = this.options;
    const total = await countExactly(request, query, this.counting.signal);
    if (total !== undefined) {
      this.known = exactly(total);
      this.load();
      this.notify();
    }
    this.counts = false;
  }

  /** Shows that the state has changed, if it has, or that rows have come or gone. */
  private notify(rows = true): void {
    const blocks = this.visibleRange().map((index) => this.blocks.get(index));
    const failed = blocks.find((block) => block?.kind === 'failed');
    const missing = blocks.some((block) => block === undefined || block.kind === 'loading');
    // What is not looked at any more is not stored for its old rows.
    if (!missing && failed === undefined) this.old.clear();
    const waiting = missing || this.known.total === undefined;
    const retrying = waiting && this.pausing !== undefined;
    const last = this.current;
    const now: SourceState = {
      ...this.known,
      status: failed ? 'failed' : retrying ? 'retrying' : waiting ? 'loading' : 'ready',
      error: failed?.error ?? (retrying ? this.lastFailure : undefined),
      retryAt: retrying ? this.pausing?.until : undefined,
      progress: this.scan.progress(waiting),
    };
    const same = (Object.keys(now) as (keyof SourceState)[]).every((key) => now[key] === last[key]);
    if (same && !rows) return;
    this.current = now;
    for (const listener of [...this.listeners]) listener();
  }
}

function range({ first, last }: { first: number; last: number }): number[] {
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => first + index);
}
