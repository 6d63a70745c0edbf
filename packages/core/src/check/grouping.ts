import { termOf } from '../query/index.ts';
import type { PathValue } from '../expression/index.ts';
import { inParameter, problem, type Problem } from '../problem/index.ts';
import { sortsBy, type Query, type SortTerm, type Term } from '../query/index.ts';
import {
  encodingOf,
  isComparable,
  toldApart,
  typeName,
  type TableDescription,
} from '../schema/index.ts';
import { checkAggregate, kindOf } from './aggregate.ts';
import type {
  CheckedAggregate,
  CheckedColumn,
  CheckedGrouping,
  CheckedGroupLines,
  CheckedLevel,
  CheckedScalar,
  CheckedSortTerm,
} from './checked.ts';
import { checkCursor } from './cursor.ts';
import { Checker } from './expression.ts';
import { columnsIn, labelOfTerm, valueLabelsOf } from './label.ts';
import { Lookup } from './lookup.ts';
import { pathValueAs } from './path-value.ts';
import { checkMatch, checkPlace, type CheckOptions } from './query.ts';

/** Levels of one grouping, and aggregates of one request. */
export const mostLevels = 6;
export const mostAggregates = 20;

type Checked = { readonly checked: CheckedGrouping } | { readonly problems: readonly Problem[] };

/**
 * Checks the level of a query's grouping that its path leads to. Gives all problems at once, each
 * with its parameter and place. Groups are sorted by their value where nothing else is requested.
 */
export function checkGrouping(
  query: Query,
  table: TableDescription,
  options: CheckOptions = {},
): Checked {
  const problems =
    query.group === undefined ? inParameter('group', [problem('missing-group', {})]) : [];
  return check(query, query.group ?? [], table, options, problems);
}

/**
 * Checks all groups of the last level of a query's grouping, whatever lies above them: each has a column for every
 * level, and for what is made of its rows (their number where nothing is). They come as the outline has them, but that
 * the levels above the last one are sorted by their values alone. `flat`: their order is that of the sort's terms
 * instead, whichever level these are of.
 */
export function checkGroupLines(
  query: Query,
  table: TableDescription,
  options: CheckOptions = {},
  flat = false,
): { readonly checked: CheckedGroupLines } | { readonly problems: readonly Problem[] } {
  const { group = [], sort = [], aggregate = [rowCount], nulls = 'last' } = query;
  const missing =
    query.group === undefined ? inParameter('group', [problem('missing-group', {})]) : [];
  const last = group.length - 1;
  const read = check({ ...query, aggregate }, group, table, options, missing, last);
  if ('problems' in read) return read;
  const { levels, aggregates, sort: own, ...grouping } = read.checked;
  const columns = [
    ...levels.map((level, index) => lineColumn(`k${index}`, level)),
    ...aggregates.map((one, index) => lineColumn(`a${index}`, one)),
  ];
  const columnOf = (term: SortTerm): CheckedColumn | undefined =>
    columns[group.findIndex((one) => sortsBy(term, one))];
  const within = own.map((term): CheckedSortTerm =>
    term.column.own === 'value' ? { ...term, column: columns[last] ?? term.column } : term,
  );
  const ordered = (column: CheckedColumn): CheckedSortTerm => {
    const term = sort.find((one) => columnOf(one) === column);
    return { column, descending: term?.descending ?? false, nulls: term?.nulls ?? nulls };
  };
  const above = columns.slice(0, last).map(ordered);
  const asRequested = sort.flatMap((term): readonly CheckedSortTerm[] => {
    const column = columnOf(term);
    if (column !== undefined) return [ordered(column)];
    return within.filter((one) => one.column.name === term.column.name);
  });
  const { limit: _limit, capped: _capped, path: _path, ...rest } = grouping;
  return {
    checked: {
      ...rest,
      levels,
      aggregates,
      columns,
      sort: flat ? distinctTerms([...asRequested, ...above, ...within]) : [...above, ...within],
    },
  };
}

/** Each column once, where it stands first. */
function distinctTerms(terms: readonly CheckedSortTerm[]): readonly CheckedSortTerm[] {
  const visible = new Set<string>();
  return terms.filter(({ column: { own } }) => !visible.has(own) && visible.add(own));
}

/**
 * Checks the aggregates of a query's whole result: a grouping without levels. The number of rows
 * where none is named.
 */
export function checkAggregates(
  query: Query,
  table: TableDescription,
  options: CheckOptions = {},
): Checked {
  const { filter, search, aggregate = [rowCount] } = query;
  const bare: Query = {
    ...(filter && { filter }),
    ...(search && { search }),
    aggregate,
    limit: 1,
  };
  return check(bare, [], table, options, []);
}

const rowCount = termOf({ kind: 'call', name: 'count', args: [], span: { start: 0, end: 0 } });

function check(
  query: Query,
  terms: readonly Term[],
  table: TableDescription,
  { tables = () => undefined, now = new Date(), unicode = true, storedSelections }: CheckOptions,
  problems: Problem[],
  depth = query.path?.length ?? 0,
): Checked {
  const lookup = new Lookup(table, tables, unicode, storedSelections);
  const match = checkMatch(query, lookup, now, problems);
  const inGroup: Problem[] = [];
  const levels = checkLevels(terms, lookup, new Checker(lookup, now, inGroup), inGroup);
  problems.push(...inParameter('group', inGroup));
  const sound = toldApart(levels.filter((level) => level !== undefined));
  const inPath: Problem[] = [];
  const path = checkPath(query.path ?? [], levels, inPath);
  problems.push(...inParameter('path', inPath));
  const inAggregate: Problem[] = [];
  const checker = new Checker(lookup, now, inAggregate);
  const aggregates = checkAll(query.aggregate ?? [], checker, inAggregate);
  problems.push(...inParameter('aggregate', inAggregate));
  const inSort: Problem[] = [];
  const level = levels[depth];
  const { sort, hidden } = checkGroupSort(
    query,
    { terms, level, depth, aggregates },
    new Checker(lookup, now, inSort),
    inSort,
  );
  problems.push(...inParameter('sort', inSort));
  const window = checkPlace(query, table, problems);
  const { place } = query;
  const anchor =
    inSort.length === 0 &&
    level !== undefined &&
    (place?.kind === 'after' || place?.kind === 'before')
      ? checkCursor(place, { name: table.name, key: ['value'] }, sort, problems)
      : undefined;
  if (problems.length > 0) return { problems };
  return {
    checked: {
      table,
      ...match,
      levels: sound,
      path,
      aggregates,
      hidden,
      sort,
      ...window,
      // Lines have no key: their cursors hold all values.
      ...(anchor === undefined || 'key' in anchor ? {} : { anchor }),
    },
  };
}

function checkLevels(
  terms: readonly Term[],
  lookup: Lookup,
  checker: Checker,
  problems: Problem[],
): readonly (CheckedLevel | undefined)[] {
  const over = terms[mostLevels];
  if (over !== undefined) {
    problems.push(problem('too-many-levels', { most: mostLevels }, over.expression.span));
  }
  const names = new Set<string>();
  return terms.slice(0, mostLevels).map((term) => {
    const { name, expression } = term;
    if (names.has(name)) {
      problems.push(problem('repeated-term', { name }, expression.span));
      return undefined;
    }
    names.add(name);
    const level = checkLevel(term, checker, problems);
    return level && { ...level, repeats: repeats(level.scalar, lookup) };
  });
}

function checkLevel(
  { name, expression }: Term,
  checker: Checker,
  problems: Problem[],
): Omit<CheckedLevel, 'repeats'> | undefined {
  const { span } = expression;
  const scalar = checker.scalar(expression);
  if (scalar === undefined) return undefined;
  const columns = columnsIn(scalar);
  if (columns.length === 0) {
    problems.push(problem('group-without-column', {}, span));
    return undefined;
  }
  const { type } = scalar;
  const barred = columns.find(({ groupable }) => !groupable);
  if (barred !== undefined || !isComparable(type)) {
    const facts = { name: barred?.name ?? name, type: typeName(barred?.type ?? type) };
    problems.push(problem('not-groupable', facts, span));
    return undefined;
  }
  const format = formatOf(scalar);
  return {
    name,
    label: labelOfTerm(expression, scalar),
    ...(scalar.kind === 'column' && { longLabel: scalar.column.longLabel }),
    ...valueLabelsOf(scalar),
    type,
    encoding: encodingOf(type),
    ...(format === undefined ? {} : { format }),
    scalar,
    nullable: scalar.kind !== 'column' || scalar.column.nullable,
  };
}

/** Rows that refer to the same row, at least, for these to be taken together first. */
const mostlyRepeated = 20;

function repeats(scalar: CheckedScalar, { table, tables }: Lookup): boolean {
  const [step] = scalar.kind === 'column' ? scalar.column.path : [];
  const there = step && tables(step.table)?.estimatedRows;
  const here = table.estimatedRows;
  if (there === undefined || there === null || here === null) return false;
  return there * mostlyRepeated <= here;
}

/** A bin is written like the values in it; a year names one. */
function formatOf(scalar: CheckedScalar): CheckedLevel['format'] {
  if (scalar.kind === 'column') return scalar.column.format;
  if (scalar.kind === 'function' && scalar.name === 'year') return { kind: 'identifier' };
  const [of] = scalar.kind === 'function' && scalar.name === 'bin' ? scalar.args : [];
  return of?.kind === 'column' && scalar.type.kind === 'numeric' ? of.column.format : undefined;
}

function checkPath(
  path: readonly PathValue[],
  levels: readonly (CheckedLevel | undefined)[],
  problems: Problem[],
): readonly (string | null)[] {
  const most = Math.max(0, levels.length - 1);
  const over = path[most];
  if (over !== undefined) problems.push(problem('path-too-long', { most }, over.span));
  return path.slice(0, most).map((value, index) => {
    const level = levels[index];
    if (value.kind === 'null' || level === undefined) return null;
    const { type } = level;
    const read = pathValueAs(value, type);
    if (typeof read === 'string') return read;
    problems.push({
      ...read,
      position: value.span.start,
      length: value.span.end - value.span.start,
    });
    return null;
  });
}

function checkAll(
  terms: readonly Term[],
  checker: Checker,
  problems: Problem[],
): readonly CheckedAggregate[] {
  const over = terms[mostAggregates];
  if (over !== undefined) {
    problems.push(problem('too-many-aggregates', { most: mostAggregates }, over.expression.span));
  }
  const names = new Set<string>();
  return terms.slice(0, mostAggregates).flatMap((term) => {
    if (names.has(term.name)) {
      problems.push(problem('repeated-term', { name: term.name }, term.expression.span));
      return [];
    }
    names.add(term.name);
    return checkAggregate(term, checker, problems) ?? [];
  });
}

interface Sorted {
  readonly terms: readonly Term[];
  readonly level: CheckedLevel | undefined;
  readonly depth: number;
  readonly aggregates: readonly CheckedAggregate[];
}

/** A term that names another level counts there, and not here. */
function checkGroupSort(
  { sort = [], nulls = 'last' }: Query,
  { terms: given, level, depth, aggregates }: Sorted,
  checker: Checker,
  problems: Problem[],
): { sort: CheckedSortTerm[]; hidden: readonly CheckedAggregate[] } {
  const hidden: CheckedAggregate[] = [];
  const terms: CheckedSortTerm[] = [];
  const visible = new Set<string>();
  const add = (
    name: string,
    column: CheckedColumn,
    { descending, nulls: own = nulls }: Pick<SortTerm, 'descending' | 'nulls'>,
  ): void => {
    if (!visible.has(name)) terms.push({ column, descending, nulls: own });
    visible.add(name);
  };
  for (const term of sort) {
    const { span } = term.column;
    const place = given.findIndex((one) => sortsBy(term, one));
    const name = given[place]?.name ?? term.column.name;
    if (visible.has(name)) problems.push(problem('repeated-term', { name }, span));
    else if (place !== -1) {
      if (place === depth && level) add(name, valueColumn(level), term);
    } else if (term.expression !== undefined && kindOf(term.expression) !== undefined) {
      const column = aggregateColumn(term, aggregates, hidden, checker, problems);
      if (column !== undefined) add(name, column, term);
    } else {
      const known = [
        ...given.map((one) => one.name),
        'count()',
        ...aggregates.map((one) => one.name),
      ];
      problems.push(
        problem('not-a-group-sort', { name, known: [...new Set(known)].join(', ') }, span),
      );
    }
  }
  // The value distinguishes the lines of a level.
  if (level !== undefined) add(level.name, valueColumn(level), { descending: false });
  return { sort: terms, hidden };
}

function aggregateColumn(
  { column: { name }, expression }: SortTerm,
  aggregates: readonly CheckedAggregate[],
  hidden: CheckedAggregate[],
  checker: Checker,
  problems: Problem[],
): CheckedColumn | undefined {
  const known = [...aggregates, ...hidden];
  const place = known.findIndex((one) => one.name === name);
  if (place !== -1) return lineColumn(`a${place}`, known[place]);
  if (expression === undefined) return undefined;
  const checked = checkAggregate({ name, expression }, checker, problems);
  if (checked === undefined) return undefined;
  hidden.push(checked);
  return lineColumn(`a${known.length}`, checked);
}

function valueColumn(level: CheckedLevel): CheckedColumn {
  return { ...lineColumn('value', level), name: level.name, nullable: level.nullable };
}

/** A column of the lines, for the order, its cursors and files. */
function lineColumn(
  own: string,
  result: Omit<CheckedLevel, 'repeats'> | CheckedAggregate | undefined,
): CheckedColumn {
  if (result === undefined) throw new Error(`there is no column ${own}`);
  const { name, label, type, encoding, valueLabels } = result;
  return {
    ...(valueLabels && { valueLabels }),
    name,
    label,
    type,
    encoding,
    own,
    path: [],
    nullable: true,
    sortable: true,
    filterable: false,
    groupable: false,
    indexed: false,
    shown: true,
    aggregates: [],
  };
}
