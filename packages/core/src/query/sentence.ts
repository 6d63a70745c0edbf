import type { Comparator, Expression } from '../expression/index.ts';
import { isAggregateName, type ColumnDescription, type TableDescription } from '../schema/index.ts';
import { readContains, termsOf } from './condition.ts';
import { groupsPart, isOfGroups, rowsPart } from './parts.ts';
import type { Query, SortTerm } from './query.ts';
import { spoken, spokenTerm } from './spoken.ts';

/** A piece of the view sentence. What is not `plain` can be changed where it stands. */
export interface Phrase {
  readonly kind: 'plain' | 'table' | 'condition' | 'group' | 'aggregate' | 'sort';
  readonly text: string;
  /** Which condition, level, aggregate or sort term, from 0. */
  readonly index?: number;
}

/** How a sentence speaks. */
export interface SentenceOptions {
  /** Renders a literal for people (a date, a number); by default it stands as written. */
  readonly show?: (value: string, column?: ColumnDescription) => string;
  /** A column by its name, also a related one; by default the table's own. */
  readonly column?: (name: string) => ColumnDescription | undefined;
}

/**
 * A query said as one readable sentence, in phrases to be set one after the other: "Passages
 * where status is disputed, newest passed at first".
 */
export function sentence(
  query: Query,
  table: TableDescription,
  options: SentenceOptions = {},
): readonly Phrase[] {
  const speaker = new Speaker(table, options);
  const phrases: Phrase[] = [{ kind: 'table', text: table.title }];
  for (const [index, term] of termsOf(query.filter).entries()) {
    phrases.push({ kind: 'plain', text: index === 0 ? ' where ' : ' and ' });
    phrases.push({ kind: 'condition', text: speaker.say(term, false), index });
  }
  if (query.search !== undefined) {
    const terms = query.search.map((term) => `“${term}”`).join(' and ');
    phrases.push({ kind: 'plain', text: `${query.filter ? ',' : ''} mentioning ${terms}` });
  }
  for (const [index, { expression }] of (query.group ?? []).entries()) {
    phrases.push({ kind: 'plain', text: index === 0 ? ', grouped by ' : ', then ' });
    phrases.push({ kind: 'group', text: speaker.sayTerm(expression), index });
  }
  for (const [index, { expression }] of (query.aggregate ?? []).entries()) {
    phrases.push({ kind: 'plain', text: index === 0 ? ', with ' : ' and ' });
    phrases.push({ kind: 'aggregate', text: speaker.sayTerm(expression), index });
  }
  for (const [index, term] of sortInForce(query, table).entries()) {
    phrases.push({ kind: 'plain', text: index === 0 ? ', ' : ', then ' });
    const text = isOfGroups(term, query) ? speaker.sayGroupSort(term) : speaker.saySort(term);
    phrases.push({ kind: 'sort', text, index });
  }
  return phrases;
}

/** The sort in force: of the groups, and then of the rows, which have the table's own by default. */
export function sortInForce(query: Query, table: TableDescription): readonly SortTerm[] {
  const ofGroups = query.group === undefined ? [] : (groupsPart(query).sort ?? []);
  return [...ofGroups, ...(rowsPart(query).sort ?? defaultSort(table))];
}

/** The sort that a table has where a query names none. */
export function defaultSort(table: TableDescription): SortTerm[] {
  return table.defaultSort.map(({ column, descending }) => ({
    column: { name: column, span: { start: 0, end: 0 } },
    descending,
  }));
}

const comparisons: Readonly<Record<Comparator, string>> = {
  '=': 'is',
  '<>': 'is not',
  '<': 'is below',
  '<=': 'is at most',
  '>': 'is above',
  '>=': 'is at least',
};

const timeComparisons: Readonly<Record<Comparator, string>> = {
  '=': 'is',
  '<>': 'is not',
  '<': 'is before',
  '<=': 'is not after',
  '>': 'is after',
  '>=': 'is not before',
};

class Speaker {
  private readonly column: (name: string) => ColumnDescription | undefined;
  private readonly show: (value: string, column?: ColumnDescription) => string;

  constructor({ columns }: TableDescription, { show, column }: SentenceOptions) {
    this.column = column ?? ((name) => columns.find((one) => one.name === name));
    this.show = show ?? ((value) => value);
  }

  /** A level of a grouping, or an aggregate. */
  sayTerm(expression: Expression): string {
    return spokenTerm(expression, (name) => this.labelOf(name));
  }

  sayGroupSort({ column: { name }, expression, descending }: SortTerm): string {
    const call = expression?.kind === 'call' ? expression : undefined;
    if (call?.name === 'count' && call.args.length === 0) {
      return `${descending ? 'most' : 'fewest'} rows first`;
    }
    if (call !== undefined && isAggregateName(call.name)) {
      return `${descending ? 'highest' : 'lowest'} ${this.sayTerm(call)} first`;
    }
    const said = call === undefined ? spoken(this.labelOf(name)) : this.sayTerm(call);
    return `groups by ${said}${descending ? ', last to first' : ''}`;
  }

  say(expression: Expression, inside = true): string {
    switch (expression.kind) {
      case 'and':
      case 'or': {
        const parts = expression.operands.map((operand) => this.say(operand));
        const joined = parts.join(` ${expression.kind} `);
        return inside ? `(${joined})` : joined;
      }
      case 'not':
        return this.sayNot(expression.operand);
      case 'comparison': {
        const { left, comparator, right } = expression;
        const column = this.columnOf(left) ?? this.columnOf(right);
        const words = isTime(column) ? timeComparisons : comparisons;
        return `${this.value(left, column)} ${words[comparator]} ${this.value(right, column)}`;
      }
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        return this.sayPredicate(expression, '');
      case 'boolean':
        return expression.value ? 'always' : 'never';
      case 'property':
      case 'call':
      case 'text':
      case 'number':
      case 'date':
      case 'timestamp':
      case 'arithmetic':
      case 'interval':
      case 'unbounded':
      case 'array':
        return this.value(expression);
      default:
        throw new Error(`no words for ${JSON.stringify(expression satisfies never)}`);
    }
  }

  saySort({ column: { name }, descending }: SortTerm): string {
    const column = this.column(name);
    const label = spoken(this.labelOf(name));
    switch (column?.type.kind) {
      case 'date':
      case 'timestamp':
      case 'time':
        return `${descending ? 'newest' : 'oldest'} ${label} first`;
      case 'integer':
      case 'numeric':
      case 'float':
      case 'interval':
        return `${descending ? 'highest' : 'lowest'} ${label} first`;
      default:
        return `by ${label}${descending ? ', last to first' : ''}`;
    }
  }

  private sayNot(operand: Expression): string {
    switch (operand.kind) {
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        return this.sayPredicate(operand, 'not ');
      default:
        return `not ${this.say(operand)}`;
    }
  }

  private sayPredicate(
    expression: Extract<Expression, { kind: 'between' | 'in' | 'like' | 'isNull' }>,
    negation: string,
  ): string {
    const column = this.columnOf(expression.operand);
    const subject = this.value(expression.operand);
    switch (expression.kind) {
      case 'between': {
        const [low, high] = [expression.low, expression.high].map((one) => this.value(one, column));
        return `${subject} is ${negation}between ${low ?? ''} and ${high ?? ''}`;
      }
      case 'in': {
        const members = expression.members.map((member) => this.value(member, column));
        const last = members.pop() ?? '';
        const list = members.length === 0 ? last : `${members.join(', ')} or ${last}`;
        return `${subject} is ${negation}${list}`;
      }
      case 'like': {
        const name = column?.name ?? '';
        const contains = readContains(expression.operand, expression.pattern, name);
        if (contains?.kind !== 'contains') {
          return `${subject} is ${negation}like ${this.value(expression.pattern)}`;
        }
        const verb = negation === '' ? 'contains' : 'does not contain';
        return `${spoken(column?.label ?? name)} ${verb} “${contains.value}”`;
      }
      case 'isNull':
        return `${subject} is ${negation}missing`;
      default:
        throw new Error(`no words for ${JSON.stringify(expression satisfies never)}`);
    }
  }

  private value(expression: Expression, column?: ColumnDescription): string {
    switch (expression.kind) {
      case 'property':
        return spoken(this.labelOf(expression.name));
      case 'text':
        return column?.type.kind === 'enum' ? expression.value : `“${expression.value}”`;
      case 'number':
      case 'date':
      case 'timestamp':
        return this.show(expression.value, column);
      case 'boolean':
        return expression.value ? 'yes' : 'no';
      case 'call':
        return `${expression.name}(${expression.args.map((one) => this.value(one)).join(', ')})`;
      case 'arithmetic': {
        const { left, operator, right } = expression;
        return `${this.value(left)} ${operator} ${this.value(right)}`;
      }
      case 'interval':
        return `the time from ${this.value(expression.start)} to ${this.value(expression.end)}`;
      case 'unbounded':
        return 'ever';
      case 'array':
        return expression.members.map((member) => this.value(member)).join(', ');
      case 'and':
      case 'or':
      case 'not':
      case 'comparison':
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        return this.say(expression);
      default:
        throw new Error(`no words for ${JSON.stringify(expression satisfies never)}`);
    }
  }

  private labelOf(name: string): string {
    return this.column(name)?.label ?? name;
  }

  private columnOf(expression: Expression): ColumnDescription | undefined {
    if (expression.kind === 'property') return this.column(expression.name);
    const [first] = expression.kind === 'call' ? expression.args : [];
    return first && this.columnOf(first);
  }
}

function isTime(column: ColumnDescription | undefined): boolean {
  return column?.type.kind === 'date' || column?.type.kind === 'timestamp';
}
