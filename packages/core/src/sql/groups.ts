import type {
  CheckedAggregate,
  CheckedGrouping,
  CheckedLevel,
  CheckedScalar,
} from '../check/index.ts';
import { stepsOf, type AggregateSteps } from './aggregate.ts';
import { valueOf } from './cast.ts';
import { scalar } from './condition.ts';
import { sql, type SQL } from './fragment.ts';
import { behindAnywhere } from './position.ts';
import { Scope, type ColumnNames, type Relations } from './scope.ts';
import { matchTests, patternOf, whereAll } from './search.ts';
import { write, type Statement } from './statement.ts';
import { termsAlong } from './walk-order.ts';
import { order, positions, valuesBeside } from './walk.ts';

/**
 * The lines of one level of a grouping in its window, and one more if there is one. Each holds
 * the value, the number of rows, the number of lines below (null at the last level), the
 * aggregates, those asked for and then the hidden ones; and at last, the same in each, how many
 * lines the level has. Before a cursor, and before the end, the lines come in reverse.
 */
export function compileGroups(grouping: CheckedGrouping, relations: Relations): Statement {
  const { limit, offset, containing } = grouping;
  const all = [...grouping.aggregates, ...grouping.hidden];
  const scope = new Scope(grouping.table.name, relations);
  const steps = all.map((aggregate) => stepsOf(aggregate, scope));
  const grouped = groups(grouping, steps, scope, relations);
  const finished = steps.map(({ value }, index) => {
    const whole = wholeOf(grouping, all[index], index, relations);
    const names = partNames(index, steps[index]);
    return sql`${value(names, { rows: sql`n`, sum: whole })} as ${lineName(`a${index}`)}`;
  });
  const columns = [sql`k as value`, sql`n as count`, sql`b as below`, ...finished];
  const found = containing === undefined ? [] : [sql`k::text ilike ${patternOf(containing)}`];
  const lines = sql`select ${sql.join(columns, sql`, `)}, count(*) over () as lines from (${grouped}) g${whereAll(found)}`;
  const names: ColumnNames = { column: ({ own }) => lineName(own) };
  const values = valuesBeside(grouping);
  const terms = termsAlong(grouping);
  const beyond = values === undefined ? [] : [behindAnywhere(positions(terms, values), names)];
  return write(
    sql`select * from (${lines}) l${whereAll(beyond)}${order(terms, names)} limit ${limit + 1} offset ${offset}`,
  );
}

/**
 * The groups of a level, each as `k`, `n`, `b` and the parts of the aggregates. Where the lines
 * below are to be counted, the rows are grouped by both levels at once and these groups again:
 * a fraction of the work of counting distinct values.
 */
function groups(
  grouping: CheckedGrouping,
  steps: readonly AggregateSteps[],
  scope: Scope,
  relations: Relations,
): SQL {
  const { levels, path } = grouping;
  const [level, next] = levels.slice(path.length);
  const parts = partsOf(steps);
  const counted = sql`count(*) as n`;
  const merges = mergesOf(steps);
  const rows = (columns: () => readonly SQL[]): SQL => {
    const selected = sql.join(columns(), sql`, `);
    const tests = [...matchTests(grouping, scope), ...pathTests(grouping, scope)];
    return sql`select ${selected}${scope.from()}${whereAll(tests)}`;
  };
  if (level === undefined) {
    return rows(() => [sql`null::text as k`, counted, sql`null::int8 as b`, ...parts]);
  }
  const key = (of: CheckedLevel, within: Scope): SQL => scalar(of.scalar, within);
  if (merges === undefined) {
    const lines = next && key(next, scope);
    const below =
      lines === undefined
        ? sql`null::int8`
        : sql`count(distinct ${lines}) + max(case when ${lines} is null then 1 else 0 end)`;
    return sql`${rows(() => [sql`${key(level, scope)} as k`, counted, sql`${below} as b`, ...parts])} group by 1`;
  }
  const both = next === undefined ? [level] : [level, next];
  const names = [sql`k`, sql`m`];
  const keys = (of: (one: CheckedLevel) => SQL): SQL[] =>
    both.map((one, index) => sql`${of(one)} as ${names[index] ?? sql`m`}`);
  const by = both.length === 1 ? sql`1` : sql`1, 2`;
  let finest: SQL;
  if (both.some(isReferred)) {
    const inner = new ByReference(both, scope);
    const first = rows(() => [...inner.columns, counted, ...parts]);
    const outer = inner.over(sql`(${first} group by ${inner.ordinals})`, grouping, relations);
    const found = keys((one) => inner.key(one, outer));
    const selected = sql.join([...found, sql`sum(n)::int8 as n`, ...merges], sql`, `);
    finest = sql`select ${selected}${outer.from()} group by ${by}`;
  } else {
    const own = (): SQL[] => keys((one) => key(one, scope));
    finest = sql`${rows(() => [...own(), counted, ...parts])} group by ${by}`;
  }
  const columns =
    next === undefined
      ? [sql`k`, sql`n`, sql`null::int8 as b`, ...steps.flatMap((one, at) => partNames(at, one))]
      : [sql`k`, sql`sum(n)::int8 as n`, sql`count(*) as b`, ...merges];
  const again = next === undefined ? sql`` : sql` group by k`;
  return sql`select ${sql.join(columns, sql`, `)} from (${finest}) f${again}`;
}

type Referred = CheckedLevel & { scalar: Extract<CheckedScalar, { kind: 'column' }> };

function isReferred(level: CheckedLevel): level is Referred {
  return level.repeats && level.scalar.kind === 'column' && level.scalar.column.path.length > 0;
}

/**
 * Rows grouped by what they refer to, before that is joined: as many rows are joined as there are
 * references, and not as there are rows.
 */
class ByReference {
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
        columns.push(sql`${sql.member(scope.alias, own)} as ${lineName(name)}`);
      }
      if (step !== undefined) continue;
      const name = `f${columns.length}`;
      this.names.set(level.name, name);
      columns.push(sql`${scalar(level.scalar, scope)} as ${lineName(name)}`);
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
    if (isReferred(level)) return outer.column(level.scalar.column);
    return sql.member(outer.alias, this.names.get(level.name) ?? '');
  }
}

function partsOf(steps: readonly AggregateSteps[]): SQL[] {
  return steps.flatMap((one, index) =>
    one.parts.map((part, place) => sql`${part} as ${partName(index, place)}`),
  );
}

/** The parts put together again; undefined where some cannot be. */
function mergesOf(steps: readonly AggregateSteps[]): SQL[] | undefined {
  const merged = steps.map(({ merge }, index) =>
    merge?.(partNames(index, steps[index])).map(
      (part, place) => sql`${part} as ${partName(index, place)}`,
    ),
  );
  const sound = merged.filter((one) => one !== undefined);
  return sound.length < merged.length ? undefined : sound.flat();
}

function pathTests({ levels, path }: CheckedGrouping, scope: Scope): SQL[] {
  return path.flatMap((value, index) => {
    const level = levels[index];
    return level === undefined ? [] : [levelTest(level, value, scope)];
  });
}

function levelTest({ scalar: of }: CheckedLevel, value: string | null, scope: Scope): SQL {
  const name = scalar(of, scope);
  return value === null ? sql`${name} is null` : sql`${name} = ${valueOf(value, of.type)}`;
}

/** Sums over the whole result: over the lines of the outermost level, else over the rows anew. */
function wholeOf(
  grouping: CheckedGrouping,
  aggregate: CheckedAggregate | undefined,
  index: number,
  relations: Relations,
): (of: SQL) => SQL {
  if (grouping.path.length === 0) return (of) => sql`sum(${of}) over ()`;
  return () => {
    const scope = new Scope(grouping.table.name, relations);
    const [part = sql`count(*)`] = aggregate === undefined ? [] : stepsOf(aggregate, scope).parts;
    const tests = whereAll(matchTests(grouping, scope));
    return sql`(select ${part} as ${partName(index, 0)}${scope.from()}${tests})`;
  };
}

function partNames(index: number, steps: AggregateSteps | undefined): readonly SQL[] {
  return (steps?.parts ?? []).map((_part, place) => partName(index, place));
}

function partName(index: number, place: number): SQL {
  return sql.raw(`p${index}_${place}`);
}

/** The names of a line's columns are this program's own. */
function lineName(own: string): SQL {
  return sql.identifier(own);
}
