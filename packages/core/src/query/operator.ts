import {
  and,
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

/** What can be said of a column, by its type. */
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

/** The condition that a term says; undefined where values are missing. `zone` is the reader's. */
export function writeColumnTerm(
  { operator, values }: ColumnTerm,
  column: ColumnDescription,
  zone = 'UTC',
): Expression | undefined {
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
  if (column.type.kind === 'timestamp') {
    if (operator === 'between') {
      return and(writeMoments({ kind: 'range', from: first, to: second }, column, zone));
    }
    if (operator === 'equals') {
      return and(writeMoments({ kind: 'equals', value: first }, column, zone));
    }
    if (operator === 'atLeast') {
      return and(writeMoments({ kind: 'range', from: first }, column, zone));
    }
    if (operator === 'atMost') return and(writeMoments({ kind: 'range', to: first }, column, zone));
    // Later than a day is after its end, earlier than one before its beginning.
    if (operator === 'more')
      return opposite(writeMoments({ kind: 'range', to: first }, column, zone));
    if (operator === 'less') {
      return opposite(writeMoments({ kind: 'range', from: first }, column, zone));
    }
  }
  switch (operator) {
    case 'equals':
    case 'differs':
    case 'more':
    case 'atLeast':
    case 'less':
    case 'atMost':
      return compare(self, comparators[operator] ?? '=', value(first));
    case 'between':
    case 'notBetween': {
      const within: Expression = {
        kind: 'between',
        operand: self,
        low: value(first),
        high: value(second),
        span: nowhere,
      };
      return operator === 'between' ? within : not(within);
    }
    case 'oneOf':
    case 'noneOf': {
      const one: Expression = {
        kind: 'in',
        operand: self,
        members: values.map(value),
        span: nowhere,
      };
      return operator === 'oneOf' ? one : not(one);
    }
    case 'contains':
    case 'begins':
    case 'ends':
      return writePattern(self, { operator, text: first });
    case 'containsNot':
      return not(writePattern(self, { operator: 'contains', text: first }));
    case 'missing':
      return missing(self);
    case 'there':
      return not(missing(self));
    default:
      throw new Error(`no condition for ${JSON.stringify(operator satisfies never)}`);
  }
}

/** `NOT (at <= x)` of a comparison is the other comparison. */
function opposite([term]: readonly Expression[]): Expression | undefined {
  if (term?.kind !== 'comparison') return undefined;
  const turned: Readonly<Record<Comparator, Comparator>> = {
    '<=': '>',
    '<': '>=',
    '>=': '<',
    '>': '<=',
    '=': '<>',
    '<>': '=',
  };
  return { ...term, comparator: turned[term.comparator] };
}

/**
 * What a condition says of one column, as `writeColumnTerm` says it; undefined where it says anything
 * else. `columnNamed` tells what a column is.
 */
export function readColumnTerm(
  expression: Expression,
  columnNamed: (name: string) => ColumnDescription | undefined,
  zone = 'UTC',
): ColumnTerm | undefined {
  const [name] = propertiesIn(expression);
  const column = name === undefined ? undefined : columnNamed(name);
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
      const opposites: Readonly<Partial<Record<Operator, Operator>>> = {
        between: 'notBetween',
        oneOf: 'noneOf',
        contains: 'containsNot',
        missing: 'there',
      };
      const operator = inner && opposites[inner.operator];
      return inner && operator && { ...inner, operator };
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
  switch (expression.kind) {
    case 'property':
      return [expression.name];
    case 'comparison':
      return [...propertiesIn(expression.left), ...propertiesIn(expression.right)];
    case 'between':
    case 'in':
    case 'like':
    case 'isNull':
    case 'not':
      return propertiesIn(expression.operand);
    case 'call':
      return expression.args.flatMap(propertiesIn);
    case 'and': {
      const names = new Set(expression.operands.flatMap(propertiesIn));
      return names.size === 1 ? [...names] : [];
    }
    default:
      return [];
  }
}
