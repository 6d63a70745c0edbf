import {
  parseExpression,
  parseExpressionJson,
  parsePath,
  type ExpressionLimits,
} from '../expression/index.ts';
import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import { parseNames } from './names.ts';
import { queryParameters, type QueryParameter } from './parameters.ts';
import { parseSort, parseTerms } from './parse-terms.ts';
import type { Query } from './query.ts';
import { parseSearch } from './search.ts';

type Mutable = { -readonly [Field in keyof Query]: Query[Field] };

/** What parameters may be at most. */
export interface ParameterLimits extends ExpressionLimits {
  /** Characters of one parameter. */
  readonly characters: number;
}

/** Where a name is none of those known here. */
export function unknownParameter(name: string, known: readonly string[]): Problem {
  const facts = { name, near: nearest(name, known), known: known.join(', ') };
  return { ...problem('unknown-parameter', facts), parameter: name };
}

// Offsets and page numbers stay exact in JSON and in bigint parameters.
const most = 2 ** 53 - 1;
// PostgreSQL text holds no NUL; half a surrogate pair is no character.
const forbidden = /\0|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/;

/**
 * Reads a query from its parameters (decoded). Reads all of them and gives every error, each
 * with its parameter and place; names and types are looked up later, by `checkQuery`.
 */
export function parseParameters(
  parameters: Texts,
  limits?: ParameterLimits,
): { readonly query: Query; readonly problems: readonly Problem[] } {
  const query: Mutable = {};
  const problems: Problem[] = [];
  for (const name of queryParameters) {
    const text = parameters[name];
    if (text === undefined) continue;
    if (limits !== undefined && text.length > limits.characters) {
      const most = limits.characters;
      const place = { start: most, end: text.length };
      problems.push(...inParameter(name, [problem('parameter-too-long', { most }, place)]));
      continue;
    }
    const odd = forbidden.exec(text);
    const found =
      odd === null
        ? readers[name](text, query, limits, parameters)
        : [problem('forbidden-character', {}, { start: odd.index, end: odd.index + 1 })];
    problems.push(...inParameter(name, found));
  }
  const places = (['page', 'offset', 'after', 'before'] as const).filter(
    (name) => parameters[name] !== undefined,
  );
  const last = places.at(-1);
  if (last !== undefined && places.length > 1) {
    const conflict = problem('conflicting-parameters', { names: places.join(' and ') });
    problems.push({ ...conflict, parameter: last });
  }
  return { query, problems };
}

type Texts = Readonly<Partial<Record<QueryParameter, string>>>;

type Reader = (
  text: string,
  query: Mutable,
  limits: ExpressionLimits | undefined,
  all: Texts,
) => readonly Problem[];

/** Terms of one search, and characters of all of them. */
const mostTerms = 20;
const mostSearched = 1_000;

const readers: Readonly<Record<QueryParameter, Reader>> = {
  columns: (text, query) => {
    const { names, problems } = parseNames(text);
    query.columns = names;
    return problems;
  },
  // Read together with the filter.
  'filter-lang': (text) => readWord(text, ['cql2-text', 'cql2-json'], () => undefined),
  filter: (text, query, limits, all) => {
    // An empty filter is no condition, as an emptied text box sends it.
    if (text.trim() === '') return [];
    const json = all['filter-lang'] === 'cql2-json';
    const read = json ? parseExpressionJson(text, limits) : parseExpression(text, limits);
    if ('problems' in read) return read.problems;
    query.filter = read.expression;
    return [];
  },
  search: (text, query) => {
    if (text.length > mostSearched) {
      const place = { start: mostSearched, end: text.length };
      return [problem('parameter-too-long', { most: mostSearched }, place)];
    }
    const terms = parseSearch(text);
    if (terms.length > mostTerms) {
      return [problem('too-many-members', { most: mostTerms }, { start: 0, end: text.length })];
    }
    if (terms.length > 0) query.search = terms;
    return [];
  },
  group: (text, query, limits) => {
    const { terms, problems } = parseTerms(text, limits);
    // A parameter that cannot be read was given all the same.
    if (terms.length > 0 || problems.length > 0) query.group = terms;
    return problems;
  },
  path: (text, query) => {
    if (text.trim() === '') return [];
    const read = parsePath(text);
    if ('problems' in read) return read.problems;
    query.path = read.path;
    return [];
  },
  aggregate: (text, query, limits) => {
    const { terms, problems } = parseTerms(text, limits);
    if (terms.length > 0) query.aggregate = terms;
    return problems;
  },
  sort: (text, query) => {
    const { terms, problems } = parseSort(text);
    query.sort = terms;
    return problems;
  },
  nulls: (text, query) => readWord(text, ['last', 'first'], (word) => (query.nulls = word)),
  limit: (text, query) => readNumber(text, 1, 1_000_000, (limit) => (query.limit = limit)),
  page: (text, query) =>
    readNumber(text, 1, most, (page) => (query.place = { kind: 'page', page })),
  offset: (text, query) =>
    readNumber(text, 0, most, (offset) => (query.place = { kind: 'offset', offset })),
  after: (token, query) => {
    query.place = { kind: 'after', token };
    return [];
  },
  before: (token, query) => {
    query.place = { kind: 'before', token };
    return [];
  },
  total: (text, query) =>
    readWord(text, ['exact', 'estimate', 'none'], (word) => (query.total = word)),
  shape: (text, query) => readWord(text, ['objects', 'arrays'], (word) => (query.shape = word)),
  cells: (text, query) => readNumber(text, 1, 1_000_000, (cells) => (query.cells = cells)),
};

function readNumber(
  text: string,
  least: number,
  greatest: number,
  keep: (value: number) => void,
): Problem[] {
  const value = /^\d{1,16}$/.test(text) ? Number(text) : NaN;
  if (value >= least && value <= greatest) {
    keep(value);
    return [];
  }
  const facts = { least, most: greatest };
  return [problem('not-a-whole-number', facts, { start: 0, end: text.length })];
}

function readWord<Word extends string>(
  text: string,
  allowed: readonly Word[],
  keep: (word: Word) => void,
): Problem[] {
  const word = allowed.find((one) => one === text);
  if (word !== undefined) {
    keep(word);
    return [];
  }
  const facts = { allowed: allowed.join(', '), near: nearest(text, allowed) };
  return [problem('not-one-of', facts, { start: 0, end: text.length })];
}
