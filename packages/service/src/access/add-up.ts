import type { TableChanges } from '../catalog/index.ts';
import type { ChangeAccess, TableAccess } from './access.ts';

/** What is shown of a table: some columns of some rows, and of some of the columns not all of these. */
export interface Shown {
  /** A row is there that meets one of these texts; every row where it is undefined. */
  readonly rows: readonly string[] | undefined;
  readonly columns: ReadonlySet<string>;
  /** Columns that are null but in rows that meet one of the texts. */
  readonly cells: ReadonlyMap<string, readonly string[]>;
  readonly changes: TableChanges | false;
}

/** What a caller sees of a table, and what of that may be changed. */
export interface Sum {
  readonly shown: Shown;
  /** Parts that let rows be changed, none of them within another one; at least one, if only for reading. */
  readonly altering: readonly [Shown, ...Shown[]];
}

/** What several parts of a table show together: never a value that none of them shows. */
export function addedUp(known: readonly string[], parts: readonly TableAccess[]): Sum {
  const all = parts.map((part) => shownBy(known, part));
  const [first] = all;
  if (first === undefined) throw new TypeError('nothing is shown of a table without a part');
  if (all.length === 1) return { shown: first, altering: [first] };
  const rows = eitherOf(all);
  const columns = new Set(known.filter((name) => all.some((one) => one.columns.has(name))));
  const cells = new Map<string, readonly string[]>();
  for (const name of columns) {
    const own = eitherOf(all.filter((one) => one.columns.has(name)));
    if (own !== undefined && !isSame(own, rows)) cells.set(name, own);
  }
  const [widest, ...others] = joined(all.filter(({ changes }) => changes !== false));
  const changes = others.reduce<Shown['changes']>(
    (sum, one) => eitherChange(sum, one.changes),
    widest?.changes ?? false,
  );
  const shown = { rows, columns, cells, changes };
  const isWhole =
    widest === undefined ||
    (others.length === 0 &&
      cells.size === 0 &&
      isSame(widest.rows, rows) &&
      covers(widest.columns, columns));
  return { shown, altering: isWhole ? [shown] : [widest, ...others] };
}

/**
 * By what a table is changed, where that shall be done to it: the rows of all parts that let it be done, and the
 * columns that all of these show. Where none does, the first.
 */
export function changedFor({ altering }: Sum, needed: TableChanges): Shown {
  const those = altering.filter(({ changes }) => allows(changes, needed));
  const [first = altering[0], ...others] = those;
  return others.reduce<Shown>(
    (sum, one) => ({
      rows: eitherOf([sum, one]),
      columns: new Set([...sum.columns].filter((name) => one.columns.has(name))),
      cells: new Map(),
      changes: bothChange(sum.changes, one.changes),
    }),
    first,
  );
}

function shownBy(known: readonly string[], part: TableAccess): Shown {
  const { rows, columns = known, hidden = [], changes = {} } = part;
  const all = part.changes === undefined;
  const names = new Set(columns);
  for (const name of hidden) names.delete(name);
  return {
    rows: rows === undefined ? undefined : [typeof rows === 'string' ? rows : rows.text],
    columns: names,
    cells: new Map(),
    changes: changes !== false ? changesOf(names, changes, all) : false,
  };
}

function changesOf(
  names: ReadonlySet<string>,
  { add, change, remove }: ChangeAccess,
  all: boolean,
): TableChanges {
  const changed = change ?? all;
  return {
    add: (add ?? all) ? [...names] : [],
    change: typeof changed === 'object' ? changed : changed ? [...names] : [],
    remove: remove ?? all,
  };
}

/** The parts, with those put together that can be stated by one condition and one list of columns. */
function joined(parts: readonly Shown[]): readonly Shown[] {
  const made: Shown[] = [];
  for (const part of parts) {
    let whole = part;
    for (const [at, one] of [...made.entries()].reverse()) {
      const both = together(one, whole);
      if (both === undefined) continue;
      whole = both;
      made.splice(at, 1);
    }
    made.push(whole);
  }
  return made;
}

function together(one: Shown, other: Shown): Shown | undefined {
  if (isWithin(other, one)) return one;
  if (isWithin(one, other)) return other;
  if (isSame(one.rows, other.rows)) {
    return {
      ...one,
      columns: new Set([...one.columns, ...other.columns]),
      changes: eitherChange(one.changes, other.changes),
    };
  }
  const alike = covers(one.columns, other.columns) && covers(other.columns, one.columns);
  return alike && allows(one.changes, other.changes) && allows(other.changes, one.changes)
    ? { ...one, rows: eitherOf([one, other]) }
    : undefined;
}

/** Whether all that a part shows and allows another one shows and allows too. */
function isWithin(part: Shown, other: Shown): boolean {
  return (
    (other.rows === undefined || isSame(part.rows, other.rows)) &&
    covers(other.columns, part.columns) &&
    allows(other.changes, part.changes)
  );
}

function allows(one: Shown['changes'], other: Shown['changes']): boolean {
  if (other === false) return true;
  if (one === false) return false;
  return (
    covers(new Set(one.change), new Set(other.change)) &&
    covers(new Set(one.add), new Set(other.add)) &&
    (one.remove || !other.remove)
  );
}

function eitherChange(one: Shown['changes'], other: Shown['changes']): Shown['changes'] {
  if (one === false) return other;
  if (other === false) return one;
  return {
    add: [...new Set([...one.add, ...other.add])],
    change: [...new Set([...one.change, ...other.change])],
    remove: one.remove || other.remove,
  };
}

function bothChange(one: Shown['changes'], other: Shown['changes']): Shown['changes'] {
  if (one === false || other === false) return false;
  return {
    add: one.add.filter((name) => other.add.includes(name)),
    change: one.change.filter((name) => other.change.includes(name)),
    remove: one.remove && other.remove,
  };
}

/** The conditions of which a row meets one, where it is in one of the parts. */
function eitherOf(parts: readonly Pick<Shown, 'rows'>[]): readonly string[] | undefined {
  const texts = new Set<string>();
  for (const { rows } of parts) {
    if (rows === undefined) return undefined;
    for (const text of rows) texts.add(text);
  }
  return [...texts];
}

function isSame(one: readonly string[] | undefined, other: readonly string[] | undefined): boolean {
  if (one === undefined || other === undefined) return one === other;
  return covers(new Set(one), new Set(other)) && covers(new Set(other), new Set(one));
}

function covers(one: ReadonlySet<string>, other: ReadonlySet<string>): boolean {
  return [...other].every((name) => one.has(name));
}
