import { checkQuery, columnNamed, type CheckedExpression } from '@ephoros/core/check';
import { or, parseExpression } from '@ephoros/core/expression';
import { nearest, type Problem } from '@ephoros/core/problem';
import {
  withReferences,
  type ColumnDescription,
  type TableDescription,
  type TableWriting,
  type Tables,
} from '@ephoros/core/schema';
import { onlyRows, type RowPolicy } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import {
  remarksOf,
  withOpening,
  type Catalog,
  type Published,
  type TableChanges,
} from '../catalog/index.ts';
import { AccessError, ClaimsUnfit, type Access, type TableAccess } from './access.ts';
import { addedUp, changedFor, type Shown, type Sum } from './add-up.ts';

/** The tables as some callers see them, whatever rows they see. */
interface Shape {
  readonly tables: ReadonlyMap<string, Published>;
  readonly describe: Tables;
}

const mostShapes = 500;
const shapes = new WeakMap<Catalog, LRUCache<string, Shape>>();

/**
 * The catalog as a caller may see it. What is hidden is not in it, so that nothing that reads a
 * catalog can tell that it is there; rows come through the rules wherever they are read.
 * @throws AccessError
 */
export function restrict(catalog: Catalog, access: Access): Catalog {
  if (access.tables === 'all') return catalog;
  const sums = shownOf(catalog, access);
  const { tables, describe } = shapeOf(catalog, sums);
  const rules = rulesFor(access, catalog, sums);
  const locate = onlyRows(catalog.locate, rules);
  const visible: Catalog = {
    title: catalog.title,
    limits: catalog.limits,
    tables,
    describe,
    locate: (table) => {
      if (!tables.has(table)) throw new Error(`no table ${table} is to be seen`);
      return locate(table);
    },
    typeOf: catalog.typeOf,
    referring: catalog.referring,
    whole: catalog.whole,
    isWritableKnown: catalog.isWritableKnown,
    unicode: catalog.unicode,
    fingerprint: catalog.fingerprint,
    restricted: !isAll(catalog, sums),
    ruled: rules.size > 0,
  };
  const partly = new Map(
    [...sums].map(([name, { shown }]) => [name, new Set(shown.cells.keys())] as const),
  );
  if ([...sums.values()].every(({ shown, altering: [widest] }) => shown === widest)) return visible;
  const changing = (needed: ReadonlyMap<string, TableChanges>): Catalog => {
    const changed = new Map(
      [...sums].map(([name, sum]) => {
        const part = changedFor(sum, needed.get(name) ?? nothing);
        return [name, { shown: part, altering: [part] as const }];
      }),
    );
    return {
      ...visible,
      ...shapeOf(catalog, changed),
      locate: onlyRows(catalog.locate, rulesFor(access, catalog, changed)),
      changing,
    };
  };
  return { ...visible, partly, changing };
}

const nothing: TableChanges = { add: [], change: [], remove: false };

/** What of each table a caller sees, and what of that changes go by. @throws AccessError */
export function shownOf(catalog: Catalog, { tables: named, rest }: Access): Sums {
  if (named === 'all') return sumsOf(catalog, validated(restOf(catalog, {}, {})));
  // Programs in JavaScript leave out, or misspell, what the types ask for: then nothing is shown.
  const given = validated(isRecord(named) ? named : {});
  const others = rest === undefined ? {} : validated(restOf(catalog, named, rest));
  return sumsOf(catalog, { ...others, ...given });
}

function isRecord(named: unknown): named is Exclude<Access['tables'], 'all'> {
  return typeof named === 'object' && named !== null;
}

type Given = Readonly<Record<string, readonly TableAccess[]>>;

function restOf(
  { tables }: Catalog,
  named: object,
  rest: TableAccess,
): Exclude<Access['tables'], 'all'> {
  const others = [...tables.keys()].filter((name) => !Object.hasOwn(named, name));
  return Object.fromEntries(others.map((name) => [name, rest]));
}

/** Whether every table is shown whole. */
function isAll({ tables }: Catalog, sums: Sums): boolean {
  return [...tables].every(([name, { description }]) => {
    const shown = sums.get(name)?.shown;
    return (
      shown !== undefined &&
      shown.rows === undefined &&
      shown.cells.size === 0 &&
      shown.columns.size === description.columns.length
    );
  });
}

/** A member that is named and has no value is an error: without it more would be visible. */
function validated(named: Exclude<Access['tables'], 'all'>): Given {
  const sound: Record<string, readonly TableAccess[]> = {};
  for (const [table, access] of Object.entries(named)) {
    // Programs in JavaScript write what the types do not allow.
    if (access !== true && (typeof access !== 'object' || (access as unknown) === null)) continue;
    const parts: readonly unknown[] =
      access === true ? [{}] : Array.isArray(access) ? access : [access];
    for (const part of parts) {
      for (const [name, value] of Object.entries(part ?? { part })) {
        if (value !== undefined && value !== null) continue;
        throw new AccessError(`The rules of access name ${name} of ${table}, but it is ${value}.`);
      }
    }
    // Of nothing nothing is shown.
    if (parts.length > 0) sound[table] = parts as readonly TableAccess[];
  }
  return sound;
}

type Sums = ReadonlyMap<string, Sum>;

/** @throws AccessError for names that there are not */
function sumsOf(catalog: Catalog, given: Given): Sums {
  const sums = new Map<string, Sum>();
  for (const [name, parts] of Object.entries(given)) {
    const table = catalog.tables.get(name)?.description;
    if (table === undefined) throw unknown('table', name, catalog.tables.keys());
    const known = table.columns.map((column) => column.name);
    for (const { columns = [], hidden = [], changes } of parts) {
      const change = changes === false ? undefined : changes?.change;
      for (const column of [...columns, ...hidden, ...(typeof change === 'object' ? change : [])]) {
        if (!known.includes(column)) throw unknown(`column of ${name}`, column, known);
      }
    }
    sums.set(name, addedUp(known, parts));
  }
  return sums;
}

/** Made once for all callers who see the same columns: descriptions are remembered by identity. */
function shapeOf(catalog: Catalog, sums: Sums): Shape {
  const known = shapes.get(catalog) ?? new LRUCache<string, Shape>({ max: mostShapes });
  shapes.set(catalog, known);
  const key = JSON.stringify(
    [...sums].map(([name, { shown }]) => [
      name,
      [...shown.columns],
      [...shown.cells.keys()],
      shown.rows !== undefined,
      shown.changes,
    ]),
  );
  const made = known.get(key) ?? shape(catalog, sums);
  known.set(key, made);
  return made;
}

function shape(catalog: Catalog, sums: Sums): Shape {
  const visible = new Map(
    [...catalog.tables].flatMap(([name, published]): [string, Published][] => {
      const sum = sums.get(name);
      if (sum === undefined) return [];
      const description = withColumns(published.description, sum.shown);
      return [[name, { ...published, description }]];
    }),
  );
  // Relationships need the columns of both sides; what is searched, those of related tables.
  for (const [name, published] of visible) {
    const description = withRelationships(published.description, visible);
    visible.set(name, { ...published, description });
  }
  const describe: Tables = (table) => visible.get(table)?.description;
  for (const [name, published] of visible) {
    const { description } = published;
    const search = description.search.filter(
      (column) => columnNamed(column, description, describe) !== undefined,
    );
    const described = withReferences({ ...description, search }, describe);
    // What speaks of columns that are not seen is not reported either.
    const opened = withOpening(described, described, describe);
    visible.set(name, { ...published, description: opened });
  }
  return { tables: visible, describe };
}

function withColumns(table: TableDescription, shown: Shown): TableDescription {
  const columns = table.columns.filter(({ name }) => shown.columns.has(name));
  const there = new Set(columns.map(({ name }) => name));
  // What is null in some rows addresses none.
  const isKey = table.key.every((name) => there.has(name) && !shown.cells.has(name));
  const key = isKey ? table.key : [];
  const { label, sections, changes: _changes, ...rest } = table;
  const may = changesOf(table, key, shown);
  const visibleSections = sections
    ?.map((one) => ({ ...one, columns: one.columns.filter((name) => there.has(name)) }))
    .filter((one) => one.columns.length > 0);
  return {
    ...rest,
    ...(visibleSections === undefined ? {} : { sections: visibleSections }),
    ...(label !== undefined && there.has(label) ? { label } : {}),
    columns: columns.map((column) => {
      const own = narrowed(column, may === undefined ? noChange : shown);
      return shown.cells.has(column.name) ? inSomeRows(own) : own;
    }),
    ...(may === undefined ? {} : { changes: may }),
    key,
    remarks: remarksOf(key),
    defaultSort: table.defaultSort.filter(({ column }) => there.has(column)),
    // What the planner knows, it knows of all rows.
    estimatedRows: shown.rows === undefined ? table.estimatedRows : null,
  };
}

/** A column that is null in the rows in which it is not shown: its comment says so. */
function inSomeRows({ comment, ...column }: ColumnDescription): ColumnDescription {
  const message = 'Shown in some of the rows only: in others it is empty for you.';
  return {
    ...column,
    nullable: true,
    indexed: false,
    comment: comment === undefined ? message : `${comment} ${message}`,
  };
}

/** What the caller may change of what can be changed at all. */
function changesOf(
  table: TableDescription,
  key: readonly string[],
  changed: Shown,
): TableWriting | undefined {
  const { changes: allowed } = table;
  const { changes: own } = changed;
  if (allowed === undefined || own === false || key.length === 0) return undefined;
  // What must have a value and is hidden could be given none.
  const whole = table.columns.every(
    ({ name, writing }) => writing?.required !== true || own.add.includes(name),
  );
  const kinds = {
    add: allowed.add && own.add.length > 0 && whole,
    change:
      allowed.change &&
      table.columns.some((column) => narrowed(column, changed).writing?.change === true),
    remove: allowed.remove && own.remove,
  };
  return kinds.add || kinds.change || kinds.remove ? { ...allowed, ...kinds } : undefined;
}

const noChange = { changes: false, columns: new Set<string>() } as const;

function narrowed(
  column: ColumnDescription,
  { changes, columns }: Pick<Shown, 'changes' | 'columns'>,
): ColumnDescription {
  if (column.writing === undefined) return column;
  const { writing, ...rest } = column;
  const { add, change, required, ...others } = writing;
  const own = columns.has(column.name) ? changes : false;
  const adds = add === true && own !== false && own.add.includes(column.name);
  const alters = change === true && own !== false && own.change.includes(column.name);
  if (!adds && !alters) return rest;
  return {
    ...rest,
    writing: {
      ...others,
      ...(adds ? { add: true, ...(required && { required }) } : {}),
      ...(alters ? { change: true } : {}),
    },
  };
}

function withRelationships(
  table: TableDescription,
  visible: ReadonlyMap<string, Published>,
): TableDescription {
  const has = (name: string, columns: readonly string[]): boolean => {
    const there = visible.get(name)?.description.columns ?? [];
    return columns.every((column) => there.some((one) => one.name === column));
  };
  const relationships = table.relationships.filter(
    ({ table: other, columns, references }) =>
      visible.has(other) && has(table.name, columns) && has(other, references),
  );
  return { ...table, relationships };
}

/** The rules of roles were found right at the start: what does not fit later is a value of the caller. */
function rulesFor({ about }: Access, catalog: Catalog, sums: Sums): ReadonlyMap<string, RowPolicy> {
  try {
    return rulesOf(catalog, sums);
  } catch (thrown) {
    if (about === undefined || !(thrown instanceof AccessError)) throw thrown;
    throw new ClaimsUnfit(thrown.message);
  }
}

/** Rules are the program's own: they are checked against the whole tables. */
function rulesOf(catalog: Catalog, sums: Sums): ReadonlyMap<string, RowPolicy> {
  const rules = new Map<string, RowPolicy>();
  for (const [name, { shown }] of sums) {
    const table = catalog.describe(name);
    if (table === undefined || (shown.rows === undefined && shown.cells.size === 0)) continue;
    const cells = [...shown.cells].map(
      ([column, texts]) => [column, conditionOf(catalog, table, texts)] as const,
    );
    rules.set(name, {
      rows: shown.rows && conditionOf(catalog, table, shown.rows),
      cells: new Map(cells),
    });
  }
  return rules;
}

/** The condition that a row meets one of the texts. @throws AccessError */
function conditionOf(
  { limits, describe, unicode }: Catalog,
  table: TableDescription,
  texts: readonly string[],
): CheckedExpression {
  const options = { tables: describe, unicode };
  const refused = (problems: readonly Problem[]): AccessError => {
    const note = problems.map(({ message }) => message).join(' ');
    return new AccessError(`The row rule of ${table.name} cannot be used: ${note}`);
  };
  const operands = texts.map((text) => {
    const parsed = parseExpression(text, limits);
    if ('problems' in parsed) throw refused(parsed.problems);
    return parsed.expression;
  });
  const filter = or(operands);
  const checked = checkQuery({ ...(filter && { filter }) }, table, options);
  if ('problems' in checked) throw refused(checked.problems);
  const { filter: condition } = checked.checked;
  if (condition === undefined) throw new AccessError(`The row rule of ${table.name} is empty.`);
  return condition;
}

function unknown(what: string, name: string, known: Iterable<string>): AccessError {
  const near = nearest(name, known);
  return new AccessError(
    `The rules of access name a ${what} that there is not: ${name}${near === undefined ? '' : `; perhaps ${near}`}`,
  );
}
