import { sql, type SQL } from './fragment.ts';
import type { CheckedColumn } from '../check/index.ts';
import type { Relationship } from '../schema/index.ts';
import type { ColumnNames } from './column-names.ts';
import { rankOf } from './full-text.ts';
import { relationName, type Relation } from './statement.ts';

/** Where the published tables lie, by name. */
export type Relations = (table: string) => Relation;

/** Rows that stand for a table's: a statement in parentheses, and what it calls their columns. */
interface Instead {
  readonly rows: SQL;
  readonly named: (own: string) => string;
}

/** Rows whose columns are called as the table's own. */
export function insteadOf(rows: SQL | undefined): Instead | undefined {
  return rows && { rows, named: (own) => own };
}

interface Join {
  readonly alias: string;
  readonly table: string;
  readonly on: SQL;
}

/** What all scopes of a statement have in common. */
interface Common {
  aliases: number;
  fenced: boolean;
}

/**
 * One table in a statement, with the tables that its rows refer to. A foreign key is joined
 * once, however often it is followed, and only when it is; a row without a parent stays.
 */
export class Scope implements ColumnNames {
  readonly alias: string;
  private readonly table: string;
  private readonly instead: SQL | undefined;
  /** What its own columns are called. */
  private readonly named: (own: string) => string;
  private readonly relations: Relations;
  private readonly common: Common;
  private readonly joins = new Map<string, Join>();
  private readonly columns = new Map<string, SQL>();

  constructor(table: string, relations: Relations, outer?: Scope, instead?: Instead) {
    this.table = table;
    this.instead = instead?.rows;
    this.named = instead?.named ?? ((own) => own);
    this.relations = relations;
    this.common = outer?.common ?? { aliases: 0, fenced: false };
    this.alias = this.nextAlias();
  }

  /** The column in this statement; joins what lies on its way. */
  column({ name, path, own, ranks }: CheckedColumn): SQL {
    if (ranks !== undefined) return rankOf(ranks, this);
    const known = this.columns.get(name);
    if (known !== undefined) return known;
    let { alias } = this;
    let key = '';
    for (const step of path) {
      key += `${JSON.stringify(step.name)}.`;
      alias = this.join(key, step, alias);
    }
    const column = sql.member(alias, alias === this.alias ? this.named(own) : own);
    this.columns.set(name, column);
    return column;
  }

  /** The FROM clause; composed last, when every column has been named. */
  from(): SQL {
    const joins = [...this.joins.values()].map(
      ({ alias, table, on }) => sql` left join ${this.rowsOf(table)} ${sql.raw(alias)} on ${on}`,
    );
    const rows = this.instead ?? this.rowsOf(this.table);
    return sql` from ${rows} ${sql.raw(this.alias)}${sql.join(joins)}`;
  }

  /** From now on nothing is computed of rows that are not to be visible. */
  fence(): void {
    this.common.fenced = true;
  }

  /** A scope over a referring table, and the condition that ties it to a row of this one. */
  inside(relationship: Relationship): { scope: Scope; tie: SQL } {
    const scope = new Scope(relationship.table, this.relations, this);
    return { scope, tie: this.tie(this.alias, scope.alias, relationship) };
  }

  /** A scope over the table that a foreign key leads to, and the condition that a row of it is meant. */
  beyond(step: Relationship): { scope: Scope; among: (rows: SQL) => SQL } {
    const scope = new Scope(step.table, this.relations, this);
    const own = step.columns.map((name) => sql.member(this.alias, this.named(name)));
    const there = step.references.map((name) => sql.member(scope.alias, name));
    return {
      scope,
      among: (test) =>
        sql`(${sql.join(own, sql`, `)}) in (select ${sql.join(there, sql`, `)}${scope.from()} where ${test})`,
    };
  }

  private join(key: string, step: Relationship, from: string): string {
    const known = this.joins.get(key);
    if (known !== undefined) return known.alias;
    const alias = this.nextAlias();
    this.joins.set(key, { alias, table: step.table, on: this.tie(from, alias, step) });
    return alias;
  }

  private rowsOf(table: string): SQL {
    const relation = this.relations(table);
    return relation.only?.(this.common.fenced) ?? relationName(relation);
  }

  private nextAlias(): string {
    const alias = `t${this.common.aliases}`;
    this.common.aliases += 1;
    return alias;
  }

  private tie(here: string, there: string, { columns, references }: Relationship): SQL {
    const pairs = columns.map((name, index) => {
      const own = here === this.alias ? this.named(name) : name;
      return sql`${sql.member(there, references[index] ?? name)} = ${sql.member(here, own)}`;
    });
    return sql.join(pairs, sql` and `);
  }
}
