import {
  beginReading,
  limitStatements,
  ping,
  rollback,
  setForTransaction,
  type CopyStatement,
  type Statement,
} from '@ephoros/core/sql';
import pg from 'pg';
import { copied } from './copied.ts';
import { Failure } from './failure.ts';
import { ConnectionLimiter } from './connection-limiter.ts';
import { PlanMode } from './plan-mode.ts';
import { PreparedStatements } from './prepared-statements.ts';
import { RowsQuery, type Row } from './rows-query.ts';
import { replicaContexts, type Servers } from './servers.ts';
import { Sessions, within, type Pooler, type Session, type SessionSource } from './sessions.ts';
import { SingleFlight } from './single-flight.ts';
import { LostConnection } from './statement-watch.ts';
import { statementName } from './statement-name.ts';

/** Which database, and how much of it is used. */
export type DatabaseOptions = DatabaseBounds & SessionSource & SeveralServers;

/** Of a database that stands on several servers. */
interface SeveralServers {
  /** The server that is written to and those that follow it, where there are several. */
  readonly servers?: Servers;
  /** Which of them answers: one that follows where one is fresh, by default; or the first as long as it answers. */
  readonly prefers?: 'replicas' | 'first';
}

/** How much of a database is used. */
export interface DatabaseBounds {
  /** Connections at most; 10 by default. */
  readonly connections?: number;
  /** A statement that runs longer is stopped; in ms, 15,000 by default. */
  readonly timeLimit?: number;
  /** How long a request waits for a free connection; in ms, 5,000 by default. */
  readonly waitLimit?: number;
  /** How many statements wait for a connection at most; 10 for each connection by default. */
  readonly queue?: number;
  /** Bytes of values that one answer holds at most; 16 MB by default. */
  readonly answerBytes?: number;
  /** What stands between the service and the database; found out by default. */
  readonly pooler?: Pooler | undefined;
}

/** What a statement gave: values as PostgreSQL writes them, null for null. */
export interface Answer {
  readonly rows: readonly Row[];
  /** PostgreSQL's type ids of the columns; of a domain that of its base type. */
  readonly types: readonly number[];
  /** Whether there were more rows than an answer's bytes hold; these are whole. */
  readonly cut: boolean;
  /** Milliseconds spent waiting for a connection. */
  readonly waited: number;
  /** Milliseconds spent in the database. */
  readonly ran: number;
}

/** Who asks, and until when. */
export interface QueryOptions {
  /** When it aborts, the statement is cancelled in the database. */
  readonly signal?: AbortSignal | undefined;
  /** The table that is queried, which waits its turn among the others; none by default. */
  readonly table?: string;
  /** Ms that the statement may take, where that is more than others may. */
  readonly timeLimit?: number;
  /** Whether an answer may end early where it has too many bytes; else it fails. */
  readonly mayBeCut?: boolean;
}

/** Ms beyond its time limit after which a statement that says nothing is not waited for. */
const grace = 3_000;
/** Ms within which a database that is there answers. */
const pingLimit = 3_000;

/** The database, for reading only. */
export class Database {
  readonly timeLimit: number;
  readonly limiter: ConnectionLimiter;
  /** Statements cancelled so far because the caller was gone. */
  cancelled = 0;
  private readonly sessions: Sessions;
  /** Sessions of every server, the first one first. */
  private readonly all: readonly Sessions[];
  private readonly servers: Servers | undefined;
  private readonly prefers: 'replicas' | 'first';
  private readonly answerBytes: number;
  private readonly flights = new SingleFlight<Answer>();
  private readonly prepared = new PreparedStatements();
  private readonly planMode = new PlanMode();

  constructor(options: DatabaseOptions) {
    const { connections = 10, timeLimit = 15_000, waitLimit = 5_000 } = options;
    this.timeLimit = timeLimit;
    this.answerBytes = options.answerBytes ?? 16 * 1024 * 1024;
    this.limiter = new ConnectionLimiter({
      places: connections,
      queue: options.queue ?? connections * 10,
      waitLimit: waitLimit,
    });
    const bounds = { connections, timeLimit, waitLimit, pooler: options.pooler };
    this.sessions = new Sessions(options, bounds);
    this.servers = options.servers;
    this.prefers = options.prefers ?? 'replicas';
    const others = options.servers?.urls.slice(1) ?? [];
    this.all = [this.sessions, ...others.map((url) => new Sessions({ url }, bounds))];
  }

  get pool(): pg.Pool {
    return this.sessions.pool;
  }

  /**
   * Runs one statement, or joins the same statement where it is under way. When all who requested
   * are gone, it is cancelled in the database and the connection goes back only after that.
   * @throws Failure
   */
  run(statement: Statement, options: QueryOptions = {}): Promise<Answer> {
    const { signal, table = '', mayBeCut = false } = options;
    // Who has written something asks for itself.
    const after = replicaContexts.getStore()?.after ?? '';
    const name = `${String(mayBeCut)}\0${after}\0${statementName(statement)}`;
    const work = async (gone: AbortSignal): Promise<Answer> => {
      const startedAt = performance.now();
      const waited = { for: 0 };
      const once = (): Promise<Answer> =>
        this.connected({ signal: gone, table }, async (session) => {
          const began = performance.now();
          waited.for = began - startedAt;
          const rows: Row[] = [];
          const held = new Budget(this.answerBytes);
          const { types, stopped } = await this.request(session, statement, (row) => {
            if (!held.takes(row)) return false;
            rows.push(row);
            return true;
          });
          if (stopped && (!mayBeCut || rows.length === 0)) throw new Failure('too-large');
          return { rows, types, cut: stopped, waited: waited.for, ran: performance.now() - began };
        });
      // Every session may have prepared it for the table as it was; where a server has gone another may answer; and a
      // connection that was lost is not the only one.
      for (let left = this.all.length; left > 0; left -= 1) {
        try {
          return await once();
        } catch (thrown) {
          if (isStalePlan(thrown)) this.prepared.renew();
          else if (gone.aborted || (!isLost(thrown) && !this.mayUseReplica(thrown))) throw thrown;
        }
      }
      return once();
    };
    return this.flights.join(name, work, signal).catch((thrown: unknown) => {
      throw blamed(thrown, statement);
    });
  }

  /** Runs one statement and gives its rows as they come. @throws Failure */
  async stream(
    statement: Statement,
    onRow: (row: Row) => void,
    options: QueryOptions = {},
  ): Promise<void> {
    await this.connected(options, async (session) => {
      const { client, sessions } = session;
      const { timeLimit = this.timeLimit } = options;
      const scope = sessions.isExclusive(client) ? 'session' : 'transaction';
      const isLonger = timeLimit > this.timeLimit;
      if (isLonger) await client.query(limitStatements(timeLimit, scope));
      try {
        await this.request(session, statement, (row) => {
          onRow(row);
          return true;
        });
      } finally {
        // A connection that broke has stated so already.
        if (isLonger) {
          await client.query(limitStatements(this.timeLimit, scope)).catch(() => undefined);
        }
      }
    });
  }

  /**
   * Has rows written out, and gives what comes piece by piece, no quicker than `take` takes it. Gives the number of
   * rows. What `take` throws ends it. @throws Failure
   */
  async copy(
    { settings, text }: CopyStatement,
    take: (piece: Buffer) => Promise<void> | void,
    options: QueryOptions = {},
  ): Promise<number> {
    return this.connected(options, async ({ client, sessions }) => {
      // What is set lasts as long as the transaction; a session that others get is in one.
      if (sessions.isExclusive(client)) await client.query(beginReading);
      try {
        const [names, values] = [
          settings.map(([name]) => name),
          settings.map(([, value]) => value),
        ];
        await client.query(setForTransaction, [names, values]);
        return await copied(client, text, take, {
          signal: options.signal,
          cancel: () => sessions.cancel(client),
        });
      } finally {
        if (sessions.isExclusive(client)) await client.query(rollback).catch(() => undefined);
      }
    });
  }

  /** Runs statements one after the other in one session. @throws Failure */
  together(
    statements: readonly Statement[],
    options: QueryOptions = {},
  ): Promise<readonly Pick<Answer, 'rows'>[]> {
    return this.connected(options, async (session) => {
      const answers: Pick<Answer, 'rows'>[] = [];
      for (const statement of statements) {
        const rows: Row[] = [];
        await this.request(session, statement, (row) => {
          rows.push(row);
          return true;
        });
        answers.push({ rows });
      }
      return answers;
    });
  }

  /** Whether the database answers, and soon. @throws Failure */
  async ping(): Promise<void> {
    await this.run(ping, { signal: AbortSignal.timeout(pingLimit) })
      // The caller is there: it is the database that was not.
      .catch((thrown: unknown) => {
        throw thrown instanceof Failure && thrown.kind === 'cancelled'
          ? new Failure('unavailable', thrown)
          : thrown;
      });
  }

  async close(): Promise<void> {
    await Promise.all(this.all.map((one) => one.close()));
  }

  /**
   * Asks on a connection; `take` says whether it has room for a row. Once it has not, the statement
   * is cancelled and what still comes passed over.
   */
  private async request(
    { client, sessions }: Session,
    statement: Statement,
    take: (row: Row) => boolean,
  ): Promise<{ types: readonly number[]; stopped: boolean }> {
    // What is prepared in a session of somebody else's would stay there.
    const name = sessions.isExclusive(client) ? this.prepared.nameOf(statement) : undefined;
    if (name !== undefined) await this.planMode.setFor(client, statement);
    let stopped: Promise<void> | undefined;
    const requests = {
      text: statement.text,
      values: [...statement.parameters],
      ...(name === undefined ? {} : { name }),
    };
    const query = new RowsQuery(requests, (row) => {
      if (stopped === undefined && !take(row)) stopped = sessions.cancel(client);
    });
    const done = new Promise<{ types: readonly number[]; stopped: boolean }>((resolve, reject) => {
      const finish = (): void => {
        const { types } = query;
        if (stopped === undefined) resolve({ types, stopped: false });
        // The connection is good again only once the cancel request has come to its end.
        else void stopped.then(() => resolve({ types, stopped: true }));
      };
      query.on('end', finish);
      query.on('error', (error: unknown) => {
        if (stopped !== undefined && (error as { code?: unknown }).code === '57014') finish();
        // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- as it came
        else reject(error);
      });
    });
    client.query(query as unknown as pg.Submittable);
    return done;
  }

  /** Work on a connection of its own; what it does is cancelled when the signal aborts. */
  private async connected<Result>(
    { signal, table = '', timeLimit }: QueryOptions,
    work: (session: Session) => Promise<Result>,
  ): Promise<Result> {
    const leave = await this.limiter.enter(table, signal);
    try {
      const { session, done, number } = await this.open();
      try {
        if (signal?.aborted === true) {
          session.release();
          throw new Failure('cancelled');
        }
        const limit = Math.max(this.timeLimit, timeLimit ?? 0);
        return await this.cancellable(session, { signal, limit }, work);
      } catch (thrown) {
        if (isGone(thrown)) this.servers?.failed(number);
        throw thrown;
      } finally {
        done();
      }
    } finally {
      leave();
    }
  }

  /** A session of the server that is best for it; of another one where that cannot be reached. @throws Failure */
  private async open(): Promise<{
    readonly session: Session;
    readonly number: number;
    readonly done: () => void;
  }> {
    const { servers } = this;
    const tried = new Set<number>();
    for (;;) {
      const number = servers === undefined ? 0 : await servers.choose(this.prefers, tried);
      const sessions = this.all[number ?? -1];
      if (number === undefined || sessions === undefined) throw new Failure('unavailable');
      try {
        const session = await sessions.open();
        return { session, number, done: servers?.begin(number) ?? ((): void => undefined) };
      } catch (thrown) {
        if (servers === undefined || tried.size === servers.urls.length - 1) throw thrown;
        if (isGone(thrown)) servers.failed(number);
        tried.add(number);
      }
    }
  }

  /** Whether another server may answer a statement which failed for a reason that is of its server. */
  private mayUseReplica(thrown: unknown): boolean {
    if (this.servers === undefined || !(thrown instanceof Failure)) return false;
    const { code } = (thrown.cause ?? {}) as { code?: unknown };
    // What is replayed on a replica goes before what is read there (PostgreSQL manual, 27.4.2).
    return thrown.kind === 'unavailable' || code === '40001';
  }

  private async cancellable<Result>(
    session: Session,
    { signal, limit }: { readonly signal: AbortSignal | undefined; readonly limit: number },
    work: (session: Session) => Promise<Result>,
  ): Promise<Result> {
    const { client, sessions, release } = session;
    let cancelling: Promise<void> | undefined;
    const cancel = (): void => {
      this.cancelled += 1;
      cancelling = sessions.cancel(client);
    };
    signal?.addEventListener('abort', cancel, { once: true });
    let broken: Error | undefined;
    const breaks = (error: Error): void => {
      broken = error;
    };
    client.on('error', breaks);
    try {
      const working = sessions.during(client, () => work(session));
      return await within(limit + grace, client, working);
    } catch (thrown) {
      const failure = Failure.from(thrown);
      // A session keeps what it has prepared, also for a table that has changed since.
      if (failure.kind === 'unavailable' || failure.kind === 'changed') broken = failure;
      throw signal?.aborted === true ? new Failure('cancelled', thrown) : failure;
    } finally {
      signal?.removeEventListener('abort', cancel);
      await cancelling;
      client.off('error', breaks);
      release(broken);
    }
  }
}

function isGone(thrown: unknown): boolean {
  return thrown instanceof Failure && thrown.kind === 'unavailable';
}

/** Whether a connection was lost, and not the server. */
function isLost(thrown: unknown): boolean {
  return thrown instanceof Failure && thrown.cause instanceof LostConnection;
}

/** Whether a prepared statement was of a table that has changed since. */
function isStalePlan(thrown: unknown): boolean {
  if (!(thrown instanceof Failure) || thrown.kind !== 'changed') return false;
  return (thrown.cause as { code?: unknown } | undefined)?.code === '0A000';
}

/** Counts bytes of values, about, up to a bound. */
class Budget {
  private left: number;

  constructor(bytes: number) {
    this.left = bytes;
  }

  /** Takes a row off it; false where it does not fit. */
  takes(row: Row): boolean {
    for (const value of row) this.left -= 8 + (value?.length ?? 0);
    return this.left >= 0;
  }
}

/**
 * Who is to blame for a value that could not be computed with: the request, unless it brought no
 * values, or it is the one error that no request can make. Then it is the table's own, as of a
 * view that divides by zero.
 */
function blamed(thrown: unknown, { parameters }: Statement): unknown {
  if (!(thrown instanceof Failure) || thrown.kind !== 'refused-value') return thrown;
  const { code } = (thrown.cause ?? {}) as { code?: unknown };
  const brought = parameters.some((value) => typeof value !== 'number');
  return brought && code !== divisionByZero ? thrown : new Failure('broken-table', thrown.cause);
}

const divisionByZero = '22012';
