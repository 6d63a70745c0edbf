import { statesOfSessions } from '@ephoros/core/sql';
import pg from 'pg';

/** Ms of silence after which a statement is looked up. */
const silence = 2_000;
/** Ms that the server may take to be connected to, and to answer. */
const answerLimit = 2_500;
/** Ms after which a cancelled statement that has not ended is not waited for. */
const cancelLimit = 3_000;
/** Ms between two looks at the connections. */
const every = 500;
/** Ms after which the connection for that is closed where nothing is silent. */
const restAfter = 30_000;

/** What is used of pg's clients that their types do not have. */
interface Inner {
  readonly processID: number | null;
  readonly readyForQuery: boolean;
  readonly connection?: {
    readonly stream?: {
      readonly bytesRead?: number;
      readonly writableLength?: number;
      readonly isPaused?: () => boolean;
      readonly destroy: (error?: Error) => void;
    };
  };
}

interface Watched {
  /** When it was cancelled; undefined where it was not. */
  cancelled?: number;
  /** Bytes that had come at the last look, less those that were still to be sent. */
  bytes: number;
  /** When something was heard of the statement last. */
  heard: number;
  /** Times in a row that it could not be looked up. */
  unanswered: number;
}

/** A connection was lost without a word: the server does not know the statement that was sent. */
export class LostConnection extends Error {
  constructor() {
    super('Connection terminated: the server does not answer on it any more');
    this.name = 'LostConnection';
  }
}

/**
 * Finds connections that were lost without a word, as by a firewall or a host that went away. What says nothing for
 * two seconds is looked up in `pg_stat_activity`, over a connection of its own. A connection is cut where the server
 * does not run its statement, or where the server cannot be reached at all.
 */
export class StatementWatch {
  private readonly config: pg.ClientConfig;
  private readonly running = new Map<Inner, Watched>();
  private timer: NodeJS.Timeout | undefined;
  private client: pg.Client | undefined;
  private lookedUpAt = 0;
  private isLookingUp = false;
  /** Those that a pooler numbers by itself: they cannot be looked up. */
  private readonly numberedElsewhere = new WeakSet<Inner>();

  constructor(config: pg.ClientConfig) {
    this.config = config;
  }

  /** Has a connection not be looked up, since a pooler numbers it. */
  exempt(client: pg.ClientBase): void {
    this.numberedElsewhere.add(client as unknown as Inner);
  }

  /** Watches a connection until what is returned is called. */
  begin(client: pg.ClientBase): () => void {
    const inner = client as unknown as Inner;
    this.running.set(inner, { bytes: bytesOf(inner), heard: performance.now(), unanswered: 0 });
    this.timer ??= setInterval(() => this.look(), every).unref();
    return () => this.running.delete(inner);
  }

  /** Watches each connection of a pool for as long as somebody has it. */
  follow(pool: pg.Pool): void {
    const ends = new WeakMap<pg.PoolClient, () => void>();
    pool.on('acquire', (client) => ends.set(client, this.begin(client)));
    pool.on('release', (_error, client) => ends.get(client)?.());
  }

  /** Cuts a watched connection unless its work ends within three seconds. */
  cutSoon(client: pg.ClientBase): void {
    const watched = this.running.get(client as unknown as Inner);
    if (watched !== undefined) watched.cancelled ??= performance.now();
  }

  close(): void {
    clearInterval(this.timer);
    this.timer = undefined;
    this.running.clear();
    this.rest();
  }

  private look(): void {
    const now = performance.now();
    for (const [inner, watched] of this.running) {
      if (now - (watched.cancelled ?? now) >= cancelLimit) cut(inner, new LostConnection());
      const bytes = bytesOf(inner);
      const isWaiting = !inner.readyForQuery && inner.connection?.stream?.isPaused?.() !== true;
      if (isWaiting && bytes === watched.bytes) continue;
      Object.assign(watched, { bytes, heard: now, unanswered: 0 });
    }
    const silent = [...this.running].filter(
      ([inner, { heard }]) => now - heard >= silence && !this.numberedElsewhere.has(inner),
    );
    if (silent.length > 0 && !this.isLookingUp) void this.lookUp(silent);
    else if (silent.length === 0 && now - this.lookedUpAt > restAfter) {
      this.rest();
      if (this.running.size > 0) return;
      clearInterval(this.timer);
      this.timer = undefined;
    }
  }

  private async lookUp(silent: readonly (readonly [Inner, Watched])[]): Promise<void> {
    this.isLookingUp = true;
    const pids = silent.flatMap(([{ processID }]) => (processID === null ? [] : [processID]));
    const ids = new Map(silent.map(([inner]) => [inner, inner.processID]));
    const before = new Map(silent.map(([inner, { bytes }]) => [inner, bytes]));
    let busy: ReadonlySet<number> | undefined;
    try {
      busy = await this.busyOf(pids);
    } catch (thrown) {
      this.rest();
      // A server that refuses a connection is there.
      if (thrown instanceof pg.DatabaseError) busy = new Set(pids);
    } finally {
      this.isLookingUp = false;
      this.lookedUpAt = performance.now();
    }
    for (const [inner, watched] of silent) {
      const isSame = this.running.get(inner) === watched && inner.processID === ids.get(inner);
      // What has come since says enough.
      if (!isSame || bytesOf(inner) !== before.get(inner) || inner.readyForQuery) continue;
      watched.heard = performance.now();
      watched.unanswered = busy === undefined ? watched.unanswered + 1 : 0;
      const isLost =
        busy === undefined ? watched.unanswered > 1 : !busy.has(inner.processID ?? Number.NaN);
      if (isLost) cut(inner, new LostConnection());
    }
  }

  /** Which of these sessions run a statement, or may do so. Rejects where nobody answers in time. */
  private async busyOf(pids: readonly number[]): Promise<ReadonlySet<number>> {
    const client = this.client ?? (await this.open());
    this.client = client;
    const { text } = statesOfSessions;
    const { rows } = await client.query<[number, number]>({
      ...{ text, values: [pids, silence], rowMode: 'array' },
    });
    const [own] = rows[0] ?? [];
    // Through a pooler nothing is known of any of them; the next time there may be none.
    if (own === (client as unknown as Inner).processID) return new Set(rows.map(([, pid]) => pid));
    this.rest();
    return new Set(pids);
  }

  private async open(): Promise<pg.Client> {
    const { config } = this;
    const client = new pg.Client({
      ...config,
      // A pool hides it from those who copy its options.
      password: config.password,
      application_name: 'ephoros watch',
      connectionTimeoutMillis: answerLimit,
      query_timeout: answerLimit,
      keepAlive: true,
    });
    client.on('error', () => {
      if (this.client === client) this.client = undefined;
    });
    await client.connect();
    return client;
  }

  private rest(): void {
    const { client } = this;
    this.client = undefined;
    if (client === undefined) return;
    // On a lost connection the end is not answered.
    const { connection } = client as unknown as Inner;
    client.end().catch(() => undefined);
    setTimeout(() => connection?.stream?.destroy(), answerLimit).unref();
  }
}

/** Ends a connection without a word to the other side, which answers nothing any more. */
export function cut(client: object, reason: Error): void {
  (client as Partial<Inner>).connection?.stream?.destroy(reason);
}

function bytesOf({ connection }: Inner): number {
  const { bytesRead = 0, writableLength = 0 } = connection?.stream ?? {};
  return bytesRead - writableLength;
}
