import {
  actionNotAllowed,
  writtenValue,
  type CheckedChange,
  type ExpectedValue,
} from '@ephoros/core/change';
import { selectedRows } from '@ephoros/core/check';
import type { Value } from '@ephoros/core/answer';
import { readJson } from '@ephoros/core/expression';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import type { Catalog, Published } from '../catalog/index.ts';
import { Refused } from '../query/index.ts';
import type { ChangeLog, LoggedEntry, LoggedSet } from '../records/index.ts';

/** A value as the history has it: what is written to restore it, and what it is compared with. */
interface KnownValue {
  /** PostgreSQL's text; undefined where an older entry has none that can be read any more. */
  readonly text: string | null | undefined;
  readonly readValue: ExpectedValue;
}

type KnownValues = ReadonlyMap<string, KnownValue>;

/** What a set did to one row, taken together. */
interface RowStory {
  readonly published: Published;
  /** The values before the set; undefined where it added the row. */
  readonly before: KnownValues | undefined;
  /** The values after the set; undefined where it removed the row. */
  readonly after: KnownValues | undefined;
  /** The address of the row after the set, or the last one that it had. */
  readonly key: string;
}

/** The set is not there for the caller, or not any more. */
export function unknownSet(): Refused {
  return new Refused(inParameter('id', [problem('unknown-change-set', {})]));
}

/**
 * The changes that undo a set: for each row one, whatever the set did to it, the last row first. Each
 * applies where the row is as the set left it. @throws Refused
 */
export async function undoing(
  set: LoggedSet,
  entries: readonly LoggedEntry[],
  log: ChangeLog,
  catalog: Catalog,
): Promise<readonly CheckedChange[]> {
  if (entries.length === 0) throw unknownSet();
  const stories = storiesOf(entries, catalog);
  const changes: CheckedChange[] = [];
  for (const story of [...stories].reverse()) {
    const key = story.after && (await log.keyNow(story.published.description.name, story.key, set));
    const change = inverseOf(story, key, changes.length);
    if (change !== undefined) changes.push(change);
  }
  return changes;
}

/** The entries of a set by row, in the order in which each row was changed last. @throws Refused */
function storiesOf(entries: readonly LoggedEntry[], catalog: Catalog): readonly RowStory[] {
  const stories = new Map<string, RowStory>();
  for (const entry of entries) {
    const published = catalog.tables.get(entry.table);
    if (published === undefined) throw unknownSet();
    // The database makes this change again by itself.
    if (entry.rule === 'update cascade') continue;
    const { before, after } = valuesOf(entry, published);
    const place = (key: string): string => JSON.stringify([entry.table, key]);
    const earlier = stories.get(place(entry.keyBefore ?? entry.key));
    stories.delete(place(entry.keyBefore ?? entry.key));
    stories.set(place(entry.key), {
      published,
      before: earlier === undefined ? before : earlier.before && first(earlier.before, before),
      after: after && last(earlier?.after, after),
      key: entry.key,
    });
  }
  return [...stories.values()];
}

/** The values that a row had first. */
function first(earlier: KnownValues, later: KnownValues | undefined): KnownValues {
  return new Map([...(later ?? []), ...earlier]);
}

/** The values that a row had last. */
function last(earlier: KnownValues | undefined, later: KnownValues): KnownValues {
  return new Map([...(earlier ?? []), ...later]);
}

/** @throws Refused where the entry does not have them */
function valuesOf(
  entry: LoggedEntry,
  published: Published,
): { readonly before: KnownValues | undefined; readonly after: KnownValues | undefined } {
  const { kind, table, before, after } = entry;
  const lacksBefore = kind !== 'add' && before === null;
  const lacksAfter = kind !== 'remove' && after === null;
  if (lacksBefore || lacksAfter) throw new Refused([problem('cannot-undo', { table })]);
  const columns = (published.writing?.whole ?? published.description).columns;
  const read = (text: string | null): KnownValues | undefined =>
    text === null ? undefined : knownValues(text, entry.notation, columns);
  return { before: read(before), after: read(after) };
}

function knownValues(
  text: string,
  notation: LoggedEntry['notation'],
  columns: readonly ColumnDescription[],
): KnownValues {
  if (notation === 'postgres') {
    const texts = JSON.parse(text) as Readonly<Record<string, string | null>>;
    return new Map(
      Object.entries(texts).map(([name, value]) => [
        name,
        { text: value, readValue: { exact: value } },
      ]),
    );
  }
  const node = readJson(text, 400);
  const members = node.kind === 'object' ? [...node.members] : [];
  return new Map(
    members.map(([name, { span }]): [string, KnownValue] => {
      const answered = text.slice(span.start, span.end);
      const type = columns.find((column) => column.name === name)?.type;
      const read =
        type === undefined
          ? undefined
          : writtenValue(JSON.parse(answered) as Value, type, answered);
      return [
        name,
        {
          text: read !== undefined && 'text' in read ? read.text : undefined,
          readValue: { answered },
        },
      ];
    }),
  );
}

/** The change that restores a row; undefined where nothing is left to be done. @throws Refused */
function inverseOf(
  { published, before, after, key: address }: RowStory,
  keyNow: string | undefined,
  at: number,
): CheckedChange | undefined {
  const { description, writing } = published;
  const { name } = description;
  const whole = writing?.whole;
  const allow = (action: 'add' | 'change' | 'remove'): TableDescription => {
    if (whole === undefined || description.changes?.[action] !== true) {
      throw new Refused([actionNotAllowed(action, name)]);
    }
    return whole;
  };
  const row = (now: KnownValues, names?: readonly string[]) => ({
    key: keyParts(keyNow ?? address, description),
    address: keyNow ?? address,
    was: new Map(
      [...now]
        .filter(([column]) => isColumn(whole, column) && names?.includes(column) !== false)
        .map(([column, { readValue }]) => [column, readValue]),
    ),
  });
  if (before === undefined) {
    if (after === undefined) return undefined;
    return { kind: 'remove', at, table: allow('remove'), ...row(after) };
  }
  if (after === undefined) {
    const table = allow('add');
    const values = [...before].filter(([column]) => columnOf(table, column)?.writing?.add === true);
    return { kind: 'add', at, table, values: textsOf(values, name) };
  }
  const table = allow('change');
  const changed = [...before].filter(([column, { text }]) => after.get(column)?.text !== text);
  if (changed.length === 0) return undefined;
  const writable = changed.filter(([column]) => {
    // What the database computes follows from the rest.
    if (columnOf(table, column)?.writing === undefined) return false;
    if (columnOf(description, column)?.writing?.change === true) return true;
    throw new Refused([problem('column-not-writable', { name: column })]);
  });
  const names = writable.map(([column]) => column);
  return { kind: 'change', at, table, ...row(after, names), values: textsOf(writable, name) };
}

function columnOf(table: TableDescription, name: string): ColumnDescription | undefined {
  return table.columns.find((column) => column.name === name);
}

function isColumn(table: TableDescription | undefined, name: string): boolean {
  return table !== undefined && columnOf(table, name) !== undefined;
}

/** @throws Refused where a value cannot be read any more */
function textsOf(
  values: readonly (readonly [string, KnownValue])[],
  table: string,
): ReadonlyMap<string, string | null> {
  return new Map(
    values.map(([name, { text }]) => {
      if (text === undefined) throw new Refused([problem('cannot-undo', { table })]);
      return [name, text];
    }),
  );
}

const noSpan = { start: 0, end: 0 };

/** The parts of a key in PostgreSQL's notation. @throws Refused */
export function keyParts(address: string, description: TableDescription): readonly string[] {
  const problems: Problem[] = [];
  const read = selectedRows([{ key: address, span: noSpan }], description, noSpan, problems);
  const [parts] = read?.keys ?? [];
  if (parts === undefined) throw new Refused(inParameter('key', problems));
  return parts.map(({ value }) => value);
}
