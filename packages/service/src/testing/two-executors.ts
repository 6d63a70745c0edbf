import { checkQuery, type CheckedQuery } from '@ephoros/core/check';
import { byCodePoint, byCollator, type MemoryRow, type TextOrder } from '@ephoros/core/memory';
import type { Problem } from '@ephoros/core/problem';
import { parseParameters, type Query, type QueryParameter } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { compileRows } from '@ephoros/core/sql';
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { readCatalog, type Catalog } from '../catalog/index.ts';
import { noConfiguration } from '../config/index.ts';
import { rowsEncoder } from '../encode/index.ts';
import { Database } from '../run/index.ts';

export type Parameters = Partial<Record<QueryParameter, string>>;

const setUp = [
  'create extension if not exists citext',
  `create type level as enum ('low', 'mid', 'high')`,
  'create domain fee as numeric(12, 3)',
  'create domain leveled as level',
  ...['C', 'und-x-icu'].flatMap((collation, index) => [
    `create schema w${index}`,
    `create table w${index}.parent (id int primary key, name text collate "${collation}", rank int)`,
    `create table w${index}.t (id int primary key, n int, big int8, d numeric(12,3), f float8, r real,
       s text collate "${collation}", b boolean, day date, ts timestamptz, local timestamp, e level,
       l text[] collate "${collation}", span interval, ch char(4) collate "${collation}",
       ci citext collate "${collation}", dm fee, de leveled, lc citext[], parent_id int references w${index}.parent)`,
    `create table w${index}.child (id int primary key, t_id int references w${index}.t, v numeric(12,3))`,
  ]),
];

const collator = new Intl.Collator('und');
/** How the texts of the fixtures `w0` and `w1` are compared. */
export const orders: readonly TextOrder[] = [
  byCodePoint,
  byCollator((one, other) => collator.compare(one, other)),
];

/** The same tables in PostgreSQL, in two collations, and in memory. */
export class TwoExecutors {
  readonly url: string;
  readonly database: Database;
  readonly catalog: Catalog;
  private readonly writer: pg.Client;
  private readonly drop: () => Promise<void>;

  private constructor(
    url: string,
    database: Database,
    catalog: Catalog,
    writer: pg.Client,
    drop: () => Promise<void>,
  ) {
    this.url = url;
    this.database = database;
    this.catalog = catalog;
    this.writer = writer;
    this.drop = drop;
  }

  static async start(name: string): Promise<TwoExecutors> {
    const { url, drop } = await freshDatabase(name, setUp);
    const database = new Database({ url });
    const writer = new pg.Client({ connectionString: url });
    await writer.connect();
    const catalog = await readCatalog(database, noConfiguration);
    return new TwoExecutors(url, database, catalog, writer, drop);
  }

  async close(): Promise<void> {
    await this.writer.end();
    await this.database.close();
    await this.drop();
  }

  check(table: string, parameters: Parameters, now: Date): CheckedQuery {
    return this.checkWith(table, parameters, (query, description) =>
      checkQuery(query, description, { tables: this.catalog.describe, now }),
    );
  }

  /** Parameters by another check; throws where they have any problem. */
  checkWith<Checked>(
    table: string,
    parameters: Parameters,
    check: (
      query: Query,
      description: TableDescription,
    ) => { readonly checked: Checked } | { readonly problems: readonly Problem[] },
  ): Checked {
    const { query, problems } = parseParameters(parameters);
    const description = this.catalog.describe(table);
    if (description === undefined) throw new Error(table);
    const read = check(query, description);
    const all = [...problems, ...('problems' in read ? read.problems : [])];
    if ('problems' in read || all.length > 0) {
      throw new Error(
        `${JSON.stringify(parameters)}: ${all.map(({ message }) => message).join(' ')}`,
      );
    }
    return read.checked;
  }

  /** Puts a fixture's rows into the tables of a schema; gives them back as answers have them. */
  async fill(
    schema: string,
    fixture: Record<string, readonly object[]>,
  ): Promise<Map<string, readonly MemoryRow[]>> {
    await this.writer.query(`truncate ${schema}.child, ${schema}.t, ${schema}.parent`);
    const stored = new Map<string, readonly MemoryRow[]>();
    for (const name of ['parent', 't', 'child']) {
      const rows = (fixture[name] ?? []).map((row, index) => ({ id: index + 1, ...row }));
      await this.writer.query(
        `insert into ${schema}.${name} select * from json_populate_recordset(null::${schema}.${name}, $1)`,
        [JSON.stringify(rows)],
      );
      const table = `${schema}.${name}`;
      const everything = this.check(table, { limit: '1000', sort: 'id' }, new Date());
      const answer = await this.database.run(compileRows(everything, this.catalog.locate));
      const { json } = rowsEncoder(everything)(answer.rows);
      stored.set(table, JSON.parse(json) as MemoryRow[]);
    }
    return stored;
  }
}
