import type { Expression } from '@ephoros/core/expression';
import { isOfGroups, readPattern, spokenTerm, type SortTerm } from '@ephoros/core/query';
import {
  isAggregateName,
  labelOf,
  valueLabelOf,
  type ColumnDescription,
  type TableDescription,
} from '@ephoros/core/schema';
import { partsOf, type Reading, type View, type ViewPart } from '@ephoros/core/view';
import { english } from '../messages/english.ts';
import type { Messages } from '../messages/messages.ts';

/** A piece of the view sentence. What says a part of the view can be changed where it stands. */
export type Phrase =
  /** `fixed` is a condition that no reader can remove. */
  | { readonly kind: 'plain' | 'table' | 'fixed'; readonly text: string }
  | {
      readonly kind: ViewPart['kind'];
      readonly text: string;
      /** Which of the view's parts (see `partsOf`), from 0. */
      readonly part: number;
    };

/** How a sentence speaks. */
export interface SentenceOptions {
  /** Renders a literal for people (a date, a number); by default it stands as written. */
  readonly show?: (value: string, column?: ColumnDescription) => string;
  /** Writes a number of rows for people; by default as it is. */
  readonly count?: (rows: number) => string;
  /** A column by its name, also a related one; by default the table's own. */
  readonly column?: (name: string) => ColumnDescription | undefined;
  /** How rows are read where the view does not say; by page by default. */
  readonly reading?: Reading;
  /** A condition that is joined to every query. */
  readonly fixed?: Expression | undefined;
  /** English by default. */
  readonly messages?: SpokenMessages;
}

type SpokenMessages = Pick<
  Messages,
  'sentence' | 'yes' | 'no' | 'readingPages' | 'readingScroll' | 'readingMore' | 'notCounted'
>;

/**
 * A view stated as one readable sentence, in phrases to be set one after the other: "Passages
 * where status is disputed, newest passed at first, 50 a page".
 */
export function sentence(
  view: View,
  table: TableDescription,
  options: SentenceOptions = {},
): readonly Phrase[] {
  const speaker = new Speaker(table, options);
  const phrases: Phrase[] = [{ kind: 'table', text: table.title }];
  // What no reader can change comes first, and opens nothing.
  const { fixed } = options;
  if (fixed !== undefined) {
    phrases.push(
      { kind: 'plain', text: speaker.where },
      { kind: 'fixed', text: speaker.say(fixed, false) },
    );
  }
  const parts = partsOf(view, table);
  for (const [index, part] of parts.entries()) {
    // How the rows of a grouping are read says nothing of its lines.
    if (part.kind === 'reading' && (view.group ?? []).length > 0) continue;
    const first = parts[index - 1]?.kind !== part.kind;
    const begins = first && !(part.kind === 'condition' && fixed !== undefined);
    const [before, text] = speaker.sayPart(part, begins, view);
    phrases.push({ kind: 'plain', text: before }, { kind: part.kind, text, part: index });
  }
  return phrases.filter(({ text }) => text !== '');
}

/** The same as plain text, for paper: without how it is read, which is nothing to be read there. */
export function sentenceText(
  view: View,
  table: TableDescription,
  options: SentenceOptions = {},
): string {
  const phrases = sentence(view, table, options).filter(({ kind }) => kind !== 'reading');
  const text = phrases.map((phrase) => phrase.text).join('');
  return text.replace(/[,،]\s*$/, '');
}

/** One condition in the words of the sentence. */
export function spokenCondition(
  condition: Expression,
  table: TableDescription,
  options: SentenceOptions = {},
): string {
  return new Speaker(table, options).say(condition, false);
}

class Speaker {
  private readonly column: (name: string) => ColumnDescription | undefined;
  private readonly show: (value: string, column?: ColumnDescription) => string;
  private readonly count: (rows: number) => string;
  private readonly messages: SpokenMessages;
  private readonly table: TableDescription;
  private readonly reading: Reading;

  constructor(table: TableDescription, options: SentenceOptions) {
    const { show, count, column, messages, reading = 'pages' } = options;
    this.column = column ?? ((name) => table.columns.find((one) => one.name === name));
    this.show = show ?? ((value) => value);
    this.count = count ?? String;
    this.messages = messages ?? english;
    this.table = table;
    this.reading = reading;
  }

  get where(): string {
    return this.words.where;
  }

  /** What stands before a part, and its phrase; `first` of its kind. */
  sayPart(part: ViewPart, first: boolean, view: View): readonly [before: string, text: string] {
    const { words } = this;
    const place = first ? 0 : 1;
    switch (part.kind) {
      case 'condition':
        return [first ? words.where : words.and, this.say(part.condition, false)];
      case 'search': {
        const written = words.mentioning(part.words, view.filter !== undefined);
        const text = written.replace(/^[\s\p{P}]+/u, '');
        return [written.slice(0, written.length - text.length), text];
      }
      case 'group':
        return [words.groupedBy[place], this.sayTerm(part.term.expression)];
      case 'aggregate':
        return [words.with[place], this.sayTerm(part.term.expression)];
      case 'sort': {
        const { term } = part;
        return [
          words.sorted[place],
          isOfGroups(term, view) ? this.sayGroupSort(term) : this.saySort(term),
        ];
      }
      case 'reading':
        return [words.sorted[0], this.sayReading(part)];
      default:
        throw new Error(`no words for ${JSON.stringify(part satisfies never)}`);
    }
  }

  private sayReading({ reading, limit, total }: Extract<ViewPart, { kind: 'reading' }>): string {
    const { readingPages, readingScroll, readingMore, notCounted } = this.messages;
    const size = this.count(limit ?? this.table.pageSizes[0] ?? 50);
    const reads: Readonly<Record<Reading, string>> = {
      pages: readingPages(size),
      scroll: withinSentence(readingScroll),
      more: readingMore(size),
    };
    const read = reads[reading ?? this.reading];
    return read + (total === undefined || total === 'exact' ? '' : notCounted[total]);
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
    const text = call === undefined ? this.label(name) : this.sayTerm(call);
    if (call !== undefined && isAggregateName(call.name)) {
      return descending ? highest(text) : lowest(text);
    }
    return groupsBy(text, descending);
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
        const comparisonWords = isTime(column) ? timeComparisons : comparisons;
        return `${this.value(left, column)} ${comparisonWords[comparator]} ${this.value(right, column)}`;
      }
      case 'between':
      case 'in':
      case 'like':
      case 'isNull':
        return this.sayPredicate(expression, false);
      case 'boolean':
        return expression.value ? this.words.always : this.words.never;
      case 'call':
        return this.sayCall(expression) ?? this.value(expression);
      case 'property':
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

  /** Of selected rows, and of rows that refer to the row; undefined for other functions. */
  private sayCall({ name, args }: Extract<Expression, { kind: 'call' }>): string | undefined {
    if (name === 'selected') return this.words.selected(args.length, false);
    const [of, condition] = args;
    if (name !== 'has' || of?.kind !== 'property') return undefined;
    const relation = this.words.inside(labelOf(of.name));
    return this.words.has(relation, condition && this.say(condition, false));
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
      case 'call':
        return operand.name === 'selected'
          ? this.words.selected(operand.args.length, true)
          : this.words.not(this.say(operand));
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
        const sought = readPattern(expression.operand, expression.pattern, name);
        if (sought === undefined) {
          return words.like(subject, this.value(expression.pattern), negated);
        }
        const label = words.inside(column?.label ?? name);
        return words[sought.operator](label, sought.text, negated);
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
        return (
          valueLabelOf(expression.value, column) ??
          (column?.type.kind === 'enum' ? expression.value : this.words.quoted(expression.value))
        );
      case 'number':
      case 'date':
      case 'timestamp':
        return this.show(expression.value, column);
      case 'boolean': {
        const plain = expression.value ? this.messages.yes : this.messages.no;
        return valueLabelOf(String(expression.value), column) ?? plain;
      }
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

/** A label as it stands within a sentence. */
function withinSentence(label: string): string {
  return label.charAt(0).toLowerCase() + label.slice(1);
}

function isTime(column: ColumnDescription | undefined): boolean {
  return column?.type.kind === 'date' || column?.type.kind === 'timestamp';
}
