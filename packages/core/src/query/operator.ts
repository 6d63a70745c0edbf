import {
  and,
  childrenOf,
  compare,
  isProperty,
  missing,
  not,
  property,
  type Comparator,
  type Expression,
} from '../expression/index.ts';
import { isNumeric, type ColumnDescription } from '../schema/index.ts';
import { literal, literalText } from './literal.ts';
import { readMoments, writeMoments } from './moments.ts';
import { readPattern, writePattern } from './pattern.ts';

/** What a condition on one column can say of it. */
export const operators = [
  'equals',
  'differs',
  'oneOf',
  'noneOf',
  'contains',
  'containsNot',
  'begins',
  'ends',
  'more',
  'atLeast',
  'less',
  'atMost',
  'between',
  'notBetween',
  'missing',
  'there',
] as const;

export type Operator = (typeof operators)[number];

/**
 * A condition on one column. Values are in the notation of the filter language without its quotes, as
 * many as the operator takes: one, two (`between`), any number (`oneOf`), or none (`missing`).
 */
export interface ColumnTerm {
  readonly column: string;
  readonly operator: Operator;
  readonly values: readonly string[];
}

const nowhere = { start: 0, end: 0 };

const ofSets: readonly Operator[] = ['equals', 'differs', 'oneOf', 'noneOf'];
const ofOrder: readonly Operator[] = ['more', 'atLeast', 'less', 'atMost', 'between', 'notBetween'];
const ofTexts: readonly Operator[] = ['contains', 'containsNot', 'begins', 'ends'];
const ofAny: readonly Operator[] = ['missing', 'there'];

/** What can be stated about a column, by its type. */
export function operatorsOf({ type, filterable }: ColumnDescription): readonly Operator[] {
  if (!filterable) return [];
  if (isNumeric(type)) return [...ofOrder, ...ofSets, ...ofAny];
  switch (type.kind) {
    case 'text':
      return [...ofSets, ...ofTexts, ...ofOrder, ...ofAny];
    case 'date':
    case 'time':
    case 'interval':
      return [...ofOrder, ...ofSets, ...ofAny];
    case 'timestamp':
      return ['between', 'equals', 'more', 'atLeast', 'less', 'atMost', ...ofAny];
    case 'enum':
    case 'uuid':
      return [...ofSets, ...ofAny];
    case 'boolean':
      return ['equals', ...ofAny];
    default:
      return ofAny;
  }
}

/** How many values an operator takes; undefined for any number, one at least. */
export function valuesTaken(operator: Operator): 0 | 1 | 2 | undefined {
  switch (operator) {
    case 'missing':
    case 'there':
      return 0;
    case 'between':
    case 'notBetween':
      return 2;
    case 'oneOf':
    case 'noneOf':
      return undefined;
    default:
      return 1;
  }
}

const comparators: Readonly<Partial<Record<Operator, Comparator>>> = {
  equals: '=',
  differs: '<>',
  more: '>',
  atLeast: '>=',
  less: '<',
  atMost: '<=',
};

/** Operators that say that another one does not hold. */
const negated: Readonly<Partial<Record<Operator, Operator>>> = {
  notBetween: 'between',
  noneOf: 'oneOf',
  containsNot: 'contains',
  there: 'missing',
};

/** The condition that a term says; undefined where values are missing. `zone` is the reader's. */
export function writeColumnTerm(
  term: ColumnTerm,
  column: ColumnDescription,
  zone = 'UTC',
): Expression | undefined {
  const { operator, values } = term;
  const positive = negated[operator];
  if (positive !== undefined) {
    const written = writeColumnTerm({ ...term, operator: positive }, column, zone);
    return written && not(written);
  }
  const self = property(column.name);
  const [first = '', second = ''] = values;
  const isText = column.type.kind === 'text';
  const value = (one: string): Expression => literal(one, column);
  const taken = valuesTaken(operator);
  // The empty text is a value like any other; of other types there is none.
  if (taken === 1 && first === '' && !(isText && ['equals', 'differs'].includes(operator))) {
    return undefined;
  }
  if (taken === 2 && (first === '' || second === '')) return undefined;
  if (taken === undefined && values.length === 0) return undefined;
  const comparator = comparators[operator];
  const inOrder = operator === 'between' || (comparator && operator !== 'differs');
  // Moments are stated in stretches of them.
  if (column.type.kind === 'timestamp' && inOrder) {
    const range =
      operator === 'between'
        ? { from: first, to: second }
        : operator === 'atLeast' || operator === 'less'
          ? { from: first }
          : { to: first };
    const terms = writeMoments(
      operator === 'equals' ? { kind: operator, value: first } : { kind: 'range', ...range },
      column,
      zone,
    );
    // Later than a day is after its end, earlier than one before its beginning.
    return operator === 'more' || operator === 'less' ? opposite(terms) : and(terms);
  }
  if (comparator !== undefined) return compare(self, comparator, value(first));
  switch (operator) {
    case 'between': {
      const [low, high] = [value(first), value(second)];
      return { kind: 'between', operand: self, low, high, span: nowhere };
    }
    case 'oneOf':
      return { kind: 'in', operand: self, members: values.map(value), span: nowhere };
    case 'contains':
    case 'begins':
    case 'ends':
      return writePattern(self, { operator, text: first });
    case 'missing':
      return missing(self);
    default:
      return undefined;
  }
}

/** `NOT (at <= x)` of a comparison is the other comparison. */
function opposite([term]: readonly Expression[]): Expression | undefined {
  if (term?.kind !== 'comparison') return undefined;
  const turned: Readonly<Partial<Record<Comparator, Comparator>>> = {
    '<=': '>',
    '<': '>=',
    '>=': '<',
  };
  const comparator = turned[term.comparator];
  return comparator && { ...term, comparator };
}

/**
 * What a condition says of one column, as `writeColumnTerm` says it; undefined where it says anything
 * else. `columnNamed` shows what a column is.
 */
export function readColumnTerm(
  expression: Expression,
  columnNamed: (name: string) => ColumnDescription | undefined,
  zone = 'UTC',
): ColumnTerm | undefined {
  const [name, ...others] = new Set(propertiesIn(expression));
  const column = name === undefined || others.length > 0 ? undefined : columnNamed(name);
  if (column === undefined) return undefined;
  if (column.type.kind === 'timestamp') {
    const terms = expression.kind === 'and' ? expression.operands : [expression];
    const read = readMoments(terms, column, zone);
    if (read?.kind === 'equals') return term(column, 'equals', read.value);
    if (read?.kind === 'range') {
      const { from, to } = read;
      if (from !== undefined && to !== undefined) {
        // From a day to the same day is that day.
        return from === to ? term(column, 'equals', from) : term(column, 'between', from, to);
      }
      if (expression.kind === 'comparison' && expression.comparator === '<' && to !== undefined) {
        return term(column, 'atMost', to);
      }
      return from === undefined ? term(column, 'atMost', to ?? '') : term(column, 'atLeast', from);
    }
    if (expression.kind === 'comparison' && expression.comparator === '>') {
      const value = literalText(expression.right);
      const own = isProperty(expression.left, column.name);
      return own && value !== undefined ? term(column, 'more', value) : undefined;
    }
  }
  return readPlain(expression, column);
}

/** The same of any column whose values are no moments, or of the terms that are no ranges of those. */
export function readPlain(
  expression: Expression,
  column: ColumnDescription,
): ColumnTerm | undefined {
  const { name } = column;
  switch (expression.kind) {
    case 'property':
      return term(column, 'equals', 'true');
    case 'comparison': {
      const value = literalText(expression.right);
      if (!isProperty(expression.left, name) || value === undefined) return undefined;
      const found = Object.entries(comparators).find(([, one]) => one === expression.comparator);
      return found && term(column, found[0] as Operator, value);
    }
    case 'between': {
      const [low, high] = [literalText(expression.low), literalText(expression.high)];
      if (!isProperty(expression.operand, name) || low === undefined || high === undefined) {
        return undefined;
      }
      return term(column, 'between', low, high);
    }
    case 'in': {
      const values = expression.members.flatMap((member) => literalText(member) ?? []);
      const isWhole = values.length === expression.members.length;
      return isProperty(expression.operand, name) && isWhole
        ? { column: name, operator: 'oneOf', values }
        : undefined;
    }
    case 'isNull':
      return isProperty(expression.operand, name) ? term(column, 'missing') : undefined;
    case 'like': {
      const pattern = readPattern(expression.operand, expression.pattern, name);
      return pattern && term(column, pattern.operator, pattern.text);
    }
    case 'not': {
      const { operand } = expression;
      if (isProperty(operand, name)) return term(column, 'equals', 'false');
      const inner = readPlain(operand, column);
      const found = Object.entries(negated).find(([, one]) => one === inner?.operator);
      return inner && found && { ...inner, operator: found[0] as Operator };
    }
    default:
      return undefined;
  }
}

function term(column: ColumnDescription, operator: Operator, ...values: string[]): ColumnTerm {
  return { column: column.name, operator, values };
}

/** The columns that a condition speaks of. */
function propertiesIn(expression: Expression): readonly string[] {
  if (expression.kind === 'property') return [expression.name];
  return childrenOf(expression).flatMap(propertiesIn);
}
