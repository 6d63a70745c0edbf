import type { Expression } from '@ephoros/core/expression';
import {
  isOfGroups,
  readContains,
  sortInForce,
  spokenTerm,
  termsOf,
  type Query,
  type SortTerm,
} from '@ephoros/core/query';
import {
  isAggregateName,
  type ColumnDescription,
  type TableDescription,
} from '@ephoros/core/schema';
import { english } from '../messages/english.ts';
import type { Messages } from '../messages/messages.ts';

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
  /** English by default. */
  readonly messages?: Pick<Messages, 'sentence' | 'yes' | 'no'>;
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
  const { sentence: words } = options.messages ?? english;
  const phrases: Phrase[] = [{ kind: 'table', text: table.title }];
  const list = <Item>(
    kind: Exclude<Phrase['kind'], 'plain' | 'table'>,
    [first, further]: readonly [string, string],
    items: readonly Item[],
    say: (item: Item) => string,
  ): void => {
    for (const [index, item] of items.entries()) {
      phrases.push({ kind: 'plain', text: index === 0 ? first : further });
      phrases.push({ kind, text: say(item), index });
    }
  };
  list('condition', [words.where, words.and], termsOf(query.filter), (term) =>
    speaker.say(term, false),
  );
  if (query.search !== undefined) {
    const text = words.mentioning(query.search, query.filter !== undefined);
    phrases.push({ kind: 'plain', text });
  }
  list('group', words.groupedBy, query.group ?? [], (term) => speaker.sayTerm(term.expression));
  list('aggregate', words.with, query.aggregate ?? [], (term) => speaker.sayTerm(term.expression));
  list('sort', words.sorted, sortInForce(query, table), (term) =>
    isOfGroups(term, query) ? speaker.sayGroupSort(term) : speaker.saySort(term),
  );
  return phrases;
}

class Speaker {
  private readonly column: (name: string) => ColumnDescription | undefined;
  private readonly show: (value: string, column?: ColumnDescription) => string;
  private readonly messages: Pick<Messages, 'sentence' | 'yes' | 'no'>;

  constructor({ columns }: TableDescription, { show, column, messages }: SentenceOptions) {
    this.column = column ?? ((name) => columns.find((one) => one.name === name));
    this.show = show ?? ((value) => value);
    this.messages = messages ?? english;
  }

  private get words(): Messages['sentence'] {
    return this.messages.sentence;
  }

  /** A level of a grouping, or an aggregate. */
  sayTerm(expression: Expression): string {
    return spokenTerm(expression, (name) => this.column(name)?.label ?? name, this.words);
  }

  sayGroupSort({ column: { name }, expression, descending }: SortTerm): string {
    const { mostRows, fewestRows, highest, lowest, groupsBy } = this.words;
    const call = expression?.kind === 'call' ? expression : undefined;
    if (call?.name === 'count' && call.args.length === 0) {
      return descending ? mostRows : fewestRows;
    }
    const said = call === undefined ? this.label(name) : this.sayTerm(call);
    if (call !== undefined && isAggregateName(call.name)) {
      return descending ? highest(said) : lowest(said);
    }
    return groupsBy(said, descending);
  }

  say(expression: Expression, inside = true): string {
    switch (expression.kind) {
      case 'and':
      case 'or': {
        const parts = expression.operands.map((operand) => this.say(operand));
        const joined = parts.join(this.words[expression.kind]);
        return inside ? `(${joined})` : joined;
      }
      case 'not':
        return this.sayNot(expression.operand);
      case 'comparison': {
        const { left, comparator, right } = expression;
        const column = this.columnOf(left) ?? this.columnOf(right);
        const { timeComparisons, comparisons } = this.words;
        const said = isTime(column) ? timeComparisons : comparisons;
        return `${this.value(left, column)} ${said[comparator]} ${this.value(right, column)}`;
      }
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        return this.sayPredicate(expression, false);
      case 'boolean':
        return expression.value ? this.words.always : this.words.never;
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
    const { newest, oldest, highest, lowest, by } = this.words;
    const label = this.label(name);
    switch (this.column(name)?.type.kind) {
      case 'date':
      case 'timestamp':
      case 'time':
        return descending ? newest(label) : oldest(label);
      case 'integer':
      case 'numeric':
      case 'float':
      case 'interval':
        return descending ? highest(label) : lowest(label);
      default:
        return by(label, descending);
    }
  }

  private sayNot(operand: Expression): string {
    switch (operand.kind) {
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        return this.sayPredicate(operand, true);
      default:
        return this.words.not(this.say(operand));
    }
  }

  private sayPredicate(
    expression: Extract<Expression, { kind: 'between' | 'in' | 'like' | 'isNull' }>,
    negated: boolean,
  ): string {
    const { words } = this;
    const column = this.columnOf(expression.operand);
    const subject = this.value(expression.operand);
    switch (expression.kind) {
      case 'between': {
        const { low, high } = expression;
        return words.between(subject, this.value(low, column), this.value(high, column), negated);
      }
      case 'in': {
        const members = expression.members.map((member) => this.value(member, column));
        return words.oneOf(subject, members, negated);
      }
      case 'like': {
        const name = column?.name ?? '';
        const contains = readContains(expression.operand, expression.pattern, name);
        return contains?.kind === 'contains'
          ? words.contains(words.inside(column?.label ?? name), contains.value, negated)
          : words.like(subject, this.value(expression.pattern), negated);
      }
      case 'isNull':
        return words.missing(subject, negated);
      default:
        throw new Error(`no words for ${JSON.stringify(expression satisfies never)}`);
    }
  }

  private value(expression: Expression, column?: ColumnDescription): string {
    switch (expression.kind) {
      case 'property':
        return this.label(expression.name);
      case 'text':
        return column?.type.kind === 'enum'
          ? expression.value
          : this.words.quoted(expression.value);
      case 'number':
      case 'date':
      case 'timestamp':
        return this.show(expression.value, column);
      case 'boolean':
        return expression.value ? this.messages.yes : this.messages.no;
      case 'call':
        return `${expression.name}(${expression.args.map((one) => this.value(one)).join(', ')})`;
      case 'arithmetic': {
        const { left, operator, right } = expression;
        return `${this.value(left)} ${operator} ${this.value(right)}`;
      }
      case 'interval':
        return this.words.stretch(this.value(expression.start), this.value(expression.end));
      case 'unbounded':
        return this.words.unbounded;
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

  private label(name: string): string {
    return this.words.inside(this.column(name)?.label ?? name);
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
