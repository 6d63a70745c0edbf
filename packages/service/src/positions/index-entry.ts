import type { Progress } from '@ephoros/core/answer';
import type { Statement } from '@ephoros/core/sql';
import { nearRows } from '@ephoros/core/window';
import { Signal } from './signal.ts';
import type { Written } from './changes.ts';
import { CostModel } from './cost-model.ts';
import type { Places } from './places.ts';
import type {
  GroupPlace,
  IndexedOrder,
  IndexState,
  KnownPlaces,
  MakingWay,
  PlacedKeys,
  WindowPlace,
} from './position-index.ts';
import { Samples } from './samples.ts';

/** Where among some places the rows of a result stand, and whether these are all. */
interface ResultPlaces {
  readonly begin: number;
  readonly count: number;
  readonly complete: boolean;
}

/** The mileposts or the places of one result, as they stand. */
export class IndexEntry {
  readonly query: IndexedOrder;
  readonly changeSignal = new Signal();
  /** When somebody last requested it, and when it was put into the queue. */
  startedAt: number;
  /** Callers that wait for it right now. */
  waiting = 0;
  queued = 0;
  /** How it is made, once that is decided. */
  way: MakingWay | undefined;
  /** Whether places do not serve it. */
  unfit = false;
  /** The mileposts in use; being set, where there are no older ones. */
  samples: Samples;
  /** The same of places. */
  places: Places | undefined;
  complete = false;
  failed = false;
  /** When the last ones were begun, how long they took, and what had been written to the table by then. */
  begun = 0;
  took = 0;
  changes: Written | undefined;
  /** Resolves once it is decided how it is made. */
  decided: Promise<void> = Promise.resolve();
  /** Aborts the making that is under way or waits. */
  making: AbortController | undefined;
  /** Ms that it shall take, as far as anybody knows. */
  expected: number | undefined;
  /** How many rows there are, once that is known. */
  private rows: number | undefined;
  /** Rows looked through so far, and the order along which. */
  scanned = 0;
  along: IndexEntry | undefined;
  private readonly now: () => number;
  /** When those in use were begun. */
  private madeAt = 0;

  constructor(query: IndexedOrder, now: () => number) {
    this.query = query;
    this.now = now;
    this.startedAt = now();
    this.samples = new Samples(query.step);
  }

  /** Rows that are known so far; of what is looked through in chunks, those of the chunks that are reported. */
  get reach(): number {
    if (this.places === undefined) return this.samples.reach;
    return this.isScanning ? this.places.countToEdge : this.places.count;
  }

  /** Whether it is being looked through chunk by chunk, or will be as far as is known. */
  get mayScan(): boolean {
    const undecided = this.way === undefined && this.query.slow === true;
    return this.making !== undefined && (this.isScanning || undecided);
  }

  private get isScanning(): boolean {
    return this.way === 'slices' && !this.complete;
  }

  /** Bytes that it takes up in memory, about: the samples, and the question, which may be long. */
  get size(): number {
    const { counting, mileposts, key, written, first, places } = this.query;
    const statements = [counting.count, counting.estimate, mileposts.pass, written, first];
    if (this.query.fine !== undefined) statements.push(this.query.fine);
    if (places !== undefined) statements.push(places.sort);
    const texts = statements.map(sizeOfStatement);
    const held = this.places?.held ?? 0;
    const about = this.samples.bytes + held + key.length * 2 + 1_000;
    return texts.reduce((sum, one) => sum + one, about);
  }

  beginMaking(at: number): void {
    this.begun = at;
    this.failed = false;
    this.expected = undefined;
    this.scanned = 0;
  }

  /** Older mileposts stay in use until the new ones reach the end. */
  beginSamples(samples: Samples): Samples {
    if (!this.complete) {
      this.samples = samples;
      this.madeAt = this.begun;
    }
    return samples;
  }

  /** So do older places. */
  beginPlaces(places: Places): void {
    if (this.complete && this.places !== undefined) return;
    this.places = places;
    this.madeAt = this.begun;
  }

  async takePlaces(places: Places): Promise<void> {
    const old = this.places;
    this.places = places;
    if (old !== undefined && old !== places) await old.close();
  }

  finish(changes: Written | undefined, took: number, rows: number | undefined): void {
    this.rows = rows ?? this.samples.reach;
    if (this.way === 'mileposts') this.dropPlaces();
    this.changes = changes;
    this.took = took;
    this.madeAt = this.begun;
    this.complete = true;
  }

  /** Forgets what is known. */
  empty(): void {
    this.samples = new Samples(this.query.step);
    this.dropPlaces();
    this.complete = false;
  }

  /** The window of a group, where the places of all groups are known. */
  async groupWindow(
    { values }: GroupPlace,
    window: WindowPlace,
    outdated: boolean,
  ): Promise<PlacedKeys | undefined> {
    const group = this.places?.groupOf(values);
    if (this.places === undefined || group === undefined) return undefined;
    return this.window(this.places, window, outdated, { ...group, complete: true });
  }

  /** What is known of a window; `outdated` where something was written since. */
  async known(window: WindowPlace, outdated: boolean): Promise<KnownPlaces> {
    const common = { indexed: true, by: this.way };
    if (this.places === undefined) {
      const found = this.way !== undefined && this.way !== 'mileposts';
      if (found && !this.failed) return { ...common, progress: this.progress() };
      if (!('offset' in window)) return common;
      const sample = this.samples.before(window.offset);
      const walk = window.offset - (sample?.number ?? 0);
      const waits = !this.complete && !this.failed && walk > Math.max(nearRows, this.samples.step);
      return { ...common, sample, ...(waits ? { progress: this.progress() } : {}) };
    }
    const found = await this.window(this.places, window, outdated, {
      ...{ begin: 0, count: this.reach, complete: this.complete },
    });
    const whole = this.complete || found?.more === true;
    const waits = !whole && !this.failed;
    return { ...common, window: found, ...(waits ? { progress: this.progress() } : {}) };
  }

  overview(count: number, isWaiting: boolean): Promise<IndexState> {
    const begun = this.reach > 0 || !isWaiting;
    const state = this.complete
      ? 'ready'
      : this.failed
        ? 'failed'
        : begun
          ? ('building' as const)
          : 'waiting';
    const { places, reach } = this;
    if (places === undefined) {
      return Promise.resolve({ state, samples: this.samples.even(count), passed: reach });
    }
    return keysOf(places, count).then((keys) => ({ state, samples: [], keys, passed: reach }));
  }

  /** How far the making is. */
  private progress(): Progress {
    const elapsed = this.now() - (this.making === undefined ? this.begun : this.queued);
    const scans = this.way === 'slices';
    const rows = scans ? this.scanned : this.reach;
    const of = scans ? this.alongRows() : (this.rows ?? this.query.rows);
    const byRows = of === undefined || of === 0 ? 0 : Math.min(1, rows / of);
    const known = { elapsed, rows, ...(of === undefined ? {} : { of }) };
    if (this.way !== 'sort') return { ...known, share: byRows };
    // Sorting gives no row until it is done: until then the clock says how far it is, and its end is one half.
    const byTime = CostModel.share(this.now() - this.begun, this.expected);
    return { ...known, share: rows > 0 ? Math.max(byTime, (1 + byRows) / 2) : byTime };
  }

  private alongRows(): number | undefined {
    return this.along?.rows ?? this.along?.query.rows;
  }

  private async window(
    places: Places,
    wanted: WindowPlace,
    outdated: boolean,
    { begin, count: total, complete }: ResultPlaces,
  ): Promise<PlacedKeys | undefined> {
    const common = {
      ...{ key: this.query.key, begin, total, complete },
      ...{ at: this.madeAt, outdated, took: this.took },
      ...this.scanState(places),
    };
    if (this.isScanning && this.scanned === 0) return undefined;
    const { limit } = wanted;
    let offset: number;
    let count = limit;
    if ('offset' in wanted) offset = wanted.offset;
    else {
      const adjacent = await places.offsetOf(wanted.key, wanted.values);
      if (adjacent === undefined) return undefined;
      const before = wanted.side === 'before';
      const rows = adjacent.rows - begin;
      if (rows < 0 || rows > total) return undefined;
      offset = before ? Math.max(0, rows - limit) : rows + (adjacent.self ? 1 : 0);
      if (before) count = rows - offset;
    }
    const reached = offset + count <= total;
    // Of what is being sorted the next row is known, or nothing is.
    if (!reached && !complete && this.way !== 'slices') return undefined;
    if (offset > total && !complete) return undefined;
    const within = Math.max(0, Math.min(count, total - offset));
    const keys = await places.keys(begin + offset, within);
    return { ...common, offset, keys, more: offset + keys.length < total };
  }

  private scanState(places: Places): Pick<PlacedKeys, 'scanned'> {
    if (!this.isScanning) return {};
    const of = Math.max(this.scanned, this.alongRows() ?? 0);
    return { scanned: { rows: this.scanned, of, edge: places.edge } };
  }

  private dropPlaces(): void {
    void this.places?.close().catch(() => undefined);
    this.places = undefined;
  }
}

async function keysOf(places: Places, count: number): Promise<NonNullable<IndexState['keys']>> {
  const shown = Math.min(count, places.count);
  const keys: { number: number; key: readonly string[] }[] = [];
  for (let index = 0; index < shown; index += 1) {
    const at = shown === 1 ? 0 : Math.round((index * (places.count - 1)) / (shown - 1));
    const [key] = await places.keys(at, 1);
    if (key !== undefined) keys.push({ number: at + 1, key });
  }
  return keys;
}

function sizeOfStatement({ text, parameters }: Statement): number {
  const values = parameters.map((value) =>
    typeof value === 'number' ? 8 : typeof value === 'string' ? value.length : value.join().length,
  );
  return text.length + values.reduce((sum, one) => sum + one, 0);
}
