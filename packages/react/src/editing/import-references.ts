import { keyOfRow, type Client, type Row, type Value } from '@ephoros/client';
import { number, or, property, text as literal, type Expression } from '@ephoros/core/expression';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { plainText } from '../format/value.ts';
import type { RequestClient } from '../records/request-client.ts';
import { referenceOf, type Reference } from './references.ts';
import { valueTyped } from './value-text.ts';

/** The rows of another table that a text may mean, by its name or its key. */
export type FoundKeys = ReadonlyMap<string, readonly Value[]>;

/** A column that refers to rows of one other table, which a file may name. */
export interface NamedReference extends Reference {
  /** The column of the other table that is shown in place of the key. */
  readonly name: string;
  /** The column of the other table that the reference holds. */
  readonly key: ColumnDescription;
}

/** Texts that are looked up by one request. */
const inRequest = 50;
const pageSize = 500;
const span = { start: 0, end: 0 };
/** Types of keys that a text of a file can be compared with. */
const keyKinds: ReadonlySet<string> = new Set(['integer', 'numeric', 'text', 'enum', 'uuid']);

/** The reference of a column whose rows can be looked up by name; undefined for other columns. */
export function namedReference(
  column: ColumnDescription,
  table: TableDescription,
  client: RequestClient | undefined,
): NamedReference | undefined {
  const reference = referenceOf(column, table, client);
  if (reference === undefined) return undefined;
  const { step, other } = reference;
  const name = column.shownAs?.slice(step.name.length + 1) ?? '';
  const key = other.columns.find((one) => one.name === step.references[0]);
  const isOwn = other.columns.some((one) => one.name === name);
  const isFound = key !== undefined && keyKinds.has(key.type.kind);
  return isFound && isOwn ? { ...reference, name, key } : undefined;
}

/**
 * The keys of the rows that texts mean: each by the name or the key that it is. A text without an
 * entry was looked up and not found.
 */
export async function findKeys(
  texts: readonly string[],
  reference: NamedReference,
  rows: Client['rows'],
  zone: string,
  signal: AbortSignal,
): Promise<FoundKeys> {
  const found = new Map<string, Value[]>();
  for (let at = 0; at < texts.length; at += inRequest) {
    const requests = texts.slice(at, at + inRequest);
    for (const row of await rowsNamed(requests, reference, rows, zone, signal)) {
      const key = row[reference.key.name] ?? null;
      const own = new Set([plainText(row[reference.name] ?? null), plainText(key)]);
      for (const text of requests) {
        const typed = valueTyped(text, reference.key, zone);
        if (!own.has(text) && plainText(typed) !== plainText(key)) continue;
        const keys = found.get(text) ?? [];
        if (!keys.some((one) => plainText(one) === plainText(key))) keys.push(key);
        found.set(text, keys);
      }
    }
  }
  return found;
}

async function rowsNamed(
  texts: readonly string[],
  { other, name, key }: NamedReference,
  rows: Client['rows'],
  zone: string,
  signal: AbortSignal,
): Promise<readonly Row[]> {
  const keys = texts.flatMap((text) => keyLiteral(text, key, zone) ?? []);
  const among = (column: string, members: readonly Expression[]): Expression[] =>
    members.length === 0 ? [] : [{ kind: 'in', operand: property(column), members, span }];
  const nameColumn = other.columns.find((one) => one.name === name);
  const names = nameColumn?.type.kind === 'text' ? texts.map((text) => literal(text)) : [];
  const conditions = [...among(name, names), ...among(key.name, keys)];
  const filter = or(conditions);
  if (filter === undefined) return [];
  const columns = [...new Set([name, key.name, ...other.key])];
  const all: Row[] = [];
  let after: string | null | undefined;
  do {
    const answer = await rows(
      other.name,
      {
        columns: columns.map((one) => ({ name: one, span })),
        filter,
        limit: pageSize,
        total: 'none',
        ...(after != null && { place: { kind: 'after', token: after } }),
      },
      signal,
    );
    all.push(...answer.rows);
    after = answer.next;
  } while (after != null);
  // By their keys: a view may have none.
  return [...new Map(all.map((row, at) => [keyOfRow(row, other.key) ?? at, row])).values()];
}

/** A text as a value of the key in a filter; undefined where it is none. */
function keyLiteral(text: string, key: ColumnDescription, zone: string): Expression | undefined {
  const typed = valueTyped(text, key, zone);
  switch (key.type.kind) {
    case 'integer': {
      const most = { 16: 4, 32: 9, 64: 18 }[key.type.bits];
      const isKey = /^-?\d+$/.test(plainText(typed)) && plainText(typed).length <= most;
      return isKey ? number(plainText(typed)) : undefined;
    }
    case 'numeric':
      return /^-?\d+(\.\d+)?$/.test(plainText(typed)) ? number(plainText(typed)) : undefined;
    case 'text':
    case 'enum':
      return literal(text);
    case 'uuid':
      return /^[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}$/i.test(text) ? literal(text) : undefined;
    default:
      return undefined;
  }
}
