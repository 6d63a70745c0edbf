import { JsonText } from '@ephoros/core/answer';
import { and, readJson, type Expression } from '@ephoros/core/expression';
import {
  edmTypeOf,
  placesOfJson,
  printPageToken,
  printPlaced,
  printValue,
  rowPrinter,
  selectedIn,
  type QueryOptionTexts,
  type ValueForm,
} from '@ephoros/core/odata';
import type { Problem } from '@ephoros/core/problem';
import { matchPart, termOf, type Query } from '@ephoros/core/query';
import type { TableAnswers } from '../engine/index.ts';
import type { Parameters } from '../query/index.ts';

/** What answers are written by. */
export interface Answering {
  readonly table: TableAnswers;
  readonly form: ValueForm;
  /** Rows of a page at most. */
  readonly pageSize: number;
  /** The address of `$metadata`; undefined where no context is wanted. */
  readonly metadata: string | undefined;
  /** The address of the next page by its token. */
  readonly pageAt: (token: string) => string;
}

interface Requested {
  readonly texts: QueryOptionTexts;
  readonly condition: Expression | undefined;
  readonly context: string;
  /** Reported with those of the question itself. */
  readonly problems: readonly Problem[];
}

/** A page of rows, or of what is made of them, as JSON. @throws Refused, Failure */
export async function collectionJson(wanted: Requested, answering: Answering): Promise<string> {
  const { texts } = wanted;
  return texts.made === undefined
    ? rowsJson(wanted, answering)
    : madeJson({ ...wanted, made: texts.made }, answering);
}

async function rowsJson(wanted: Requested, answering: Answering): Promise<string> {
  const { texts, condition, context, problems } = wanted;
  const { table, form, pageSize } = answering;
  const { selection, top, skip = 0, page, count } = texts;
  const left = page === undefined ? top : page.left;
  const limit = Math.min(pageSize, left ?? Infinity);
  const query: Query = {
    ...withCondition(texts.query, condition),
    ...placeOf(page?.after, skip),
    // Of no rows at all the errors are reported all the same.
    limit: Math.max(1, limit),
    total: count ? 'exact' : 'none',
    shape: 'arrays',
  };
  const answer = await table.rows(parametersOf(query, problems));
  const { total: known, totalKind } = answer.window;
  // Counted to the last, however long that takes.
  const isCounted = known !== null && totalKind === 'exact';
  const total = count ? (isCounted ? known : await countOf(wanted, answering)) : undefined;
  const read = rowsIn(answer.rows, selection);
  const print = rowPrinter(selection, form);
  const rows = limit === 0 ? [] : read.map((row) => print((place) => row[place]));
  const still = left === undefined ? undefined : left - rows.length;
  const isDone = answer.next === null || limit === 0 || still === 0;
  const token = isDone
    ? undefined
    : printPageToken({ ...(still === undefined ? {} : { left: still }), after: answer.next });
  return wrapped(rows, { context: context + selectedIn(selection), total, token }, answering);
}

/** How many rows match, exactly. @throws Refused, Failure */
export async function countOf(
  { texts, condition, problems }: Omit<Requested, 'context'>,
  { table }: Pick<Answering, 'table'>,
): Promise<number> {
  const query = matchPart(withCondition(texts.query, condition));
  const { values } = await table.aggregates(parametersOf(query, problems));
  return Number(plain(Object.values(values)[0]));
}

/** One row as JSON; undefined where there is none. */
export async function entityJson(
  { texts, condition, context, problems }: Requested,
  { table, form, metadata }: Answering,
): Promise<string | undefined> {
  const { selection } = texts;
  const query: Query = {
    ...withCondition(texts.query, condition),
    limit: 1,
    total: 'none',
    shape: 'arrays',
  };
  const { rows } = await table.rows(parametersOf(query, problems));
  const [row] = rowsIn(rows, selection);
  if (row === undefined) return undefined;
  const [set = '', kind] = context.split('/');
  const whole = `${set}${selectedIn(selection)}${kind === undefined ? '' : `/${kind}`}`;
  const lead = metadata === undefined ? undefined : contextMember(metadata, whole);
  return rowPrinter(selection, form)((place) => row[place], lead);
}

/** What is made of rows: groups with their values, or one line of all. */
async function madeJson(
  {
    texts,
    made,
    condition,
    problems,
    context,
  }: Requested & { readonly made: NonNullable<QueryOptionTexts['made']> },
  answering: Answering,
): Promise<string> {
  const { table, form, pageSize } = answering;
  const query = withCondition(texts.query, condition);
  const { top, skip = 0, page } = texts;
  const names = [
    ...made.levels.map(({ path }) => path.join('/')),
    ...made.aggregates.map(({ alias }) => alias),
  ];
  const parts = { context: `${context}(${names.join(',')})`, total: undefined };
  if (made.levels.length === 0) {
    const { values, aggregates } = await table.aggregates(parametersOf(query, problems));
    const line = made.aggregates.map(({ alias, expression }) => {
      const { name } = termOf(expression);
      const type = aggregates.find((one) => one.name === name)?.type ?? { kind: 'text' as const };
      return { path: [alias], value: plain(values[name]), type: edmTypeOf(type) };
    });
    const isWanted = top !== 0 && skip === 0;
    return wrapped(
      isWanted ? [printPlaced(line, form)] : [],
      { ...parts, token: undefined },
      answering,
    );
  }
  const offset = page?.skipped ?? skip;
  const left = page === undefined ? top : page.left;
  const limit = Math.min(pageSize, left ?? Infinity);
  const windowed: Query = { ...query, ...placeOf(undefined, offset) };
  const found = await table.groupTable(parametersOf(windowed, problems), limit + 1);
  const typeOf = (name: string): ReturnType<typeof edmTypeOf> => {
    const column = found.columns.find((one) => one.name === name);
    return edmTypeOf(column?.type ?? { kind: 'text' });
  };
  const rows = found.rows.slice(0, limit).map((row) => {
    const levels = made.levels.map(({ path, name }) => {
      const term = termOf({ kind: 'property', name, span: { start: 0, end: 0 } }).name;
      return { path, value: row[term], type: typeOf(term) };
    });
    const aggregates = made.aggregates.map(({ alias, expression }) => {
      const { name } = termOf(expression);
      return { path: [alias], value: row[name], type: typeOf(name) };
    });
    return printPlaced([...levels, ...aggregates], form);
  });
  const still = left === undefined ? undefined : left - rows.length;
  const isDone = found.rows.length <= limit || still === 0;
  const token = isDone
    ? undefined
    : printPageToken({
        ...(still === undefined ? {} : { left: still }),
        skipped: offset + rows.length,
      });
  return wrapped(rows, { ...parts, token }, answering);
}

function wrapped(
  rows: readonly string[],
  {
    context,
    total,
    token,
  }: {
    readonly context: string;
    readonly total: number | undefined;
    readonly token: string | undefined;
  },
  { metadata, pageAt, form }: Answering,
): string {
  const members = [
    ...(metadata === undefined ? [] : [contextMember(metadata, context)]),
    ...(total === undefined
      ? []
      : [`"@odata.count":${printValue(total, edmTypeOf({ kind: 'integer', bits: 64 }), form)}`]),
    `"value":[${rows.join(',')}]`,
    ...(token === undefined ? [] : [`"@odata.nextLink":${JSON.stringify(pageAt(token))}`]),
  ];
  return `{${members.join(',')}}`;
}

export function contextMember(metadata: string, fragment: string): string {
  return `"@odata.context":${JSON.stringify(`${metadata}#${fragment}`)}`;
}

function withCondition(query: Query, condition: Expression | undefined): Query {
  const filter = and([condition, query.filter].filter((one) => one !== undefined));
  return { ...query, ...(filter && { filter }) };
}

function placeOf(after: string | undefined, offset: number): Pick<Query, 'place'> {
  if (after !== undefined) return { place: { kind: 'after', token: after } };
  return offset === 0 ? {} : { place: { kind: 'offset', offset } };
}

/** A query that was read already, with what was wrong with it. */
function parametersOf(query: Query, problems: readonly Problem[]): Parameters {
  return { values: {}, problems: [...problems], query };
}

/** The rows of an answer as lists; JSON in them comes as its text, without loss. */
function rowsIn(
  rows: unknown,
  selection: QueryOptionTexts['selection'],
): readonly (readonly unknown[])[] {
  const text = rows instanceof JsonText ? rows.text : JSON.stringify(rows);
  const json = placesOfJson(selection);
  if (json.size === 0) return JSON.parse(text) as unknown[][];
  const node = readJson(text, deepest);
  return (node.kind === 'array' ? node.items : []).map((row) =>
    (row.kind === 'array' ? row.items : []).map(({ kind, span }, place): unknown => {
      const own = text.slice(span.start, span.end);
      return json.has(place) && kind !== 'null' ? own : JSON.parse(own);
    }),
  );
}

/** Levels of JSON in a row at most; PostgreSQL itself reads far fewer. */
const deepest = 10_000;

function plain(value: unknown): unknown {
  return value instanceof JsonText ? (JSON.parse(value.text) as unknown) : value;
}
