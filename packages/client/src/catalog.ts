import {
  findColumn,
  type FoundColumn,
  type TableDescription,
  type Tables,
} from '@ephoros/core/schema';
import type { QueryClient } from './query-client.ts';
import { describeColumns } from './described-columns.ts';

export interface CatalogOptions {
  /** Ms after which a description is read again by the next who asks; 30,000 by default. */
  readonly age?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

interface Entry {
  readonly pending: Promise<TableDescription>;
  readonly at: number;
}

/** Ms within which a description is not read again, whatever speaks against it. */
const settled = 1_000;

const catalogs = new WeakMap<object, Catalog>();

/** The catalog of a client, one for all who use it. */
export function catalogOf(client: Pick<QueryClient, 'describe'>): Catalog {
  const known = catalogs.get(client) ?? new Catalog(client);
  catalogs.set(client, known);
  return known;
}

/**
 * The descriptions of a client's tables: each is read when it is first needed, and stays the same
 * object until the table is another one.
 */
export class Catalog {
  private readonly client: Pick<QueryClient, 'describe'>;
  private readonly age: number;
  private readonly now: () => number;
  private readonly entries = new Map<string, Entry>();
  private readonly read = new Map<string, { text: string; description: TableDescription }>();

  constructor(
    client: Pick<QueryClient, 'describe'>,
    { age = 30_000, now = Date.now }: CatalogOptions = {},
  ) {
    this.client = client;
    this.age = age;
    this.now = now;
  }

  /** Rejects as `client.describe` does; what failed is requested again by the next who wants it. */
  describe = (table: string): Promise<TableDescription> => {
    const known = this.entries.get(table);
    if (known !== undefined && this.now() - known.at < this.age) return known.pending;
    const pending = this.request(table);
    const entry = { pending, at: this.now() };
    this.entries.set(table, entry);
    pending.catch(() => {
      if (this.entries.get(table) === entry) this.entries.delete(table);
    });
    return pending;
  };

  /** Takes a description that somebody else has read, unless it is known here already. */
  learn(description: TableDescription): void {
    const { name } = description;
    if (this.read.has(name)) return;
    this.entries.set(name, { pending: Promise.resolve(this.keep(description)), at: this.now() });
  }

  /** A table as it was read last; undefined where it was not. */
  known: Tables = (table) => this.read.get(table)?.description;

  /** A column of a table by its name or path, as far as the tables on its way were read. */
  column(name: string, table: TableDescription): FoundColumn | undefined {
    const found = findColumn(name, table, this.known);
    return 'own' in found ? found : undefined;
  }

  /** Columns of a table by their names or paths; undefined for those that there are not. */
  columns(
    names: readonly string[],
    table: TableDescription,
  ): Promise<readonly (FoundColumn | undefined)[]> {
    return describeColumns(names, table, this.describe);
  }

  /** Reads a table, and those that its rows refer to over so many foreign keys. */
  async around(table: string, steps: number): Promise<void> {
    const { relationships } = await this.describe(table);
    if (steps === 0) return;
    const others = relationships.filter(({ kind }) => kind === 'one').map((one) => one.table);
    await Promise.all([...new Set(others)].map((other) => this.around(other, steps - 1)));
  }

  /**
   * Has a table read again by the next who asks, where an answer speaks against its description.
   * False where it was read just now, and the answer is right.
   */
  invalidate(table: string): boolean {
    const known = this.entries.get(table);
    if (known === undefined || this.now() - known.at < settled) return false;
    this.entries.delete(table);
    return true;
  }

  private async request(table: string): Promise<TableDescription> {
    return this.keep(await this.client.describe(table), table);
  }

  private keep(description: TableDescription, table = description.name): TableDescription {
    const { estimatedRows: _changing, ...lasting } = description;
    const text = JSON.stringify(lasting);
    const last = this.read.get(table);
    if (last?.text === text) return last.description;
    this.read.set(table, { text, description });
    return description;
  }
}
