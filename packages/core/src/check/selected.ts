import { mostSelected } from '../expression/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import { typeName, type TableDescription } from '../schema/index.ts';
import type { CheckedExpression } from './checked.ts';
import { keyValue } from './key-value.ts';
import { ownColumns } from './lookup.ts';
import type { Call } from './reporter.ts';

type Selected = Extract<CheckedExpression, { kind: 'selected' }>;

/**
 * `SELECTED('17', '18')`: the rows of these keys, each spelled as in the address of a row (parts
 * percent-encoded, joined by commas), none for none. Undefined with a problem at its place.
 */
export function selectedRows(
  { args, span }: Call,
  table: TableDescription,
  problems: Problem[],
): Selected | undefined {
  const { key } = table;
  const columns = key.flatMap((name) => ownColumns(table).get(name) ?? []);
  const found: Problem[] = [];
  if (key.length === 0 || columns.length < key.length) {
    found.push(problem('no-key', { table: table.name }, span));
  }
  if (args.length > mostSelected) {
    found.push(problem('too-many-members', { most: mostSelected }, args[mostSelected]?.span));
  }
  const keys = args.slice(0, found.length > 0 ? 0 : mostSelected).map((arg) => {
    if (arg.kind !== 'text') {
      const facts = { expected: 'a key in single quotes', found: 'something else' };
      found.push(problem('type-mismatch', facts, arg.span));
      return [];
    }
    const texts = partsOf(arg.value);
    if (texts?.length !== columns.length) {
      const facts = { expected: key.join(', '), found: texts?.length ?? 0 };
      found.push(problem('malformed-key', facts, arg.span));
      return [];
    }
    return columns.map(({ type }, index) => {
      const text = texts[index] ?? '';
      const value = keyValue(text, type);
      const known = type.kind !== 'enum' || type.values.includes(text);
      if (value === undefined || !known) {
        const facts = { type: typeName(type), notation: 'as rows hold it' };
        found.push(problem('invalid-value', facts, arg.span));
      }
      return { text, value: value ?? '' };
    });
  });
  problems.push(...found);
  return found.length > 0 ? undefined : { kind: 'selected', columns, keys };
}

/** The parts of a key; undefined where the spelling is none. */
function partsOf(text: string): readonly string[] | undefined {
  try {
    return text.split(',').map(decodeURIComponent);
  } catch {
    return undefined;
  }
}
