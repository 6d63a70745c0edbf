import type { CheckedGrouping, CheckedLevel, CheckedScalar } from '../check/index.ts';
import { sql, type SQL } from './fragment.ts';
import { levelKey } from './level.ts';
import { Scope, type Relations } from './scope.ts';

type Referred = CheckedLevel & { scalar: Extract<CheckedScalar, { kind: 'column' }> };

/** Whether rows are taken together by what they refer to before a level's column is joined. */
export function isReferred(level: CheckedLevel): level is Referred {
  return level.repeats && level.scalar.kind === 'column' && level.scalar.column.path.length > 0;
}

/**
 * Rows grouped by what they refer to, before that is joined: as many rows are joined as there are
 * references, and not as there are rows.
 */
export class ByReference {
  readonly columns: readonly SQL[];
  private readonly names = new Map<string, string>();

  constructor(levels: readonly CheckedLevel[], scope: Scope) {
    const columns: SQL[] = [];
    for (const level of levels) {
      const [step] = isReferred(level) ? level.scalar.column.path : [];
      for (const own of step?.columns ?? []) {
        if (this.names.has(own)) continue;
        const name = `f${columns.length}`;
        this.names.set(own, name);
        columns.push(sql`${sql.member(scope.alias, own)} as ${sql.identifier(name)}`);
      }
      if (step !== undefined) continue;
      const name = `f${columns.length}`;
      this.names.set(level.name, name);
      columns.push(sql`${levelKey(level, scope)} as ${sql.identifier(name)}`);
    }
    this.columns = columns;
  }

  get ordinals(): SQL {
    return sql.raw(this.columns.map((_, index) => index + 1).join(', '));
  }

  /** A scope over these groups, in which what they refer to can be joined. */
  over(rows: SQL, { table }: CheckedGrouping, relations: Relations): Scope {
    const named = (own: string): string => this.names.get(own) ?? own;
    return new Scope(table.name, relations, undefined, { rows, named });
  }

  /** A level in that scope. */
  key(level: CheckedLevel, outer: Scope): SQL {
    if (isReferred(level)) return levelKey(level, outer);
    return sql.member(outer.alias, this.names.get(level.name) ?? '');
  }
}
