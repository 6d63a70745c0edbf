import { AsyncLocalStorage } from 'node:async_hooks';
import { whereServerStands } from '@ephoros/core/sql';
import pg from 'pg';
import { connectionOf } from './connection-string.ts';
import { within } from './sessions.ts';

/** A position in the write-ahead log (pg_lsn), as a number of bytes. */
export type Position = bigint;

/** Reads "16/B374D848". Undefined for what is none. */
export function parsePosition(text: string): Position | undefined {
  const [, high, low] = /^([\dA-F]{1,8})\/([\dA-F]{1,8})$/i.exec(text) ?? [];
  if (high === undefined || low === undefined) return undefined;
  return (BigInt(`0x${high}`) << 32n) | BigInt(`0x${low}`);
}

/** What travels with a question: how far a server must be that answers it, and what was written by it. */
export interface ReplicaContext {
  /** What the caller has written before must be there. */
  readonly after?: Position | undefined;
  /** Whether it is of use to know where the log stands behind what is written. */
  wants?: boolean;
  /** Where it stood, as PostgreSQL writes it. */
  wrote?: string | undefined;
}

/** The question that is being answered. */
export const replicaContexts = new AsyncLocalStorage<ReplicaContext>();

export interface ServersOptions {
  /** Ms that a replica may be behind; 5,000 by default. */
  readonly lag?: number | undefined;
  /** Ms between two looks; 500 by default. */
  readonly every?: number | undefined;
}

/** A server as it was when it was looked at last. */
interface Seen {
  reachable: boolean;
  position: Position;
  /** Ms that it takes to answer. */
  distance: number;
  /** Statements that are under way there. */
  busy: number;
}

/** Ms that a look may take. */
const waitLimit = 1_500;
/** Ms between two looks of somebody who waits. */
const pause = 15;
/** Ms that a replica is waited for to have what a caller has written. */
const waitsFor = 300;

/**
 * One server that is written to and others that follow it, each looked at twice a second: whether it answers, how far
 * it is behind. The first one has the number 0.
 */
export class Servers {
  readonly urls: readonly string[];
  private readonly observed: readonly Seen[];
  private readonly lag: number;
  private readonly every: number;
  /** Where the first one was, and when, the newest last. */
  private readonly written: { readonly at: number; readonly position: Position }[] = [];
  private readonly clients = new Map<number, pg.Client>();
  private readonly timers = new Set<NodeJS.Timeout>();
  private readonly looks = new Map<number, Promise<void>>();
  private closed = false;

  constructor(
    primary: string,
    replicas: readonly string[],
    { lag = 5_000, every = 500 }: ServersOptions = {},
  ) {
    this.urls = [primary, ...replicas];
    this.lag = lag;
    this.every = every;
    // Until it was looked at the first one is as good as ever, and of the others nothing is known.
    this.observed = this.urls.map((_url, number) => ({
      reachable: number === 0,
      position: 0n,
      distance: 0,
      busy: 0,
    }));
    for (const number of this.urls.keys()) void this.watch(number);
  }

  /**
   * The server for a question: a replica that is fresh enough and near, else the first one; or the first one, as long
   * as it answers. Undefined where none of those that are left can answer it.
   */
  async choose(
    prefers: 'replicas' | 'first',
    without: ReadonlySet<number> = new Set(),
  ): Promise<number | undefined> {
    const after = replicaContexts.getStore()?.after;
    const first = this.observed[0]?.reachable === true && !without.has(0);
    if (prefers === 'first' && first) return 0;
    const replica = this.nearest(after, without);
    if (replica !== undefined) return replica;
    if (after !== undefined) {
      const late = await this.awaited(after, without);
      if (late !== undefined) return late;
    }
    if (first) return 0;
    // It may be back, and has not been looked at yet.
    return without.has(0) ? undefined : 0;
  }

  /** Notes that a server has begun with something; what is given notes that it is done. */
  begin(number: number): () => void {
    const request = this.observed[number];
    if (request === undefined) return () => undefined;
    request.busy += 1;
    return () => (request.busy -= 1);
  }

  /** A server did not answer: it is left alone until it was looked at once more. */
  failed(number: number): void {
    const request = this.observed[number];
    if (request !== undefined) request.reachable = false;
  }

  /** Ms that each answers within, whether it does, and bytes that it is behind; the first one first. */
  states(): readonly { readonly reachable: boolean; readonly behind: number }[] {
    const newest = this.observed[0]?.position ?? 0n;
    return this.observed.map(({ reachable, position }) => ({
      reachable,
      behind: position < newest ? Number(newest - position) : 0,
    }));
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const timer of this.timers) clearTimeout(timer);
    await Promise.all([...this.clients.values()].map((client) => client.end().catch(() => null)));
  }

  private nearest(after: Position | undefined, without: ReadonlySet<number>): number | undefined {
    const least = this.leastPosition();
    const fit = this.observed.flatMap((one, number) => {
      if (number === 0 || without.has(number) || !one.reachable || one.position < least) return [];
      return after === undefined || one.position >= after ? [{ number, one }] : [];
    });
    fit.sort((a, b) => weight(a.one) - weight(b.one));
    return fit[0]?.number;
  }

  /** How far a replica must be. Where nothing is written any more, each is as fresh as it gets. */
  private leastPosition(): Position {
    if (this.observed[0]?.reachable !== true) return 0n;
    const before = Date.now() - this.lag;
    const then = this.written.findLast(({ at }) => at <= before) ?? this.written[0];
    // Before the first look nothing is known of any.
    return then?.position ?? beyondAll;
  }

  /** Looks at a server now and then. */
  private async watch(number: number): Promise<void> {
    await this.check(number);
    if (this.closed) return;
    const timer = setTimeout(() => {
      this.timers.delete(timer);
      void this.watch(number);
    }, this.every);
    timer.unref();
    this.timers.add(timer);
  }

  /** Looks at a server; several who want that at once look together. */
  private check(number: number): Promise<void> {
    const running = this.looks.get(number) ?? this.checkOnce(number);
    this.looks.set(number, running);
    return running.finally(() => this.looks.delete(number));
  }

  private async checkOnce(number: number): Promise<void> {
    const request = this.observed[number];
    if (request === undefined || this.closed) return;
    try {
      const client = await this.clientOf(number);
      const began = performance.now();
      const { rows } = await within(
        waitLimit,
        client,
        client.query<[string]>({ text: whereServerStands.text, rowMode: 'array' }),
      );
      request.distance = performance.now() - began;
      request.position = parsePosition(rows[0]?.[0] ?? '') ?? 0n;
      request.reachable = true;
      if (number === 0) this.note(request.position);
    } catch {
      request.reachable = false;
      const client = this.clients.get(number);
      this.clients.delete(number);
      client?.end().catch(() => undefined);
    }
  }

  private note(position: Position): void {
    const now = Date.now();
    this.written.push({ at: now, position });
    // The last one that is old enough is needed still.
    while ((this.written[1]?.at ?? now) <= now - this.lag) this.written.shift();
  }

  private async clientOf(number: number): Promise<pg.Client> {
    const known = this.clients.get(number);
    if (known !== undefined) return known;
    const client = new pg.Client({
      ...connectionOf(this.urls[number] ?? ''),
      application_name: 'ephoros watch',
      connectionTimeoutMillis: waitLimit,
      keepAlive: true,
    });
    client.on('error', () => {
      if (this.clients.get(number) === client) this.clients.delete(number);
    });
    await client.connect();
    this.clients.set(number, client);
    return client;
  }

  /** Waits for a replica that has what a caller has written, for as long as that is waited for. */
  private async awaited(
    after: Position,
    without: ReadonlySet<number>,
  ): Promise<number | undefined> {
    const end = Date.now() + waitsFor;
    while (Date.now() < end && !this.closed) {
      const there = [...this.observed.keys()].filter(
        (number) => number > 0 && !without.has(number) && this.observed[number]?.reachable === true,
      );
      if (there.length === 0) return undefined;
      await Promise.all(there.map((number) => this.check(number)));
      const found = this.nearest(after, without);
      if (found !== undefined) return found;
      await new Promise((resolve) => setTimeout(resolve, pause));
    }
    return undefined;
  }
}

const beyondAll = 1n << 64n;

/** The near and the idle first. */
function weight({ distance, busy }: Seen): number {
  return (distance + 0.5) * (busy + 1);
}
