import { printName, type Expression } from '../expression/index.ts';
import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import {
  parseParameters,
  type ParameterLimits,
  type Query,
  type QueryParameter,
} from '../query/index.ts';
import type { TableDescription, Tables } from '../schema/index.ts';
import { isOfFilter, readCondition, type Pair } from './condition.ts';
import type { NumberSpelling, SortSpelling, Spelling } from './spelling.ts';

/** What names are looked up in. */
export interface SpelledTable {
  readonly table: TableDescription;
  readonly tables: Tables;
  readonly limits?: ParameterLimits;
}

/**
 * Reads a query from parameters of another spelling (decoded, in their order). Every error is reported with the name
 * that the parameter has there.
 */
export function readSpelled(
  pairs: readonly Pair[],
  spelling: Spelling,
  { table, tables, limits }: SpelledTable,
): { readonly query: Query; readonly problems: readonly Problem[] } {
  const problems: Problem[] = [];
  const { parameters, ignored = [] } = spelling;
  const names = namesIn(spelling);
  const { filter } = parameters;
  const most = limits?.characters ?? Infinity;
  const readable = pairs.filter(([, value]) => value.length <= most);
  const ofFilter =
    filter === undefined ? [] : readable.filter(([name]) => isOfFilter(name, filter));
  for (const [name, { length }] of pairs) {
    if (length <= most) continue;
    const place = { start: most, end: length };
    problems.push(...inParameter(name, [problem('parameter-too-long', { most }, place)]));
  }
  const values = new Map<string, string>();
  for (const pair of readable) {
    const [name, value] = pair;
    if (ofFilter.includes(pair) || ignored.includes(name)) continue;
    if (!names.has(name)) {
      const known = [...names.keys(), ...(filter === undefined ? [] : [filter.name])];
      const facts = { name, near: nearest(name, known), known: known.join(', ') };
      problems.push(...inParameter(name, [problem('unknown-parameter', facts)]));
    } else if (values.has(name)) {
      problems.push(...inParameter(name, [problem('repeated-parameter', { name })]));
    } else values.set(name, value);
  }
  const texts: Partial<Record<QueryParameter, string>> = {};
  for (const own of direct) keep(texts, own, valueOf(parameters[own], values));
  for (const own of ['page', 'offset'] as const) {
    keep(texts, own, countOf(parameters[own], own === 'page' ? 1 : 0, values, problems));
  }
  keep(texts, 'sort', sortOf(parameters.sort, values, problems));
  const read = parseParameters(texts, limits);
  problems.push(...read.problems.map((one) => renamed(one, names)));
  const condition: Expression | undefined =
    filter &&
    readCondition(ofFilter, { filter, operators: spelling.operators, table, tables, problems });
  return { query: { ...read.query, ...(condition && { filter: condition }) }, problems };
}

/** Problems that the check has of a query, stated about the parameters of the spelling that it was read from. */
export function spelledProblems(
  problems: readonly Problem[],
  spelling: Spelling,
): readonly Problem[] {
  const { filter } = spelling.parameters;
  const names = namesIn(spelling);
  if (filter !== undefined) names.set(filter.name, 'filter');
  return problems.map((one) => renamed(one, names));
}

/** Those whose text is the same in both spellings, so that places in it are. */
const direct = ['columns', 'search', 'limit', 'after', 'before'] as const;

function renamed(one: Problem, names: ReadonlyMap<string, QueryParameter>): Problem {
  const name = [...names].find(([, own]) => own === one.parameter)?.[0];
  if (name === undefined) return one;
  const { position: _position, length: _length, ...placeless } = one;
  const isPlaced = direct.some((own) => own === one.parameter);
  return { ...(isPlaced ? one : placeless), parameter: name };
}

/** The names that a spelling has, and what each is called here; those of the filter aside. */
function namesIn({ parameters }: Spelling): Map<string, QueryParameter> {
  const { columns, search, limit, page, offset, after, before, sort } = parameters;
  const all: readonly (readonly [string | undefined, QueryParameter])[] = [
    [columns, 'columns'],
    [search, 'search'],
    [limit, 'limit'],
    [page?.name, 'page'],
    [offset?.name, 'offset'],
    [after, 'after'],
    [before, 'before'],
    [sort?.name, 'sort'],
    [sort?.direction, 'sort'],
  ];
  return new Map(all.flatMap(([name, own]) => (name === undefined ? [] : [[name, own] as const])));
}

function keep(
  texts: Partial<Record<QueryParameter, string>>,
  name: QueryParameter,
  text: string | undefined,
): void {
  if (text !== undefined) texts[name] = text;
}

/** What an emptied field of a form sends is nothing. */
function valueOf(
  name: string | undefined,
  values: ReadonlyMap<string, string>,
): string | undefined {
  const value = name === undefined ? undefined : values.get(name);
  return value === '' ? undefined : value;
}

/** The number as we count it. */
function countOf(
  spelling: NumberSpelling | undefined,
  first: number,
  values: ReadonlyMap<string, string>,
  problems: Problem[],
): string | undefined {
  const text = spelling && valueOf(spelling.name, values);
  if (spelling === undefined || text === undefined) return undefined;
  const { name, from } = spelling;
  const count = /^\d{1,15}$/.test(text) ? Number(text) - from + first : NaN;
  if (count >= first) return String(count);
  const facts = { least: from, most: 2 ** 53 - 1 };
  problems.push(
    ...inParameter(name, [problem('not-a-whole-number', facts, { start: 0, end: text.length })]),
  );
  return undefined;
}

/** The order as we write it. */
function sortOf(
  spelling: SortSpelling | undefined,
  values: ReadonlyMap<string, string>,
  problems: Problem[],
): string | undefined {
  const text = spelling && valueOf(spelling.name, values);
  if (spelling === undefined || text === undefined) return undefined;
  const { name, direction, between } = spelling;
  const directions = (valueOf(direction, values) ?? '').split(',').map((word) => word.trim());
  const [forAll = ''] = directions;
  const terms = text.split(',').map((item, at) => {
    const parted = between === undefined ? [item] : lastParted(item.trim(), between);
    const [column = '', own = directions.length > 1 ? (directions[at] ?? '') : forAll] = parted;
    const isMinus = column.trim().startsWith('-');
    const plain = column.trim().replace(/^[-+]/, '');
    const descending = isDescending(own.trim(), spelling);
    if (descending === undefined) {
      const allowed = [...wordsOf(spelling).ascending, ...wordsOf(spelling).descending];
      const facts = { allowed: allowed.join(', '), near: nearest(own, allowed) };
      problems.push(...inParameter(direction ?? name, [problem('not-one-of', facts)]));
    }
    return `${(descending ?? false) !== isMinus ? '-' : ''}${printName(plain)}`;
  });
  return terms.join(',');
}

/** A term and its direction, where there is one: columns may have the sign in their own names. */
function lastParted(item: string, between: string): readonly string[] {
  const at = item.lastIndexOf(between);
  return at === -1 ? [item] : [item.slice(0, at), item.slice(at + between.length)];
}

function wordsOf({ ascending = ['asc'], descending = ['desc'] }: SortSpelling): {
  readonly ascending: readonly string[];
  readonly descending: readonly string[];
} {
  return { ascending, descending };
}

function isDescending(word: string, spelling: SortSpelling): boolean | undefined {
  const { ascending, descending } = wordsOf(spelling);
  if (word === '' || ascending.includes(word)) return false;
  return descending.includes(word) ? true : undefined;
}
