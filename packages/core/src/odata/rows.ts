import type { EdmType } from './edm.ts';
import type { Selection } from './selection.ts';
import { printValue, type ValueForm } from './value.ts';

/** The columns that a selection is made of, each once: its own, those of rows in it, and the keys of these. */
export function columnsOf(selection: Selection): readonly string[] {
  return [...new Set(namesOf(selection, ''))];
}

/** The places of those among them whose values are JSON, and which stand in OData as its text. */
export function placesOfJson(selection: Selection): ReadonlySet<number> {
  const names = new Set(jsonIn(selection, ''));
  return new Set(columnsOf(selection).flatMap((name, place) => (names.has(name) ? [place] : [])));
}

function jsonIn({ properties, expanded }: Selection, prefix: string): readonly string[] {
  const own = properties.filter(({ column }) => column.type.kind === 'json');
  return [
    ...own.map(({ column }) => prefix + column.name),
    ...expanded.flatMap((one) => jsonIn(one, `${prefix}${one.navigation.relationship.name}.`)),
  ];
}

function namesOf({ properties, expanded }: Selection, prefix: string): readonly string[] {
  return [
    ...properties.map(({ column }) => prefix + column.name),
    ...expanded.flatMap((inner) => {
      const path = `${prefix}${inner.navigation.relationship.name}.`;
      // The key shows whether there is such a row.
      return [...inner.entity.table.key.map((name) => path + name), ...namesOf(inner, path)];
    }),
  ];
}

/** A value of a row, by the place of its column. */
type ValueAt = (place: number) => unknown;

/** Writes rows of a selection as JSON objects, from values in the order of `columnsOf`. */
export function rowPrinter(selection: Selection, form: ValueForm): PrintRow {
  const columns = new Map(columnsOf(selection).map((name, place) => [name, place]));
  return objectPrinter(selection, '', columns, form);
}

/** Writes a row; `lead` is a member that stands before all others. */
type PrintRow = (valueAt: ValueAt, lead?: string) => string;

function objectPrinter(
  { properties, expanded }: Selection,
  prefix: string,
  columns: ReadonlyMap<string, number>,
  form: ValueForm,
): PrintRow {
  const placeOf = (name: string): number => columns.get(prefix + name) ?? -1;
  const own = properties.map(({ name, column, type }) => ({
    lead: `${JSON.stringify(name)}:`,
    place: placeOf(column.name),
    type,
  }));
  const inner = expanded.map((one) => {
    const path = `${prefix}${one.navigation.relationship.name}.`;
    return {
      lead: `${JSON.stringify(one.navigation.name)}:`,
      key: columns.get(path + (one.entity.table.key[0] ?? '')) ?? -1,
      print: objectPrinter(one, path, columns, form),
    };
  });
  return (valueAt, lead) => {
    const members = own.map((one) => one.lead + printValue(valueAt(one.place), one.type, form));
    for (const one of inner) {
      const isThere = valueAt(one.key) !== null;
      members.push(one.lead + (isThere ? one.print(valueAt) : 'null'));
    }
    return `{${[...(lead === undefined ? [] : [lead]), ...members].join(',')}}`;
  };
}

/** The part of a context URL that says what was selected (Protocol 4.01, 10.8): `(id,lock(name))`. */
export function selectedIn(selection: Selection): string {
  const parts = partsIn(selection);
  return parts.length === 0 ? '' : `(${parts.join(',')})`;
}

function partsIn({ properties, expanded, isNamed }: Selection): readonly string[] {
  return [
    ...(isNamed ? properties.map(({ name }) => name) : []),
    ...expanded.map((one) => `${one.navigation.name}(${partsIn(one).join(',')})`),
  ];
}

/** A value that stands in a path of objects. */
export interface PlacedValue {
  readonly path: readonly string[];
  readonly value: unknown;
  readonly type: EdmType;
}

type Tree = Map<string, string | Tree>;

/** One object of values by their paths: `lock/canal/name` stands in `lock`, and there in `canal`. */
export function printPlaced(values: readonly PlacedValue[], form: ValueForm): string {
  const root: Tree = new Map();
  for (const { path, value, type } of values) {
    let at = root;
    for (const name of path.slice(0, -1)) {
      const known = at.get(name);
      const below: Tree = known instanceof Map ? known : new Map<string, string | Tree>();
      at.set(name, below);
      at = below;
    }
    at.set(path.at(-1) ?? '', printValue(value, type, form));
  }
  return printTree(root);
}

function printTree(tree: Tree): string {
  const members = [...tree].map(
    ([name, below]) =>
      `${JSON.stringify(name)}:${typeof below === 'string' ? below : printTree(below)}`,
  );
  return `{${members.join(',')}}`;
}
