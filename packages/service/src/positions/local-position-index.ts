import { createHash } from 'node:crypto';
import { tmpdir } from 'node:os';
import type { Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import { Failure } from '../run/index.ts';
import { longestWait } from './along.ts';
import { Changes, isUnchanged } from './changes.ts';
import { fillEntry, type Filling } from './fill-entry.ts';
import { IndexEntry } from './index-entry.ts';
import type { IndexConnections, PositionIndexOptions } from './index-options.ts';
import { LongAnswers } from './long-answers.ts';
import { Maker, UnfitPlaces } from './making.ts';
import { CostModel } from './cost-model.ts';
import { mostGone, type Key } from './places.ts';
import type {
  Counting,
  GroupPlace,
  IndexedOrder,
  IndexState,
  KnownPlaces,
  KnownTotal,
  LongAnswer,
  LongRequest,
  MakingWay,
  PlacedKeys,
  PositionQuery,
  PositionIndex,
} from './position-index.ts';
import { stalenessOf } from './staleness.ts';
import { Totals } from './totals.ts';

/** Results known at most: each may hold a file open. */
const mostEntries = 500;
/** Ms after which what nobody asks for any more is forgotten. */
const forgottenAfter = 30 * 60_000;
/** Times as long that the places of groups go on being found when nobody asks for one. */
const lookedAt = 6;
/** Results that are looked through in chunks at the same time, at most. */
const mostScans = 4;
/** Ms after which anyone who looks on would have requested again for what is looked through. */
const lookedOnAfter = 3_000;
/** Ms that the making of an entry goes on for callers who have gone, and may come again. */
const grace = 1_500;
/** Ms before an entry that failed is tried again. */
const failedFor = 5_000;

/** A position index of this process, with connections of its own. */
export class LocalPositionIndex implements PositionIndex {
  private readonly connections: IndexConnections;
  private readonly options: Required<PositionIndexOptions>;
  private readonly changes: Changes;
  private readonly totals: Totals;
  private readonly maker: Maker;
  private readonly filling: Filling;
  private readonly costModel = new CostModel();
  private readonly long: LongAnswers;
  /** Each in a box of its own: a new one has its room counted again. */
  private readonly entries: LRUCache<string, { readonly entry: IndexEntry }>;
  private readonly waiting: IndexEntry[] = [];
  /** Of orders that groups stand in, the one that was the first to take long. */
  private readonly slowGroups = new LRUCache<string, string>({ max: mostEntries });
  private underWay = 0;
  private readonly sweeper: ReturnType<typeof setInterval>;

  /** Closes the connections with itself. */
  constructor(connections: IndexConnections, options: PositionIndexOptions = {}) {
    this.connections = connections;
    this.options = {
      memory: 64 * 1024 * 1024,
      fileBytes: 2 * 1024 ** 3,
      folder: tmpdir(),
      atOnce: 1,
      costly: 5_000,
      interest: 20_000,
      staleAfter: 30_000,
      age: 600_000,
      now: () => Date.now(),
      ...options,
    };
    const { now, interest, memory, fileBytes, folder } = this.options;
    const { background, passes, quick } = connections;
    this.entries = new LRUCache({
      max: mostEntries,
      maxSize: memory,
      ttl: forgottenAfter,
      updateAgeOnGet: true,
      perf: { now },
      sizeCalculation: ({ entry }) => entry.size,
      dispose: ({ entry }) => {
        this.drop(entry);
        void entry.places?.close().catch(() => undefined);
      },
      noDisposeOnSet: true,
    });
    this.changes = new Changes(quick, now);
    this.totals = new Totals(background, quick, this.changes, now);
    this.maker = new Maker(passes, quick, this.options.costly);
    this.filling = {
      ...{ maker: this.maker, costModel: this.costModel, now },
      ...{ memory: memory / 2, bytes: fileBytes / 2, folder },
      makeRoom: (entry) => this.makeRoom(entry),
      orderOf: (query) => this.entryOf(query),
      touch: ({ query: request }) => this.touch(request.key),
      uncount: ({ query: queryText }) => this.totals.abandonOne(queryText.counting.key),
    };
    this.long = new LongAnswers(background, quick, this.costModel, now);
    this.sweeper = setInterval(() => this.sweep(), Math.max(50, interest / 4));
    this.sweeper.unref();
  }

  async total(
    counting: Counting,
    kind: 'exact' | 'estimate',
    waitLimit: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined> {
    // What is being looked through is counted with that, and not next to it.
    const scanned = this.scanning(counting.key);
    if (scanned !== undefined) return { rows: scanned, kind: 'estimate' };
    return this.totals.total(counting, kind, waitLimit, signal);
  }

  longAnswer(statement: Statement, wanted: LongRequest, signal?: AbortSignal): Promise<LongAnswer> {
    return this.long.request(statement, wanted, signal);
  }

  async mark(written: Statement): Promise<string | undefined> {
    const read = await this.changes.read(written);
    if (read === undefined) return undefined;
    // How much others write is nobody's business.
    return createHash('sha256').update(`${read.rows} ${read.files}`).digest('base64url');
  }

  async places(wanted: PositionQuery, waitLimit = 0, signal?: AbortSignal): Promise<KnownPlaces> {
    const { key, countKey, window } = wanted;
    if (wanted.isCancelled === true) {
      this.cancel(key);
      throw new Failure('cancelled');
    }
    const until = performance.now() + waitLimit;
    for (;;) {
      const grouped = await this.groupWindow(wanted);
      if (grouped !== undefined) {
        return { indexed: true, by: 'sort', window: grouped, total: grouped.total };
      }
      const entry = this.touch(key);
      const total = await this.totals.last(countKey);
      if (entry === undefined) return { indexed: false, total };
      const outdated = await this.renew(entry);
      // What is dropped meanwhile, or cannot be read from its file, is not known.
      const known = await entry.known(window, outdated).catch(() => undefined);
      if (known === undefined) return { indexed: false, total };
      const left = until - performance.now();
      const whole = known.progress === undefined;
      // A caller who has gone does not come back: nobody else may want it.
      if (hasGone(signal)) this.abandonLater(entry);
      if (whole || left <= 0 || hasGone(signal)) return { ...known, total };
      entry.waiting += 1;
      await entry.changeSignal.wait(Math.min(left, longestWait), signal);
      entry.waiting -= 1;
    }
  }

  async begin(query: IndexedOrder): Promise<MakingWay | undefined> {
    if (query.slow === true && !this.hasRoomToScan(query.key)) return undefined;
    let entry = this.entryOf(query);
    await entry.decided;
    const { chunks } = query.places ?? {};
    const walked = entry.way === 'mileposts' && !entry.unfit;
    if (query.slow === true && chunks !== undefined && walked) {
      // The planner was wrong: it takes long to walk there, also from a milepost.
      this.entries.delete(query.key);
      entry = this.entryOf(query);
      await entry.decided;
    }
    return entry.way;
  }

  async beginGroups(order: IndexedOrder, values: GroupPlace['values']): Promise<void> {
    const name = JSON.stringify(values);
    const first = this.slowGroups.get(order.key) ?? name;
    this.slowGroups.set(order.key, first);
    if (first !== name) await this.entryOf(order).decided;
  }

  async lose(key: string, keys: readonly Key[], offset: number): Promise<void> {
    const entry = this.entries.peek(key)?.entry;
    await entry?.places?.lose(keys, offset);
    // Very many gaps take longer to step over than the places save.
    if (entry !== undefined && (entry.places?.goneCount ?? 0) > mostGone) this.startAnew(entry);
  }

  async overview(key: string, count: number): Promise<IndexState | undefined> {
    const entry = this.touch(key);
    if (entry === undefined) return undefined;
    await this.renew(entry);
    return entry.overview(count, this.waiting.includes(entry)).catch(() => undefined);
  }

  forget(): Promise<void> {
    this.long.forget();
    return Promise.resolve();
  }

  async close(): Promise<void> {
    clearInterval(this.sweeper);
    this.entries.clear();
    const { background, passes, quick } = this.connections;
    this.long.abandon(-1);
    await Promise.all([...new Set([background, passes, quick])].map((one) => one.close()));
  }

  /** A window of a group among the places of all groups. */
  private async groupWindow({ group, window }: PositionQuery): Promise<PlacedKeys | undefined> {
    const entry = group && this.touch(group.key);
    if (group === undefined || entry?.places === undefined) return undefined;
    const outdated = await this.renew(entry);
    return entry.groupWindow(group, window, outdated).catch(() => undefined);
  }

  private touch(key: string): IndexEntry | undefined {
    const entry = this.entries.get(key)?.entry;
    if (entry !== undefined) entry.startedAt = this.options.now();
    return entry;
  }

  private entryOf(query: IndexedOrder): IndexEntry {
    const known = this.touch(query.key);
    if (known !== undefined) return known;
    const entry = new IndexEntry(query, this.options.now);
    this.entries.set(query.key, { entry });
    this.queue(entry);
    entry.decided = this.decide(entry);
    return entry;
  }

  /** Whether one more result may be looked through: the one that nobody looks on at gives way. */
  private hasRoomToScan(key: string): boolean {
    const others = [...this.entries.values()].flatMap(({ entry }) =>
      entry.mayScan && entry.query.key !== key ? [entry] : [],
    );
    if (others.length < mostScans) return true;
    const [last] = others.sort((one, other) => one.startedAt - other.startedAt);
    if (last === undefined || this.options.now() - last.startedAt < lookedOnAfter) return false;
    return this.entries.delete(last.query.key);
  }

  /** How many of the rows that a count is of were found so far, where these are looked through in chunks. */
  private scanning(countKey: string): number | undefined {
    for (const { entry } of this.entries.values()) {
      if (entry.query.counting.key !== countKey || entry.way !== 'slices') continue;
      if (entry.making === undefined || entry.complete) continue;
      return entry.places === undefined ? undefined : entry.reach;
    }
    return undefined;
  }

  /**
   * Makes an entry again when it is old or much was written since; empties a useless one. Gives
   * whether anything was written since.
   */
  private async renew(entry: IndexEntry): Promise<boolean> {
    const since = this.options.now() - entry.begun;
    if (entry.failed) {
      if (this.isIdle(entry) && since > failedFor) this.queue(entry);
      return true;
    }
    if (!entry.complete) return false;
    const found = await this.changes.read(entry.query.written);
    if (!this.isIdle(entry)) return !isUnchanged(entry.changes, found);
    const staleness = stalenessOf(entry, found, since, this.options);
    if (staleness === 'useless') this.startAnew(entry);
    if (staleness === 'renew') this.queue(entry);
    return staleness !== 'unchanged';
  }

  private async decide(entry: IndexEntry): Promise<void> {
    const { signal } = entry.making ?? new AbortController();
    try {
      entry.way = await this.maker.wayOf(entry.query, signal);
    } catch {
      // Anyone who makes it will come to know why.
    }
  }

  /** Forgets what is known of an entry, which is of no use, and has it made again. */
  private startAnew(entry: IndexEntry): void {
    entry.empty();
    if (this.isIdle(entry)) this.queue(entry);
  }

  /** Whether an entry is still stored, and nothing is done about it. */
  private isIdle(entry: IndexEntry): boolean {
    return entry.making === undefined && this.entries.peek(entry.query.key)?.entry === entry;
  }

  private queue(entry: IndexEntry): void {
    entry.making = new AbortController();
    entry.queued = this.options.now();
    this.waiting.push(entry);
    this.next();
  }

  private next(): void {
    if (this.underWay >= this.options.atOnce) return;
    const entry = this.waiting.shift();
    if (entry?.making === undefined) return;
    this.underWay += 1;
    let waits = true;
    // What is scanned waits for the order that it goes along: it holds up nobody meanwhile.
    const leave = (): void => {
      if (!waits) return;
      waits = false;
      this.underWay -= 1;
      this.next();
    };
    void this.make(entry, entry.making.signal, leave).finally(() => {
      entry.making = undefined;
      entry.changeSignal.ring();
      leave();
    });
  }

  /** Finds the rows of a whole result; what comes is used at once. */
  private async make(entry: IndexEntry, signal: AbortSignal, leave: () => void): Promise<void> {
    const { query } = entry;
    const { counting } = query;
    const begun = this.options.now();
    entry.beginMaking(begun);
    try {
      const [changes, counted] = await Promise.all([
        this.changes.read(query.written),
        this.changes.read(counting.written),
      ]);
      await entry.decided;
      const way = entry.unfit
        ? 'mileposts'
        : (entry.way ?? (await this.maker.wayOf(query, signal)));
      entry.way = way;
      if (way === 'slices') leave();
      const total = await fillEntry(entry, way, signal, this.filling);
      entry.finish(changes, this.options.now() - begun, total);
      this.weigh(entry);
      if (total !== undefined) {
        const at = begun + entry.took;
        this.totals.learn(counting, { rows: total, at, took: entry.took, changes: counted });
      }
    } catch (thrown) {
      if (thrown instanceof UnfitPlaces) {
        entry.unfit = true;
        entry.empty();
        // Groups are read one by one then.
        if (query.grouped !== true) await this.make(entry, signal, leave);
      } else if (!(thrown instanceof Failure) || thrown.kind !== 'cancelled') entry.failed = true;
    }
  }

  /** Places go, those first that were requested longest ago, until there is room for more. */
  private makeRoom(but: IndexEntry): void {
    let bytes = 0;
    // From the one that was used last.
    for (const [key, { entry }] of [...this.entries.entries()]) {
      bytes += entry.places?.bytes ?? 0;
      if (entry !== but && bytes > this.options.fileBytes / 2) this.entries.delete(key);
    }
  }

  /** Gives up what nobody has requested lately. */
  private sweep(): void {
    const { now, interest } = this.options;
    this.entries.purgeStale();
    for (const { entry } of [...this.entries.values()]) {
      // Anyone who has a group before them may open the next one after a while.
      const waitLimit = entry.query.grouped === true ? interest * lookedAt : interest;
      if (entry.making === undefined || now() - entry.startedAt < waitLimit) continue;
      this.drop(entry);
      if (!entry.complete) this.entries.delete(entry.query.key);
    }
    this.totals.abandon(interest);
    this.long.abandon(interest / 2);
  }

  /** Ends what makes an entry, unless others wait for it. */
  private cancel(key: string): void {
    const entry = this.entries.peek(key)?.entry;
    if (entry?.making === undefined || entry.waiting > 0) return;
    this.drop(entry);
    if (!entry.complete) this.entries.delete(key);
  }

  /** The same, if nobody requests it within a moment. */
  private abandonLater(entry: IndexEntry): void {
    const { startedAt, query } = entry;
    setTimeout(() => {
      const isSame = this.entries.peek(query.key)?.entry === entry;
      if (isSame && entry.startedAt === startedAt) this.cancel(query.key);
    }, grace).unref();
  }

  /** Ends what is done about an entry. */
  private drop(entry: IndexEntry): void {
    entry.making?.abort();
    const place = this.waiting.indexOf(entry);
    if (place === -1) return;
    this.waiting.splice(place, 1);
    entry.making = undefined;
  }

  /** Has an entry's room counted again; the one that was requested longest ago goes where none is left. */
  private weigh(entry: IndexEntry): void {
    const { key } = entry.query;
    if (this.entries.peek(key)?.entry === entry) this.entries.set(key, { entry });
  }
}

function hasGone(signal: AbortSignal | undefined): boolean {
  return signal?.aborted === true;
}
