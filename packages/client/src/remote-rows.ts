import type { Query } from '@ephoros/core/query';
import { blocksOf } from '@ephoros/core/window';
import type { Row, RowsAnswer } from './answers.ts';
import type { RowSource, SourceState } from './row-source.ts';

export interface RemoteRowsOptions {
  /** Answers a window of the query, as `client.rows` does. */
  readonly ask: (query: Query, signal: AbortSignal) => Promise<RowsAnswer>;
  /** What to show; its `limit` and `place` are not used, since the view asks by position. */
  readonly query: Query;
  /** Rows of one request; 100 by default. */
  readonly blockSize?: number;
  /** Blocks kept at most; 60 by default. Those looked at are always kept. */
  readonly keep?: number;
  /** How long a place must be looked at before its rows are asked for, in ms; 40 by default. */
  readonly settle?: number;
}

/** A row source over a service. */
export interface RemoteRows extends RowSource {
  /** Rows that have crossed the wire so far. */
  readonly rowsFetched: () => number;
}

type Block =
  | { readonly kind: 'loading'; readonly controller: AbortController }
  | { readonly kind: 'loaded'; readonly rows: readonly Row[] }
  | { readonly kind: 'failed'; readonly error: Error };

/**
 * Rows by position, in blocks that are fetched when they are looked at and kept within a bound.
 * The total is counted with the first block only.
 */
export function remoteRows(options: RemoteRowsOptions): RemoteRows {
  return new Remote(options);
}

class Remote implements RemoteRows {
  private readonly options: Required<RemoteRowsOptions>;
  // In the order in which they were last looked at.
  private readonly blocks = new Map<number, Block>();
  private readonly listeners = new Set<() => void>();
  private looked = { from: 0, to: 0 };
  private timer: ReturnType<typeof setTimeout> | undefined;
  private total: number | undefined;
  private totalKind: SourceState['totalKind'] = 'none';
  private current: SourceState;
  private fetched = 0;
  private closed = false;

  constructor(options: RemoteRowsOptions) {
    this.options = { blockSize: 100, keep: 60, settle: 40, ...options };
    this.current = { total: undefined, totalKind: 'none', status: 'loading', error: undefined };
  }

  state = (): SourceState => this.current;

  row = (position: number): Row | undefined => {
    const { blockSize } = this.options;
    const block = this.blocks.get(Math.floor(position / blockSize));
    return block?.kind === 'loaded' ? block.rows[position % blockSize] : undefined;
  };

  look = (from: number, to: number): void => {
    if (this.closed || (from === this.looked.from && to === this.looked.to)) return;
    this.looked = { from, to };
    this.abortUnseen();
    clearTimeout(this.timer);
    // The first look is not a flight over rows.
    if (this.total === undefined) this.load();
    else this.timer = setTimeout(() => this.load(), this.options.settle);
    this.tell();
  };

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  retry = (): void => {
    for (const [index, block] of this.blocks) {
      if (block.kind === 'failed') this.blocks.delete(index);
    }
    this.load();
    this.tell();
  };

  close = (): void => {
    this.closed = true;
    clearTimeout(this.timer);
    for (const block of this.blocks.values()) {
      if (block.kind === 'loading') block.controller.abort();
    }
    this.blocks.clear();
    this.listeners.clear();
  };

  rowsFetched = (): number => this.fetched;

  private seen(): number[] {
    const { from, to } = this.looked;
    const end = this.total === undefined ? to : Math.min(to, this.total);
    const { first, last } = blocksOf(from, end, this.options.blockSize);
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => first + index);
  }

  private abortUnseen(): void {
    const seen = new Set(this.seen());
    for (const [index, block] of this.blocks) {
      if (block.kind === 'loading' && !seen.has(index)) {
        this.blocks.delete(index);
        block.controller.abort();
      }
    }
  }

  private load(): void {
    for (const index of this.seen()) {
      const block = this.blocks.get(index);
      if (block === undefined) void this.fetchBlock(index);
      else {
        this.blocks.delete(index);
        this.blocks.set(index, block);
      }
    }
    this.drop();
  }

  private async fetchBlock(index: number): Promise<void> {
    const { ask, query, blockSize } = this.options;
    const controller = new AbortController();
    const block: Block = { kind: 'loading', controller };
    this.blocks.set(index, block);
    const window: Query = {
      ...query,
      limit: blockSize,
      place: { kind: 'offset', offset: index * blockSize },
      total: this.total === undefined ? (query.total ?? 'exact') : 'none',
    };
    try {
      const answer = await ask(window, controller.signal);
      if (this.blocks.get(index) !== block) return;
      this.fetched += answer.rows.length;
      this.blocks.set(index, { kind: 'loaded', rows: answer.rows });
      this.learnTotal(index, answer);
    } catch (thrown) {
      // Aborted: the block has made room already.
      if (this.blocks.get(index) !== block) return;
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      this.blocks.set(index, { kind: 'failed', error });
    }
    this.drop();
    this.tell();
  }

  private learnTotal(index: number, { rows, window }: RowsAnswer): void {
    const { blockSize } = this.options;
    const end = index * blockSize + rows.length;
    if (window.total !== null) {
      this.total = window.total;
      this.totalKind = window.totalKind;
    } else if (rows.length < blockSize && rows.length > 0) {
      // The end, wherever the total was thought to be: rows were deleted or added meanwhile.
      this.total = end;
      this.totalKind = 'exact';
    } else this.total = Math.max(this.total ?? 0, end);
  }

  private drop(): void {
    const seen = new Set(this.seen());
    for (const index of this.blocks.keys()) {
      if (this.blocks.size <= this.options.keep) return;
      if (!seen.has(index)) this.blocks.delete(index);
    }
  }

  private tell(): void {
    const blocks = this.seen().map((index) => this.blocks.get(index));
    const failed = blocks.find((block) => block?.kind === 'failed');
    const waiting = blocks.some((block) => block === undefined || block.kind === 'loading');
    this.current = {
      total: this.total,
      totalKind: this.totalKind,
      status: failed ? 'failed' : waiting || this.total === undefined ? 'loading' : 'ready',
      error: failed?.error,
    };
    for (const listener of [...this.listeners]) listener();
  }
}
