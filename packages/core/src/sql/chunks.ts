import type { CheckedColumn, CheckedQuery } from '../check/index.ts';
import { comparable, valueOf } from './cast.ts';
import { sql, type SQL } from './fragment.ts';
import { order } from './keyset.ts';
import { phasesOf, type Phase } from './phases.ts';
import { behind, upTo, type Position } from './position.ts';
import { Scope, type Relations } from './scope.ts';
import { matchTests, whereAll } from './search.ts';
import { fill, writeTemplate, type Statement, type Template } from './statement.ts';

/** Sort values of a row, in the order of the sort's terms. */
type Values = readonly (string | null)[];

/** The keys of a query's rows in a stretch of its order, with the ends of the stretch left open. */
export interface ChunkTemplates {
  /** One behind the other along the order; two where the leading column may be null. */
  readonly phases: readonly ChunkPhase[];
}

interface ChunkPhase {
  /** Whether its rows have a leading value. */
  readonly valued: boolean;
  readonly whole: Template;
  readonly from: Template;
  readonly to: Template;
  readonly between: Template;
}

/**
 * Statements for stretches of a query's order, behind one row and up to another, as mileposts mark
 * them. Each gives the keys of the rows that match, in their order. Undefined where a column behind the leading
 * one may be null.
 */
export function compileChunks(
  query: CheckedQuery,
  relations: Relations,
): ChunkTemplates | undefined {
  const phases = phasesOf(query);
  return phases && { phases: phases.map((phase) => templatesOf(query, relations, phase)) };
}

/** The statements for the rows behind one row (or from the beginning) and up to another (or the end). */
export function chunkBetween(
  { phases }: ChunkTemplates,
  from: Values | undefined,
  to: Values | undefined,
): readonly Statement[] {
  const lies = (values: Values | undefined): number =>
    values === undefined || phases.length === 1
      ? 0
      : phases.findIndex(({ valued }) => valued === ((values[0] ?? null) !== null));
  const first = lies(from);
  const last = to === undefined ? phases.length - 1 : lies(to);
  return phases.slice(first, last + 1).map((phase, index) => {
    const begun = index === 0 ? from : undefined;
    const ends = first + index === last ? to : undefined;
    const open = { ...named('from', begun), ...named('to', ends) };
    if (begun !== undefined) return fill(ends === undefined ? phase.from : phase.between, open);
    return fill(ends === undefined ? phase.whole : phase.to, open);
  });
}

/** The columns of a table's key, as its sort has them. */
export function keyColumns({
  table,
  sort,
}: Pick<CheckedQuery, 'table' | 'sort'>): readonly CheckedColumn[] {
  return table.key.map((name) => {
    const term = sort.find(({ column }) => column.name === name);
    if (term === undefined) throw new Error('a sort ends with the key');
    return term.column;
  });
}

function templatesOf(
  query: CheckedQuery,
  relations: Relations,
  { valued, terms, skipped, tests: own }: Phase,
): ChunkPhase {
  const at = (end: 'from' | 'to'): readonly Position[] =>
    terms.map((term, index) => ({ term, value: sql.open(`${end}${index + skipped}`) }));
  const template = (...ends: readonly ('from' | 'to')[]): Template => {
    const scope = new Scope(query.table.name, relations);
    const keys = keyColumns(query).map((column) => scope.column(column));
    const tests = [
      ...own(scope),
      ...ends.map((end) => within(end, at(end), scope)),
      ...(ends.includes('from') ? [behind(at('from'), scope)] : []),
      ...(ends.includes('to') ? [upTo(at('to'), scope)] : []),
      ...matchTests(query, scope),
    ];
    const ordered = order(terms, scope);
    return writeTemplate(
      sql`select ${sql.join(keys, sql`, `)}${scope.from()}${whereAll(tests)}${ordered}`,
    );
  };
  return {
    valued,
    whole: template(),
    from: template('from'),
    to: template('to'),
    between: template('from', 'to'),
  };
}

/**
 * A bound on the first column alone. It says nothing new; but of two such bounds the planner knows how few
 * rows lie between them, which it does not of comparisons of rows.
 */
function within(end: 'from' | 'to', positions: readonly Position[], scope: Scope): SQL {
  const [first] = positions;
  if (first === undefined || first.value === null) return sql`true`;
  const { column, descending } = first.term;
  const comparator = (end === 'from') === descending ? sql`<=` : sql`>=`;
  const own = comparable(scope.column(column), column.type);
  return sql`${own} ${comparator} ${valueOf(first.value, column.type)}`;
}

function named(end: 'from' | 'to', values: Values | undefined): Record<string, string> {
  return Object.fromEntries((values ?? []).map((value, index) => [`${end}${index}`, value ?? '']));
}
