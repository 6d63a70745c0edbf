import type { Place } from '@ephoros/core/query';

/**
 * Blocks of one chain were requested by cursor, one from the other: read on within it, no row
 * comes twice and none is left out, whatever others write.
 */
export type Block<Line> =
  | { readonly kind: 'loading'; readonly controller: AbortController; readonly chain: number }
  | {
      readonly kind: 'loaded';
      readonly rows: readonly Line[];
      readonly next: string | null;
      readonly previous: string | null;
      readonly chain: number;
    }
  | { readonly kind: 'failed'; readonly error: Error };

/** The place that a block is requested at, and the chain that it belongs to then. */
export interface WayToBlock {
  readonly place: Place;
  readonly chain: number;
}

/** Blocks of rows by number, those that are on their way among them, in the order in which they were last looked at. */
export class Blocks<Line> extends Map<number, Block<Line>> {
  private readonly rows: number;
  private chains = 0;

  /** @param rows of a block */
  constructor(rows: number) {
    super();
    this.rows = rows;
  }

  /** How many are on their way. */
  get loading(): number {
    return [...this.values()].filter(({ kind }) => kind === 'loading').length;
  }

  /** A chain that no block belongs to yet. */
  newChain(): number {
    return (this.chains += 1);
  }

  /** Says which are looked at. */
  touch(indexes: readonly number[]): void {
    for (const index of indexes) {
      const block = this.get(index);
      if (block === undefined) continue;
      this.delete(index);
      this.set(index, block);
    }
  }

  /** Forgets those that could not be had. */
  forgetFailed(): void {
    for (const [index, { kind }] of this) {
      if (kind === 'failed') this.delete(index);
    }
  }

  /** Aborts those on their way that are not wanted. */
  abortBut(wanted: ReadonlySet<number>): void {
    for (const [index, block] of this) {
      if (block.kind !== 'loading' || wanted.has(index)) continue;
      this.delete(index);
      block.controller.abort();
    }
  }

  /** Aborts and forgets all. */
  override clear(): void {
    for (const block of this.values()) {
      if (block.kind === 'loading') block.controller.abort();
    }
    super.clear();
  }

  /** Forgets those that were looked at longest ago until so many are left; what is wanted stays. */
  keep(most: number, wanted: ReadonlySet<number>): void {
    for (const index of this.keys()) {
      if (this.size <= most) return;
      if (!wanted.has(index)) this.delete(index);
    }
  }

  /** Neighbours that were not read on from each other do not stand side by side. */
  dropOtherChains(wanted: readonly number[]): void {
    const anchor = wanted.find((index) => this.get(index)?.kind === 'loaded');
    const block = anchor === undefined ? undefined : this.get(anchor);
    if (block?.kind !== 'loaded') return;
    for (const index of wanted) {
      const other = this.get(index);
      if (other?.kind === 'loaded' && other.chain !== block.chain) this.delete(index);
    }
  }

  /** By offset, whatever its neighbours are. */
  byOffset(index: number, chain = 0): WayToBlock {
    return { place: { kind: 'offset', offset: index * this.rows }, chain };
  }

  /** From a neighbour by cursor, else by offset; undefined where it waits for a neighbour. */
  wayTo(index: number, waiting: ReadonlySet<number>): WayToBlock | undefined {
    const [above, below] = [this.get(index - 1), this.get(index + 1)];
    if (above?.kind === 'loaded' && above.next !== null) {
      return { place: { kind: 'after', token: above.next }, chain: above.chain };
    }
    if (below?.kind === 'loaded' && below.previous !== null) {
      return { place: { kind: 'before', token: below.previous }, chain: below.chain };
    }
    const comes = (block: Block<Line> | undefined, at: number): boolean =>
      block?.kind === 'loading' || waiting.has(at);
    if (comes(above, index - 1) || comes(below, index + 1)) return undefined;
    return this.byOffset(index, this.newChain());
  }
}
