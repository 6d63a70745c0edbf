import {
  columnsAround,
  encodingOf,
  type ColumnDescription,
  type ColumnType,
  type Encoding,
  type TableDescription,
} from '@ephoros/core/schema';

export interface TypesOptions {
  /** Where they come from, as the first line says. */
  readonly from: string;
  /** Foreign keys that paths of related columns follow at most. */
  readonly depth: number;
}

/**
 * TypeScript types of the tables that are named, for `createClient<Tables>`; the other descriptions
 * tell of related columns. Ends with a line break.
 */
export function typesOf(
  descriptions: readonly TableDescription[],
  named: readonly string[],
  { from, depth }: TypesOptions,
): string {
  const known = new Map(descriptions.map((one) => [one.name, one]));
  const names = new Set<string>();
  const wanted = descriptions.filter(({ name }) => named.includes(name));
  const tables = wanted.map((table) => {
    const related = columnsAround(table, (name) => known.get(name), depth);
    const called = uniqueName(table.name, names);
    return { table, related, called };
  });
  const members = tables.map(
    ({ table, called }) =>
      `  ${propertyName(table.name)}: { row: ${called}; related: ${called}Related; literals: ${called}Literals };`,
  );
  const parts = tables.flatMap(({ table, related, called }) => [
    `/** ${comment(table.comment ?? table.title)} */`,
    interfaceOf(called, table.columns, valueType, true),
    `/** Columns of the tables that rows of ${comment(table.name)} refer to. */`,
    interfaceOf(`${called}Related`, related, valueType, false),
    `/** What columns of ${comment(table.name)} are compared with in conditions. */`,
    interfaceOf(`${called}Literals`, [...table.columns, ...related], literalType, false),
  ]);
  return [
    `// Written by \`ephoros types\` from ${from}; write it anew when the tables change.`,
    '',
    '/** The published tables. */',
    `export interface Tables {\n${members.join('\n')}\n}`,
    '',
    parts.join('\n'),
  ].join('\n');
}

function interfaceOf(
  name: string,
  columns: readonly ColumnDescription[],
  typeOf: (column: ColumnDescription) => string,
  commented: boolean,
): string {
  const lines = columns.map((column) => {
    const isReported = commented && column.comment !== undefined;
    const above = isReported ? `  /** ${comment(column.comment ?? '')} */\n` : '';
    return `${above}  ${propertyName(column.name)}: ${typeOf(column)};`;
  });
  return `export interface ${name} {\n${lines.join('\n')}${lines.length === 0 ? '' : '\n'}}\n`;
}

/** What a row holds: see the column's `encoding`. */
function valueType({ type, nullable }: ColumnDescription): string {
  return nullable ? `${encodedType(type)} | null` : encodedType(type);
}

function encodedType(type: ColumnType): string {
  if (type.kind === 'enum') return union(type.values);
  if (type.kind === 'float') return `number | 'NaN' | 'Infinity' | '-Infinity'`;
  if (type.kind === 'array') return `readonly (${encodedType(type.element)} | null)[]`;
  return byEncoding[encodingOf(type)];
}

const byEncoding: Readonly<Record<Encoding, string>> = {
  number: 'number',
  string: 'string',
  boolean: 'boolean',
  json: 'unknown',
  array: 'readonly unknown[]',
};

/** What conditions take next to expressions: dates are written `date('2024-02-29')`. */
function literalType({ type }: ColumnDescription): string {
  switch (type.kind) {
    case 'integer':
    case 'float':
    case 'numeric':
      // As rows hold them, too: what JSON numbers cannot hold is text there.
      return 'number | bigint | string';
    case 'boolean':
      return 'boolean';
    case 'enum':
      return union(type.values);
    case 'timestamp':
      return 'Date | string';
    case 'text':
    case 'date':
    case 'time':
    case 'interval':
    case 'uuid':
      return 'string';
    case 'json':
    case 'binary':
    case 'range':
    case 'array':
    case 'opaque':
      return 'never';
    default:
      throw new Error(`no type for ${JSON.stringify(type satisfies never)}`);
  }
}

function union(values: readonly string[]): string {
  return values.length === 0 ? 'never' : values.map(quoted).join(' | ');
}

function quoted(text: string): string {
  return `'${JSON.stringify(text).slice(1, -1).replaceAll('\\"', '"').replaceAll("'", "\\'")}'`;
}

function propertyName(name: string): string {
  return /^[\p{L}_$][\p{L}\p{N}_$]*$/u.test(name) ? name : quoted(name);
}

function comment(text: string): string {
  return text.replaceAll('*/', '* /').replace(/\s+/g, ' ');
}

/** `harbour.fees` → `HarbourFees`; a number behind it where that is taken. */
function uniqueName(table: string, taken: Set<string>): string {
  const words = table.split(/[^\p{L}\p{N}]+/u).filter((word) => word !== '');
  const plain = words.map((word) => word.charAt(0).toUpperCase() + word.slice(1)).join('');
  const name = /^\p{L}/u.test(plain) && plain !== 'Tables' ? plain : `Table${plain}`;
  let unique = name;
  for (let number = 2; taken.has(unique); number += 1) unique = `${name}${number}`;
  taken.add(unique);
  return unique;
}
