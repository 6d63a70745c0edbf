import type { CheckedColumn, CheckedGroupLines, CheckedQuery } from '../check/index.ts';
import { harmlessText, type ColumnType } from '../schema/index.ts';
import { sql, type Bound, type SQL } from './fragment.ts';
import { groupLines } from './group-lines.ts';
import { selectJson } from './json-rows.ts';
import { cursorColumns } from './keyset.ts';
import { limited } from './limit.ts';
import { windowSelect } from './rows.ts';
import type { Relations } from './scope.ts';

/**
 * Rows that the database writes out as text. COPY takes no parameters: the values are set for the transaction by name,
 * and read where they are needed.
 */
export interface CopyStatement {
  readonly settings: readonly (readonly [name: string, value: string])[];
  readonly text: string;
}

/** How rows are written out; `labelled` ones have what their values are called in place of coded values. */
export type CopyForm = { readonly labelled?: boolean } &
  /** A line each, values apart by tabs, as COPY's text format has them: for a program that reads on. */
  (
    | { readonly as: 'text' }
    /** A line of JSON each, just as answers have it. */
    | { readonly as: 'json' }
    /** As a file to be passed over (RFC 4180), without a header. */
    | {
        readonly as: 'csv';
        readonly delimiter: ',' | ';' | '\t' | '|';
        /** Stands for null; an empty field by default. Anyone who calls it has checked it. */
        readonly missing: string;
        /** Whether texts stay as they are that a spreadsheet would compute; else a quote stands before. */
        readonly formulas: boolean;
      }
  );

/** Rows without an end: more than any table has. */
const endless = 2 ** 52;

/**
 * All rows of a query in its order, at most `limit` where that is a number; its own columns alone. Undefined where the
 * database cannot write them in this form: JSON of some types, and of labels.
 */
export function compileCopy(
  query: CheckedQuery,
  limit: number | undefined,
  form: CopyForm,
  relations: Relations,
): CopyStatement | undefined {
  const { cells: _cells, ...uncut } = query;
  const whole: CheckedQuery = { ...uncut, limit: limit ?? endless };
  if (form.as === 'json') {
    const coded = query.columns.some((column) => labelsIn(form, column) !== undefined);
    return coded ? undefined : copyJson(whole, relations);
  }
  const all = [...query.columns, ...cursorColumns(whole)];
  const window = windowSelect(whole, whole.limit, relations);
  return copyOf(window, all.length, query.columns, form);
}

/** All groups of a grouping as lines; see `compileCopy`. Of folded ones how many levels lie above stands behind. */
export function compileGroupCopy(
  lines: CheckedGroupLines,
  limit: number | undefined,
  form: CopyForm,
  relations: Relations,
): CopyStatement | undefined {
  if (form.as === 'json') return undefined;
  const { columns, offset } = lines;
  const select = sql`${groupLines(lines, relations)}${limited(limit ?? endless, offset)}`;
  const width = columns.length + 1 + lines.hidden.length;
  const depth = { type: { kind: 'integer', bits: 32 } } as const;
  return copyOf(select, width, lines.folded === true ? [...columns, depth] : columns, form);
}

/** A SELECT whose first columns are written out. */
function copyOf(
  select: SQL,
  width: number,
  columns: readonly Pick<CheckedColumn, 'type' | 'valueLabels'>[],
  form: Exclude<CopyForm, { readonly as: 'json' }>,
): CopyStatement {
  const names = Array.from({ length: width }, (_, index) => sql.raw(`c${index}`));
  const written = columns.map((column, index) => writtenBy(form, column, names[index]));
  const rows = sql`select ${sql.join(written, sql`, `)} from (${select}) r(${sql.join(names, sql`, `)})`;
  const options =
    form.as === 'text'
      ? sql`format text`
      : sql`format csv, delimiter ${sql.literal(form.delimiter)}, null ${sql.literal(form.missing)}`;
  return withSettings(sql`copy (${rows}) to stdout (${options})`);
}

function copyJson(query: CheckedQuery, relations: Relations): CopyStatement | undefined {
  const made = selectJson(query, query.limit, relations);
  if (made === undefined) return undefined;
  const names = ['row', ...made.places.map((_place, index) => `p${index}`)].map(sql.identifier);
  // What is JSON in a column may stand on several lines: between its parts alone, and never within texts.
  const isPlain = query.columns.every(({ type }) => type.kind !== 'json');
  const row = isPlain ? sql`row` : sql`translate(row, E'\n\r', '  ')`;
  // Else JSON text holds no control characters: with these as its signs, CSV leaves each line as it is.
  return withSettings(
    sql`copy (select ${row} from (${made.select}) j(${sql.join(names, sql`, `)})) to stdout (format csv, quote E'\x01', delimiter E'\x02')`,
  );
}

/** A COPY whose values are settings of the transaction, whatever stands in them. */
export function withSettings(statement: SQL): CopyStatement {
  const settings: [string, string][] = [];
  const text = statement.parts
    .map((part) => {
      if (typeof part === 'string') return part;
      const name = `ephoros.v${settings.length}`;
      settings.push([name, settingOf(part.value as Bound)]);
      const read = `current_setting('${name}')`;
      // Text alone goes without saying, as it does of what is bound.
      return typeof part.value === 'number' ? `${read}::int8` : read;
    })
    .join('');
  return { settings, text };
}

function settingOf(value: Bound): string {
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return String(value);
  const members = value.map((one) => `"${one.replaceAll('\\', '\\\\').replaceAll('"', '\\"')}"`);
  return `{${members.join(',')}}`;
}

/** Code points of what begins a formula: tab, LF, CR, + - = @, and the latter in full width. */
const formulaSigns = '9, 10, 13, 43, 45, 61, 64, 65291, 65293, 65309, 65312';
/** As regular expressions of PostgreSQL. */
const number = '[+-]?([0-9]+([.][0-9]*)?|[.][0-9]+)([eE][+-]?[0-9]+)?';
const separator = '[;\\t\\r\\n]';
const innerFormula = `(${separator} *)(?!${number}(${separator}|$))(?=[=+@＝＋－＠-])`;

/** What the values of a column are called, where that is wanted. */
export function labelsIn(
  { labelled = false }: Pick<CopyForm, 'labelled'>,
  { valueLabels = {} }: Pick<CheckedColumn, 'valueLabels'>,
): readonly (readonly [value: string, label: string])[] | undefined {
  const labels = Object.entries(valueLabels);
  return labelled && labels.length > 0 ? labels : undefined;
}

function writtenBy(
  form: CopyForm,
  column: Pick<CheckedColumn, 'type' | 'valueLabels'>,
  value: SQL = sql`null`,
): SQL {
  const labels = labelsIn(form, column);
  if (labels === undefined) return plainlyWritten(form, column.type, value);
  const cases = labels.map(([code, label]) => sql`when ${code} then ${label}`);
  const called = sql`case ${value}::text ${sql.join(cases, sql` `)} else ${value}::text end`;
  return plainlyWritten(form, { kind: 'text' }, sql`(${called})`);
}

function plainlyWritten(form: CopyForm, type: ColumnType, name: SQL): SQL {
  if (form.as !== 'csv') return name;
  if (type.kind === 'boolean') return sql`${name}::text`;
  if (type.kind === 'binary') return sql`translate(encode(${name}, 'base64'), E'\n', '')`;
  if (form.formulas || !mayBeFormula(type)) return name;
  // As `harmlessText` has it.
  const text = type.kind === 'text' && type.databaseType === undefined ? name : sql`${name}::text`;
  const whole = sql`case when ${text} ~ ${sql.raw(`'${separator}'`)} then regexp_replace(${text}, ${sql.raw(`'${innerFormula}'`)}, ${sql.raw(`'\\1'''`)}, 'g') else ${text} end`;
  return sql`case when ascii(${text}) in (${sql.raw(formulaSigns)}) and ${text} !~ ${sql.raw(`'^${number}$'`)} then '''' || ${whole} else ${whole} end`;
}

/** Whether a value of a type may begin as a formula does, beyond what is a number. */
function mayBeFormula(type: ColumnType): boolean {
  if (type.kind === 'enum') return type.values.some((value) => harmlessText(value) !== value);
  return ['text', 'opaque', 'json', 'array'].includes(type.kind);
}
