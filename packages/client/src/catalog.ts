import {
  findColumn,
  type FoundColumn,
  type TableDescription,
  type Tables,
} from '@ephoros/core/schema';
import type { Client } from './client.ts';
import { describeColumns } from './described-columns.ts';

const catalogs = new WeakMap<object, Catalog>();

/** The catalog of a client, one for all who use it. */
export function catalogOf(client: Pick<Client, 'describe'>): Catalog {
  const known = catalogs.get(client) ?? new Catalog(client);
  catalogs.set(client, known);
  return known;
}

/** The descriptions of a client's tables: each is read when it is first needed, and remembered. */
export class Catalog {
  private readonly client: Pick<Client, 'describe'>;
  private readonly descriptions = new Map<string, Promise<TableDescription>>();
  private readonly read = new Map<string, TableDescription>();

  constructor(client: Pick<Client, 'describe'>) {
    this.client = client;
  }

  /** Rejects as `client.describe` does; what failed is asked for again by the next who wants it. */
  describe = (table: string): Promise<TableDescription> => {
    const known = this.descriptions.get(table);
    if (known !== undefined) return known;
    const asked = this.client.describe(table);
    this.descriptions.set(table, asked);
    asked.then(
      (description) => {
        if (this.descriptions.get(table) === asked) this.read.set(table, description);
      },
      () => {
        if (this.descriptions.get(table) === asked) this.descriptions.delete(table);
      },
    );
    return asked;
  };

  /** A table as far as it was read; undefined where it was not. */
  known: Tables = (table) => this.read.get(table);

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

  /** Forgets all descriptions: after a change of the database, say. */
  forget(): void {
    this.descriptions.clear();
    this.read.clear();
  }
}
