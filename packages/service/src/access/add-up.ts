import type { ChangeAccess, TableAccess } from './access.ts';

/** What is shown of a table: some columns of some rows, and of some of the columns not all of these. */
export interface Shown {
  /** A row is there that meets one of these texts; every row where it is undefined. */
  readonly rows: readonly string[] | undefined;
  readonly columns: ReadonlySet<string>;
  /** Columns that are null but in rows that meet one of the texts. */
  readonly cells: ReadonlyMap<string, readonly string[]>;
  readonly changes: Changes | false;
}

/** What may be changed: the columns of new rows, none where no rows may be added; those of rows that are there. */
interface Changes {
  readonly add: readonly string[];
  readonly change: readonly string[];
  readonly remove: boolean;
}

/** What a caller sees of a table, and what of that its changes go by: less, where several parts add up. */
export interface Sum {
  readonly shown: Shown;
  readonly changed: Shown;
}

/** What several parts of a table show together: never a value that none of them shows. */
export function addedUp(known: readonly string[], parts: readonly TableAccess[]): Sum {
  const all = parts.map((part) => shownBy(known, part));
  const [first] = all;
  if (first === undefined) throw new TypeError('nothing is shown of a table without a part');
  if (all.length === 1) return { shown: first, changed: first };
  const rows = eitherOf(all);
  const columns = new Set(known.filter((name) => all.some((one) => one.columns.has(name))));
  const cells = new Map<string, readonly string[]>();
  for (const name of columns) {
    const own = eitherOf(all.filter((one) => one.columns.has(name)));
    if (own !== undefined && !isSame(own, rows)) cells.set(name, own);
  }
  const altering = all.filter(({ changes }) => changes !== false);
  const changing = altering.length === 0 ? undefined : altering.reduce(joined);
  const shown = { rows, columns, cells, changes: changing?.changes ?? false };
  const isWhole =
    changing === undefined ||
    (cells.size === 0 && isSame(changing.rows, rows) && covers(changing.columns, columns));
  return { shown, changed: isWhole ? shown : changing };
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
): Changes {
  const changed = change ?? all;
  return {
    add: (add ?? all) ? [...names] : [],
    change: typeof changed === 'object' ? changed : changed ? [...names] : [],
    remove: remove ?? all,
  };
}

/**
 * What two parts let change together, where that can be said by one condition and one list of columns: more than
 * either would else be allowed. Where it cannot, the first counts.
 */
function joined(one: Shown, other: Shown): Shown {
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
    : one;
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
