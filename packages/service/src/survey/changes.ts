import type { Database } from '../run/index.ts';

/** How long a reading of the database's own statistics is good enough, in ms. */
const goodFor = 2_000;

const statement = `
  select sum(pg_stat_get_tuples_inserted(o) + pg_stat_get_tuples_updated(o) + pg_stat_get_tuples_deleted(o))
  from (select to_regclass($1)::oid as o where (select relkind in ('r', 'm') from pg_class where oid = to_regclass($1))
        union all
        select relid from pg_partition_tree(to_regclass($1)) where isleaf) leaves`;

interface Reading {
  readonly at: number;
  readonly count: Promise<number | undefined>;
}

/** How much has been written to tables, as PostgreSQL's statistics say: a second late, at most ten. */
export class Changes {
  private readonly database: Database;
  private readonly now: () => number;
  private readonly readings = new Map<string, Reading>();

  constructor(database: Database, now: () => number) {
    this.database = database;
    this.now = now;
  }

  /** Rows written so far, ever growing; undefined where nobody counts them, as for views. */
  read(relation: string): Promise<number | undefined> {
    const last = this.readings.get(relation);
    if (last !== undefined && this.now() - last.at < goodFor) return last.count;
    const count = this.ask(relation);
    this.readings.set(relation, { at: this.now(), count });
    return count;
  }

  private async ask(relation: string): Promise<number | undefined> {
    try {
      const { rows } = await this.database.run({ text: statement, parameters: [relation] });
      const text = rows[0]?.[0] ?? null;
      return text === null ? undefined : Number(text);
    } catch {
      return undefined;
    }
  }
}
