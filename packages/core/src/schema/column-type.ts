/** A column's type, as far as queries and views need to know it. */
export type ColumnType = TypeKind & {
  /**
   * What PostgreSQL calls the type, such as `public.citext`, where it is not the usual one of its
   * kind. Of a domain the type below it; of a list the list's own. Values are cast to it, so that
   * they are compared and ordered as the column itself is.
   */
  readonly databaseType?: string;
  /** Whether the column's own type is a domain, which takes part in no comparison as it stands. */
  readonly domain?: true;
  /** Whether texts that differ may be equal, by a nondeterministic collation. */
  readonly nondeterministic?: true;
};

type TypeKind =
  | { readonly kind: 'integer'; readonly bits: 16 | 32 | 64 }
  | { readonly kind: 'numeric'; readonly precision?: number; readonly scale?: number }
  | { readonly kind: 'float'; readonly bits: 32 | 64 }
  | { readonly kind: 'text'; readonly maxLength?: number }
  | { readonly kind: 'boolean' }
  | { readonly kind: 'date' }
  | { readonly kind: 'time'; readonly zone: boolean }
  | { readonly kind: 'timestamp'; readonly zone: boolean }
  | { readonly kind: 'interval' }
  | { readonly kind: 'uuid' }
  | { readonly kind: 'enum'; readonly name: string; readonly values: readonly string[] }
  | { readonly kind: 'json' }
  | { readonly kind: 'binary' }
  | { readonly kind: 'range'; readonly name: string }
  | { readonly kind: 'array'; readonly element: ColumnType }
  /** A type that is not known here: shown as PostgreSQL writes it, neither filtered nor sorted. */
  | { readonly kind: 'opaque'; readonly name: string };

/**
 * How values of a column stand in JSON. `number`: a JSON number (a float that is NaN or
 * infinite: the strings "NaN", "Infinity", "-Infinity"). `string`: a JSON string. `boolean`.
 * `json`: the JSON value itself. `array`: an array of values in the element's encoding.
 * Null is null in all of them.
 */
export type Encoding = 'number' | 'string' | 'boolean' | 'json' | 'array';

/** The encoding of a type: only what a JSON number holds without loss is a number. */
export function encodingOf(type: ColumnType): Encoding {
  switch (type.kind) {
    case 'integer':
      return type.bits === 64 ? 'string' : 'number';
    case 'float':
      return 'number';
    case 'boolean':
      return 'boolean';
    case 'json':
      return 'json';
    case 'array':
      return 'array';
    case 'numeric':
    case 'text':
    case 'date':
    case 'time':
    case 'timestamp':
    case 'interval':
    case 'uuid':
    case 'enum':
    case 'binary':
    case 'range':
    case 'opaque':
      return 'string';
    default:
      throw new Error(`no encoding for ${JSON.stringify(type satisfies never)}`);
  }
}

/** The type in words, for messages and descriptions: "whole number", "text", … */
export function typeName(type: ColumnType): string {
  switch (type.kind) {
    case 'integer':
      return 'whole number';
    case 'numeric':
    case 'float':
      return 'number';
    case 'text':
    case 'boolean':
    case 'date':
    case 'interval':
    case 'uuid':
      return type.kind;
    case 'time':
      return type.zone ? 'time with zone' : 'time';
    case 'timestamp':
      return 'timestamp';
    case 'enum':
      return type.name;
    case 'json':
      return 'JSON';
    case 'binary':
      return 'binary data';
    case 'range':
      return 'range';
    case 'array':
      return `list of ${typeName(type.element)}`;
    case 'opaque':
      return type.name;
    default:
      throw new Error(`no name for ${JSON.stringify(type satisfies never)}`);
  }
}

/** Whether LIKE and CASEI apply. */
export function isTextual(type: ColumnType): boolean {
  return type.kind === 'text';
}

/** Whether values are compared with number literals. */
export function isNumeric(type: ColumnType): boolean {
  return type.kind === 'integer' || type.kind === 'numeric' || type.kind === 'float';
}

/** Whether values have distances from each other, and so a range and a histogram. */
export function isMeasured(type: ColumnType): boolean {
  return isNumeric(type) || type.kind === 'date' || type.kind === 'timestamp';
}

/** Whether rows can be sorted by a column of this type. */
export function isSortable(type: ColumnType): boolean {
  if (type.kind === 'array') return isSortable(type.element);
  return type.kind !== 'opaque' && type.kind !== 'json';
}

/** PostgreSQL's name of the type whose texts are compared without their blanks at the end. */
export const blankPadded = 'pg_catalog.bpchar';

/** Whether texts of a type are compared with letter case ignored. */
export function ignoresCase({ kind, databaseType }: ColumnType): boolean {
  return kind === 'text' && databaseType?.endsWith('.citext') === true;
}

/** Types of PostgreSQL without an operator `=`. `json` is the text as it was written; `jsonb` has one. */
const withoutEquality: ReadonlySet<string | undefined> = new Set(
  ['json', 'jsonpath', 'point', 'polygon', 'xml'].map((name) => `pg_catalog.${name}`),
);

/** Whether PostgreSQL can tell if two values of this type are equal. */
export function hasEquality(type: ColumnType): boolean {
  return type.kind === 'array'
    ? hasEquality(type.element)
    : !withoutEquality.has(type.databaseType);
}

/** Whether values of this type can be compared with literals; otherwise IS NULL alone applies. */
export function isComparable(type: ColumnType): boolean {
  switch (type.kind) {
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return false;
    case 'integer':
    case 'numeric':
    case 'float':
    case 'text':
    case 'boolean':
    case 'date':
    case 'time':
    case 'timestamp':
    case 'interval':
    case 'uuid':
    case 'enum':
      return true;
    default:
      throw new Error(`unknown type ${JSON.stringify(type satisfies never)}`);
  }
}
