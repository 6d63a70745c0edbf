import { and } from '../expression/index.ts';
import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import { termOf, type Query, type SortTerm, type Term } from '../query/index.ts';
import type { Tables } from '../schema/index.ts';
import { parseApply, type Applied, type AppliedAggregate } from './apply.ts';
import { conditionOf } from './meaning.ts';
import type { Entity } from './model.ts';
import { parseOrder, sortOf, type OrderTerm } from './order.ts';
import { parseNode } from './parse.ts';
import { notImplemented, reading, Refusal } from './reader.ts';
import { parseSearchTerms } from './search.ts';
import { columnsOf } from './rows.ts';
import { parseExpand, parseSelect, wholeOf, type Selection } from './selection.ts';

/** Where a page begins that a link led to: behind a row, or so many lines on; and how many rows are still wanted. */
export interface PageToken {
  readonly left?: number;
  readonly after?: string;
  readonly skipped?: number;
}

/** What is requested of the rows of a table, and of each of them. */
export interface QueryOptionTexts {
  readonly selection: Selection;
  /** Columns, filter, search and sort, without a window. */
  readonly query: Query;
  /** What is made of the rows, where it is not they that are requested. */
  readonly made?: Applied['made'];
  /** Rows at most. */
  readonly top?: number;
  readonly skip?: number;
  /** Whether the number of all that match is wanted. */
  readonly count: boolean;
  readonly page?: PageToken;
}

const collectionOptions = [
  'apply',
  'count',
  'expand',
  'filter',
  'format',
  'orderby',
  'search',
  'select',
  'skip',
  'skiptoken',
  'top',
] as const;

type OptionName = (typeof collectionOptions)[number];

/** The options that a resource takes. */
export const optionsOf = {
  collection: collectionOptions,
  entity: ['expand', 'format', 'select'],
  count: ['filter', 'search'],
  value: ['format'],
  document: ['format'],
} as const satisfies Readonly<Record<string, readonly OptionName[]>>;

/** What the standard has beyond them (URL Conventions 4.01, 5.1). */
const unsupported = ['compute', 'deltatoken', 'id', 'index', 'levels', 'schemaversion'];

/** Options by their names without `$`, in small letters, as OData 4.01 takes them either way. */
export type Options = Readonly<Partial<Record<OptionName, string>>>;

/**
 * Sorts out which options a request has (URL Conventions 4.01, 5.1), and what is wrong with the others; `characters` of
 * one are read at most.
 */
export function readOptionNames(
  given: readonly (readonly [name: string, value: string])[],
  known: readonly OptionName[],
  characters: number,
): { readonly options: Options; readonly problems: readonly Problem[] } {
  const options: Partial<Record<OptionName, string>> = {};
  const problems: Problem[] = [];
  for (const [written, value] of given) {
    const name = written.replace(/^\$/, '').toLowerCase();
    const option = known.find((one) => one === name);
    if (option === undefined)
      problems.push(...inParameter(written, [unknown(written, name, known)]));
    else if (options[option] !== undefined) {
      problems.push(...inParameter(written, [problem('repeated-parameter', { name: written })]));
    } else if (value.length > characters) {
      const place = { start: characters, end: value.length };
      const long = problem('parameter-too-long', { most: characters }, place);
      problems.push(...inParameter(written, [long]));
    } else options[option] = value;
  }
  return { options, problems };
}

function unknown(written: string, name: string, known: readonly OptionName[]): Problem {
  const isOfStandard = unsupported.includes(name) || collectionOptions.some((one) => one === name);
  if (isOfStandard) return problem('not-implemented', { what: `${written} here` });
  const names = known.map((one) => `$${one}`);
  const facts = { name: written, near: nearest(written, names), known: names.join(', ') };
  return problem('unknown-parameter', facts);
}

/** What a request asks of an entity set. */
export function readQueryOptions(
  options: Options,
  entity: Entity,
  tables: Tables,
): { readonly texts: QueryOptionTexts; readonly problems: readonly Problem[] } {
  const problems: Problem[] = [];
  const read = <Read>(name: OptionName, parse: (text: string) => Read): Read | undefined => {
    const text = options[name];
    return text === undefined ? undefined : reading(`$${name}`, problems, () => parse(text));
  };
  const selected = read('select', (text) => parseSelect(text, entity)) ?? wholeOf(entity);
  const expanded = read('expand', (text) => parseExpand(text, entity, tables)) ?? [];
  const selection: Selection = { entity, ...selected, expanded };
  const applied = read('apply', (text) => parseApply(text, entity, tables));
  const made = applied?.made;
  const filter = read('filter', (text) => {
    if (made !== undefined) throw notImplemented('$filter of what $apply has made');
    return conditionOf(parseNode(text), entity, tables);
  });
  const search = read('search', parseSearchTerms);
  const order = read('orderby', parseOrder);
  const sort = order && reading('$orderby', problems, () => sortedBy(order, made, entity, tables));
  if (made !== undefined) refuseOfRows(options, problems);
  const condition = and([applied?.filter, filter].filter((one) => one !== undefined));
  const count = read('count', readTruth) ?? false;
  const [top, skip] = [read('top', readNumber), read('skip', readNumber)];
  const page = read('skiptoken', readPageToken);
  const query: Query = {
    ...(made === undefined
      ? { columns: columnsOf(selection).map(named) }
      : {
          group: made.levels.map(({ name }) => termOf({ kind: 'property', name, span: nowhere })),
          aggregate: termsOf(made.aggregates),
        }),
    ...(condition && { filter: condition }),
    ...(search && search.length > 0 && { search }),
    ...(sort && { sort }),
  };
  return {
    texts: {
      selection,
      query,
      count,
      ...(made && { made }),
      ...(top !== undefined && { top }),
      ...(skip !== undefined && { skip }),
      ...(page && { page }),
    },
    problems,
  };
}

/** What is requested by two names is made once. */
function termsOf(aggregates: readonly AppliedAggregate[]): readonly Term[] {
  const terms = aggregates.map(({ expression }) => termOf(expression));
  return [...new Map(terms.map((term) => [term.name, term])).values()];
}

const nowhere = { start: 0, end: 0 };
const named = (name: string): { name: string; span: typeof nowhere } => ({ name, span: nowhere });

/** What is made of rows has neither their columns nor theirs. */
function refuseOfRows(options: Options, problems: Problem[]): void {
  for (const name of ['select', 'expand', 'count'] as const) {
    if (options[name] === undefined || options[name] === 'false') continue;
    const what = `$${name} of what $apply has made`;
    problems.push(...inParameter(`$${name}`, [problem('not-implemented', { what })]));
  }
}

/** An order of rows, or of what was made of them: by what they were grouped by, or by a value's name. */
function sortedBy(
  order: readonly OrderTerm[],
  made: Applied['made'],
  entity: Entity,
  tables: Tables,
): readonly SortTerm[] {
  if (made === undefined) return sortOf(order, entity, tables);
  return order.map((term): SortTerm => {
    const path = term.segments.map(({ name }) => name).join('/');
    const span = {
      start: term.segments[0]?.span.start ?? 0,
      end: term.segments.at(-1)?.span.end ?? 0,
    };
    const nulls = term.descending ? 'last' : 'first';
    const level = made.levels.find((one) => one.path.join('/') === path);
    if (level !== undefined) {
      return { column: { name: level.name, span }, descending: term.descending, nulls };
    }
    const aggregate = made.aggregates.find(({ alias }) => alias === path);
    if (aggregate === undefined) {
      const known = [
        ...made.levels.map((one) => one.path.join('/')),
        ...made.aggregates.map((one) => one.alias),
      ];
      throw new Refusal(problem('not-a-group-sort', { name: path, known: known.join(', ') }, span));
    }
    const { expression } = aggregate;
    const { name } = termOf(expression);
    return { column: { name, span }, descending: term.descending, nulls, expression };
  });
}

function readTruth(text: string): boolean {
  if (text === 'true' || text === 'false') return text === 'true';
  throw new Refusal(
    problem('not-one-of', { allowed: 'true, false' }, { start: 0, end: text.length }),
  );
}

const mostRows = 2 ** 53 - 1;

function readNumber(text: string): number {
  const value = /^\d{1,16}$/.test(text) ? Number(text) : NaN;
  if (value <= mostRows) return value;
  const facts = { least: 0, most: mostRows };
  throw new Refusal(problem('not-a-whole-number', facts, { start: 0, end: text.length }));
}

/** `left.after`, or `left.~skipped`; what is left may be missing. */
export function printPageToken({ left, after, skipped }: PageToken): string {
  return `${left ?? ''}.${skipped === undefined ? (after ?? '') : `~${skipped}`}`;
}

function readPageToken(text: string): PageToken {
  const [, left = '', skipped, after] = /^(\d{0,16})\.(?:~(\d{1,16})|([\w-]+))$/.exec(text) ?? [];
  const at =
    skipped === undefined
      ? after === undefined
        ? undefined
        : { after }
      : { skipped: Number(skipped) };
  if (at === undefined)
    throw new Refusal(problem('malformed-cursor', {}, { start: 0, end: text.length }));
  return { ...(left === '' ? {} : { left: Number(left) }), ...at };
}
