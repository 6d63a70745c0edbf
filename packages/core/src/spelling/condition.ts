import { JsonRefusal, readJson, type Expression, type JsonNode } from '../expression/index.ts';
import { nearest, problem, type Problem } from '../problem/index.ts';
import { operators, valuesTaken, writeColumnTerm, type Operator } from '../query/index.ts';
import {
  findColumn,
  isNumeric,
  typeName,
  type FoundColumn,
  type TableDescription,
  type Tables,
} from '../schema/index.ts';
import type { FilterSpelling, Spelling } from './spelling.ts';

/** A parameter as it was sent. */
export type Pair = readonly [name: string, value: string];

/** What conditions are read with. */
export interface ConditionReading {
  readonly filter: FilterSpelling;
  readonly operators: Spelling['operators'];
  readonly table: TableDescription;
  readonly tables: Tables;
  readonly problems: Problem[];
}

/** Levels of conditions within conditions. */
const mostLevels = 100;

/** Something is no condition: what would be one. */
function unlike(expected: string, place?: Parameters<typeof problem>[2]): Problem {
  return problem('unexpected-token', { found: 'something else', expected }, place);
}

/** Whether a parameter is one of a filter: `where`, or `where[…]`. */
export function isOfFilter(name: string, filter: FilterSpelling): boolean {
  return name === filter.name || name.startsWith(`${filter.name}[`);
}

/** The condition that parameters of a filter mean; undefined where there is none, or none can be read. */
export function readCondition(
  pairs: readonly Pair[],
  reading: ConditionReading,
): Expression | undefined {
  const { form, name } = reading.filter;
  if (form === 'json') {
    const [, text = ''] = pairs.find((one) => one[0] === name) ?? [];
    return text.trim() === '' ? undefined : readNested(text, reading);
  }
  const found = form === 'brackets' ? bracketed(pairs, reading) : listed(pairs, reading);
  return joined('and', found);
}

function joined(
  kind: 'and' | 'or',
  operands: readonly (Expression | undefined)[],
): Expression | undefined {
  const sound = operands.filter((one) => one !== undefined);
  const [first] = sound;
  return sound.length > 1 ? { kind, operands: sound, span: { start: 0, end: 0 } } : first;
}

/** `where[toll][gte]` → `toll`, `gte`; a number or nothing at the end only distinguishes values. */
function partsOf(name: string, { name: filter }: FilterSpelling): readonly string[] {
  return [...name.slice(filter.length).matchAll(/\[([^\]]*)\]/g)].map(([, part = '']) => part);
}

function bracketed(pairs: readonly Pair[], reading: ConditionReading): (Expression | undefined)[] {
  const terms = new Map<
    string,
    { parameter: string; column: string; operator: string | undefined; values: string[] }
  >();
  for (const [name, value] of pairs) {
    const parts = partsOf(name, reading.filter);
    const [column, operator, ...rest] = parts;
    const isList = /^\d*$/.test(parts.at(-1) ?? '');
    const known = isList && rest.length === 0 ? undefined : operator;
    if (column === undefined || column === '' || rest.length > (isList ? 1 : 0)) {
      reading.problems.push({
        ...unlike(`${reading.filter.name}[column][operator]`),
        parameter: name,
      });
      continue;
    }
    const key = JSON.stringify([column, known]);
    const term = terms.get(key) ?? { parameter: name, column, operator: known, values: [] };
    term.values.push(value);
    terms.set(key, term);
  }
  return [...terms.values()].map((term) => conditionOf(term, reading));
}

function listed(pairs: readonly Pair[], reading: ConditionReading): (Expression | undefined)[] {
  const { filter, problems } = reading;
  const { column = '', operator = '', value = '', name: of } = filter;
  const terms = new Map<string, { parameter: string; members: Map<string, string[]> }>();
  for (const [name, text] of pairs) {
    const [place = '', member = ''] = partsOf(name, filter);
    if (![column, operator, value].includes(member) || member === '' || !/^\d+$/.test(place)) {
      problems.push({
        ...unlike(`${of}[0][${column}]`),
        parameter: name,
      });
      continue;
    }
    const term = terms.get(place) ?? {
      parameter: `${of}[${place}]`,
      members: new Map<string, string[]>(),
    };
    term.members.set(member, [...(term.members.get(member) ?? []), text]);
    terms.set(place, term);
  }
  return [...terms.values()].map(({ parameter, members }) =>
    conditionOf(
      {
        parameter,
        column: members.get(column)?.[0] ?? '',
        operator: members.get(operator)?.[0],
        values: members.get(value) ?? [],
      },
      reading,
    ),
  );
}

function readNested(text: string, reading: ConditionReading): Expression | undefined {
  const { name } = reading.filter;
  try {
    return nested(readJson(text, mostLevels), reading);
  } catch (thrown) {
    if (!(thrown instanceof JsonRefusal)) throw thrown;
    reading.problems.push({ ...thrown.problem, parameter: name });
    return undefined;
  }
}

/** A list of conditions, some that are joined by a word, or one. */
function nested(node: JsonNode, reading: ConditionReading): Expression | undefined {
  const { filter } = reading;
  if (node.kind === 'array')
    return joined(
      'and',
      node.items.map((item) => nested(item, reading)),
    );
  const { column = '', operator = '', value = '', joining = '', members = '' } = filter;
  const { and = 'and', or = 'or' } = filter;
  const refuse = (form: string): undefined => {
    const { start, end } = node.span;
    const violation = unlike(form, { start, end });
    reading.problems.push({ ...violation, parameter: filter.name });
    return undefined;
  };
  if (node.kind !== 'object') return refuse(`{"${column}": …, "${value}": …}`);
  const inner = node.members.get(members);
  if (inner !== undefined) {
    const word = textOf(node.members.get(joining)) ?? and;
    if (inner.kind !== 'array') return refuse(`a list in ${members}`);
    if (word !== and && word !== or) return refuse(`${and} or ${or} in ${joining}`);
    return joined(
      word === or ? 'or' : 'and',
      inner.items.map((item) => nested(item, reading)),
    );
  }
  const known = [column, operator, value];
  const odd = [...node.members.keys()].find((name) => !known.includes(name));
  if (odd !== undefined)
    return refuse(`${known.filter((name) => name !== '').join(', ')}, and no ${odd},`);
  const given = node.members.get(value);
  const items = given === undefined ? [] : given.kind === 'array' ? given.items : [given];
  const values = items.map(textOf).filter((one) => one !== undefined);
  const isMissing = given?.kind === 'null';
  return conditionOf(
    {
      parameter: filter.name,
      span: node.span,
      column: textOf(node.members.get(column)) ?? '',
      operator: textOf(node.members.get(operator)),
      values,
      isMissing,
    },
    reading,
  );
}

function textOf(node: JsonNode | undefined): string | undefined {
  if (node?.kind === 'string' || node?.kind === 'number') return node.value;
  return node?.kind === 'boolean' ? String(node.value) : undefined;
}

interface Term {
  readonly parameter: string;
  readonly span?: { readonly start: number; readonly end: number };
  readonly column: string;
  readonly operator: string | undefined;
  readonly values: readonly string[];
  /** Whether the value is null, which only equals and differs are stated about. */
  readonly isMissing?: boolean;
}

function conditionOf(
  { parameter, span, column: name, operator: word, values, isMissing = false }: Term,
  { operators: known = {}, table, tables, problems }: ConditionReading,
): Expression | undefined {
  const refuse = (one: Problem): undefined => {
    const place = span === undefined ? {} : { position: span.start, length: span.end - span.start };
    problems.push({ ...one, ...place, parameter });
    return undefined;
  };
  const column = columnOf(name, table, tables);
  if (column === undefined) {
    const near = nearest(
      name,
      table.columns.map((one) => one.name),
    );
    return refuse(problem('unknown-column', { name, table: table.name, near }));
  }
  const operator = operatorNamed(word ?? 'equals', known);
  if (operator === undefined) {
    const allowed = [...Object.keys(known), ...operators];
    return refuse(
      problem('not-one-of', { allowed: allowed.join(', '), near: nearest(word ?? '', allowed) }),
    );
  }
  const meant = isMissing ? ofNull(operator) : operator;
  const taken = valuesTaken(meant);
  // A list may be one text, by commas.
  const parted =
    taken === 1 || taken === 0 || values.length !== 1 ? values : (values[0] ?? '').split(',');
  if (taken !== undefined && taken !== 0 && parted.length !== taken) {
    return refuse(
      problem('wrong-argument-count', {
        name: word ?? meant,
        expected: taken,
        found: parted.length,
      }),
    );
  }
  const odd = taken === 0 ? undefined : parted.find((one) => !mayBe(one, column));
  if (odd !== undefined) {
    const facts = { expected: `a ${typeName(column.type)}`, found: 'another text' };
    return refuse(problem('type-mismatch', facts));
  }
  const written = writeColumnTerm({ column: column.name, operator: meant, values: parted }, column);
  return (
    written ??
    refuse(problem('wrong-argument-count', { name: word ?? meant, expected: taken ?? 1, found: 0 }))
  );
}

const decimal = /^[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?$/i;

/** Whether a text may be a value of a column; the check reports what is none all the same. */
function mayBe(value: string, { type }: FoundColumn): boolean {
  if (value === '') return true;
  if (isNumeric(type)) return decimal.test(value);
  return type.kind !== 'boolean' || value === 'true' || value === 'false';
}

/** What is stated about null: that there is a value, or none. */
function ofNull(operator: Operator): Operator {
  if (operator === 'equals') return 'missing';
  return operator === 'differs' ? 'there' : operator;
}

function operatorNamed(
  word: string,
  known: Readonly<Record<string, Operator>>,
): Operator | undefined {
  if (Object.hasOwn(known, word)) return known[word];
  return operators.find((one) => one === word);
}

function columnOf(name: string, table: TableDescription, tables: Tables): FoundColumn | undefined {
  const found = findColumn(name, table, tables);
  return 'own' in found ? found : undefined;
}
