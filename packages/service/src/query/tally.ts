import type { Query } from '@ephoros/core/query';

const stages = ['parse', 'check', 'wait', 'database', 'encode'] as const;

export type Stage = (typeof stages)[number];

/** A question about a table. */
export interface TalliedRequest {
  /** The published name. */
  readonly table: string;
  readonly query: Query | undefined;
}

/** A set of changes. */
export interface TriedChanges {
  /** The published names of its tables. */
  readonly tables: readonly string[];
  readonly changes: number;
  readonly dryRun: boolean;
}

/** What a statement came to. */
interface Ran {
  /** Ms that it waited for a connection, and that it ran. */
  readonly waited: number;
  readonly ran: number;
  readonly rows: readonly unknown[];
}

/** What a request took and came to: how long each of its stages, how many rows, of which question. */
export class Tally {
  private readonly spent = new Map<Stage, number>();
  private given = 0;
  private query: TalliedRequest | undefined;
  private set: TriedChanges | undefined;

  add(stage: Stage, milliseconds: number): void {
    this.spent.set(stage, (this.spent.get(stage) ?? 0) + milliseconds);
  }

  /** Notes what a statement took, and how many rows it gave. */
  ran({ waited, ran, rows }: Ran): void {
    this.add('wait', waited);
    this.add('database', ran);
    this.given += rows.length;
  }

  /** Notes rows that came in another way, such as into a file. */
  gave(rows: number): void {
    this.given += rows;
  }

  /** Records which table is queried, by its published name. */
  about(table: string): void {
    this.query = { table, query: undefined };
  }

  /** Records the query. */
  asks(query: Query): void {
    if (this.query !== undefined) this.query = { ...this.query, query };
  }

  /** The query, as far as it was read; undefined where the request is not about a table. */
  get wanted(): TalliedRequest | undefined {
    return this.query;
  }

  /** Notes which changes are made, or tried. */
  changes(set: TriedChanges): void {
    this.set = set;
  }

  /** The changes that a request made or tried; undefined where it is about none. */
  get changed(): TriedChanges | undefined {
    return this.set;
  }

  /** Rows of the database that a request was given so far. */
  get rows(): number {
    return this.given;
  }

  /** Ms that a stage took so far. */
  of(stage: Stage): number {
    return this.spent.get(stage) ?? 0;
  }

  during<Result>(stage: Stage, work: () => Result): Result {
    const began = performance.now();
    try {
      return work();
    } finally {
      this.add(stage, performance.now() - began);
    }
  }

  /** The value of a Server-Timing header (W3C Server Timing). */
  header(): string {
    return stages
      .filter((stage) => this.spent.has(stage))
      .map((stage) => `${stage};dur=${(this.spent.get(stage) ?? 0).toFixed(2)}`)
      .join(', ');
  }
}
