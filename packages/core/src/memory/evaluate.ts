import type {
  CheckedColumn,
  CheckedExpression,
  CheckedMatch,
  CheckedScalar,
  CheckedSearch,
  FunctionName,
} from '../check/index.ts';
import type { Comparator } from '../expression/index.ts';
import { ignoresCase, isComparable, type ColumnType, type Relationship } from '../schema/index.ts';
import { absolute, calculate, floorTo, fromFloat, round, type Decimal } from '../decimal/index.ts';
import { isForever } from '../moment/index.ts';
import { beginningOf, partOf } from './calendar.ts';
import { isLike } from './like.ts';
import { byCodePoint, type TextOrder } from './text-order.ts';
import { compareComputed, compute, floatOf, type Computed } from './value.ts';

/** A row by column name, in the encoding that answers have. */
export type MemoryRow = Readonly<Record<string, unknown>>;

type Arithmetic = Extract<CheckedScalar, { kind: 'arithmetic' }>;

const meets: Readonly<Record<Comparator, (difference: number) => boolean>> = {
  '=': (difference) => difference === 0,
  '<>': (difference) => difference !== 0,
  '<': (difference) => difference < 0,
  '<=': (difference) => difference <= 0,
  '>': (difference) => difference > 0,
  '>=': (difference) => difference >= 0,
};

/** Evaluates conditions and values on rows. Null stands for what is unknown. */
export class Evaluator {
  private readonly textOrder: TextOrder;
  private readonly rowsOf: (table: string) => readonly MemoryRow[];
  private readonly constants = new Map<CheckedScalar, Computed | null>();
  private readonly indexes = new Map<Relationship, Map<string, MemoryRow[]>>();

  constructor(textOrder: TextOrder, rowsOf: (table: string) => readonly MemoryRow[]) {
    this.textOrder = textOrder;
    this.rowsOf = rowsOf;
  }

  /** The rows that meet a condition and in which the searched words occur. */
  matching<Row extends MemoryRow>(
    { filter, search }: CheckedMatch,
    rows: readonly Row[],
  ): readonly Row[] {
    return rows.filter(
      (row) =>
        (filter === undefined || this.condition(filter, row) === true) &&
        (search === undefined || this.finds(search, row)),
    );
  }

  /** Three-valued: true, false, or null for unknown. */
  condition(expression: CheckedExpression, row: MemoryRow): boolean | null {
    switch (expression.kind) {
      case 'and':
        return and(expression.operands.map((operand) => this.condition(operand, row)));
      case 'or':
        return not(and(expression.operands.map((operand) => not(this.condition(operand, row)))));
      case 'not':
        return not(this.condition(expression.operand, row));
      case 'comparison':
        return this.compare(expression.left, expression.comparator, expression.right, row);
      case 'between':
        return and([
          this.compare(expression.operand, '>=', expression.low, row),
          this.compare(expression.operand, '<=', expression.high, row),
        ]);
      case 'in': {
        const found = expression.members.map((member) =>
          not(this.compare(expression.operand, '=', member, row)),
        );
        return not(and(found));
      }
      case 'like': {
        const [text, pattern] = [
          this.text(expression.operand, row),
          this.text(expression.pattern, row),
        ];
        if (text === null || pattern === null) return null;
        if (!ignoresCase(expression.operand.type)) return isLike(text, pattern);
        // Unlike "=", LIKE knows no letters of citext but those of the column's own collation.
        const small = this.textOrder === byCodePoint ? asciiSmall : smallLetters;
        return isLike(small(text), small(pattern));
      }
      case 'isNull':
        return this.value(expression.operand, row) === null;
      case 'truth': {
        const value = this.value(expression.operand, row);
        return value?.kind === 'truth' ? value.value : null;
      }
      case 'selected': {
        const { columns, keys } = expression;
        return keys.some((parts) =>
          columns.every((column, index) => this.isPart(column, parts[index], row)),
        );
      }
      case 'matching': {
        const { filter, search, except } = expression;
        if (filter !== undefined && this.condition(filter, row) !== true) return false;
        if (search !== undefined && !this.finds(search, row)) return false;
        return except === undefined || this.condition(except, row) !== true;
      }
      case 'has':
        return this.referring(expression, row) > 0;
      default:
        throw new Error(`cannot evaluate ${JSON.stringify(expression satisfies never)}`);
    }
  }

  /** Whether a column of a key has such a value; what cannot be compared, such a spelling. */
  private isPart(
    column: CheckedColumn,
    part: { readonly text: string; readonly value: string } | undefined,
    row: MemoryRow,
  ): boolean {
    const { type, path, own } = column;
    if (part === undefined) return false;
    const { text, value } = part;
    if (isComparable(type)) {
      return (
        this.compare({ kind: 'column', column, type }, '=', { kind: 'value', value, type }, row) ===
        true
      );
    }
    const raw = this.raw(path, own, row);
    return (typeof raw === 'string' ? raw : JSON.stringify(raw)) === text;
  }

  /** Whether every term occurs in some column. Words of a language are not known here. */
  finds({ terms, columns }: CheckedSearch, row: MemoryRow): boolean {
    const texts = columns.map(({ path, own }) => {
      const value = this.raw(path, own, row);
      return typeof value === 'string' ? value.toLowerCase() : '';
    });
    return terms.every((term) => texts.some((text) => text.includes(term.toLowerCase())));
  }

  /** A column's value in a row, or in the row it refers to. */
  column({ path, own, type }: CheckedColumn, row: MemoryRow): Computed | null {
    return compute(this.raw(path, own, row), type);
  }

  /** The same as it stands in the row's JSON. */
  raw(path: readonly Relationship[], own: string, row: MemoryRow): unknown {
    let current: MemoryRow | undefined = row;
    for (const step of path) {
      const key: string | undefined = current && keyOf(step.columns, current);
      current = key === undefined ? undefined : this.index(step).get(key)?.[0];
    }
    return current?.[own] ?? null;
  }

  private compare(
    left: CheckedScalar,
    comparator: Comparator,
    right: CheckedScalar,
    row: MemoryRow,
  ): boolean | null {
    const [a, b] = [this.value(left, row), this.value(right, row)];
    if (a === null || b === null) return null;
    return meets[comparator](compareComputed(a, b, this.textOrder));
  }

  /** What is written in the query is read once, not for each row. */
  private constant(scalar: Extract<CheckedScalar, { kind: 'value' }>): Computed | null {
    const known = this.constants.get(scalar);
    if (known !== undefined) return known;
    const made = compute(scalar.value, scalar.type);
    this.constants.set(scalar, made);
    return made;
  }

  value(scalar: CheckedScalar, row: MemoryRow): Computed | null {
    switch (scalar.kind) {
      case 'column':
        return this.column(scalar.column, row);
      case 'value':
        return this.constant(scalar);
      case 'list':
        return {
          kind: 'list',
          items: scalar.members.map((member) => asMember(this.value(member, row), scalar.type)),
        };
      case 'condition': {
        const holds = this.condition(scalar.condition, row);
        return holds === null ? null : truth(holds);
      }
      case 'arithmetic':
        return this.arithmetic(scalar, row);
      case 'function':
        return scalar.name === 'bin'
          ? this.bin(scalar, row)
          : this.call(scalar.name, scalar.args, row);
      case 'count':
        return whole(this.referring(scalar, row));
      default:
        throw new Error(`cannot evaluate ${JSON.stringify(scalar satisfies never)}`);
    }
  }

  private arithmetic({ operator, left, right, type }: Arithmetic, row: MemoryRow): Computed | null {
    const [a, b] = [this.value(left, row), this.value(right, row)];
    if (a === null || b === null) return null;
    if (type.kind !== 'float' && operator !== '^') {
      const value = calculate(operator, decimalOf(a), decimalOf(b));
      return value && { kind: 'decimal', value };
    }
    const [x, y] = [floatOf(a), floatOf(b)];
    if (operator === '/' && y === 0) return null;
    const results: Readonly<Record<string, number>> = {
      '+': x + y,
      '-': x - y,
      '*': x * y,
      '/': x / y,
    };
    return { kind: 'float', value: results[operator] ?? x ** y, bits: 64 };
  }

  /** Where the bin begins that holds a value. */
  private bin(
    { args, type }: Extract<CheckedScalar, { kind: 'function' }>,
    row: MemoryRow,
  ): Computed | null {
    const [of, width, zone] = args;
    const value = of && this.value(of, row);
    if (value === undefined || value === null || width?.kind !== 'value') return null;
    if (value.kind !== 'order') {
      const by = decimalOf(compute(width.value, width.type) ?? value);
      return { kind: 'decimal', value: floorTo(decimalOf(value), by) };
    }
    if (isForever(value.value)) return value;
    const named = zone?.kind === 'value' ? zone.value : undefined;
    const zoned = type.kind === 'timestamp' && type.zone;
    const text = beginningOf(value.value, width.value, named, type.kind === 'date', zoned);
    return compute(text, type);
  }

  private call(
    name: FunctionName,
    args: readonly CheckedScalar[],
    row: MemoryRow,
  ): Computed | null {
    const [a, b] = args.map((argument) => this.value(argument, row));
    if (a === null || a === undefined || b === null) return null;
    if (a.kind === 'list')
      return truth(this.listTest(name, a.items, b?.kind === 'list' ? b.items : []));
    if (a.kind === 'order') {
      if (isForever(a.value)) return null;
      return whole(partOf(name, a.value, b?.kind === 'text' ? b.text : undefined));
    }
    if (a.kind === 'text') return textFunction(name, a.text, b?.kind === 'text' ? b.text : '');
    if (name === 'abs') {
      if (a.kind === 'float') return { ...a, value: Math.abs(a.value) };
      return { kind: 'decimal', value: absolute(decimalOf(a)) };
    }
    const places = b === undefined ? 0 : floatOf(b);
    return { kind: 'decimal', value: round(decimalOf(a), places) };
  }

  private listTest(
    name: FunctionName,
    a: readonly (Computed | null)[],
    b: readonly (Computed | null)[],
  ): boolean {
    const same = (one: Computed, other: Computed): boolean =>
      compareComputed(one, other, this.textOrder) === 0;
    const [flatA, flatB] = [flat(a), flat(b)];
    const holds = (list: readonly (Computed | null)[], item: Computed | null): boolean =>
      item !== null && list.some((one) => one !== null && same(one, item));
    switch (name) {
      case 'a_contains':
        return flatB.every((item) => holds(flatA, item));
      case 'a_containedby':
        return flatA.every((item) => holds(flatB, item));
      case 'a_overlaps':
        return flatA.some((item) => holds(flatB, item));
      default:
        // Sets are equal that hold each other, whatever the order.
        return (
          flatB.every((item) => holds(flatA, item)) && flatA.every((item) => holds(flatB, item))
        );
    }
  }

  private text(scalar: CheckedScalar, row: MemoryRow): string | null {
    const value = this.value(scalar, row);
    return value?.kind === 'text' ? value.text : null;
  }

  private referring(
    { relationship, condition }: { relationship: Relationship; condition?: CheckedExpression },
    row: MemoryRow,
  ): number {
    const key = keyOf(relationship.columns, row);
    const rows = key === undefined ? [] : (this.index(relationship).get(key) ?? []);
    if (condition === undefined) return rows.length;
    return rows.filter((one) => this.condition(condition, one) === true).length;
  }

  private index(relationship: Relationship): Map<string, MemoryRow[]> {
    const known = this.indexes.get(relationship);
    if (known !== undefined) return known;
    const index = new Map<string, MemoryRow[]>();
    for (const row of this.rowsOf(relationship.table)) {
      const key = keyOf(relationship.references, row);
      if (key === undefined) continue;
      const rows = index.get(key);
      if (rows === undefined) index.set(key, [row]);
      else rows.push(row);
    }
    this.indexes.set(relationship, index);
    return index;
  }
}

function smallLetters(text: string): string {
  return text.toLowerCase();
}

function asciiSmall(text: string): string {
  return text.replace(/[A-Z]+/g, smallLetters);
}

/** A text in a list is compared as the list's own are, whatever column it comes from. */
function asMember(value: Computed | null, type: ColumnType): Computed | null {
  return value?.kind === 'text' && type.kind === 'array' && type.element.kind === 'text'
    ? compute(value.text, type.element)
    : value;
}

/** Columns that tie two rows; undefined where one is missing, since null equals nothing. */
function keyOf(columns: readonly string[], row: MemoryRow): string | undefined {
  const values = columns.map((name) => row[name] ?? null);
  return values.includes(null) ? undefined : JSON.stringify(values.map(String));
}

function and(operands: readonly (boolean | null)[]): boolean | null {
  if (operands.includes(false)) return false;
  return operands.includes(null) ? null : true;
}

function not(value: boolean | null): boolean | null {
  return value === null ? null : !value;
}

function flat(items: readonly (Computed | null)[]): readonly (Computed | null)[] {
  return items.flatMap((item) => (item?.kind === 'list' ? flat(item.items) : [item]));
}

function truth(value: boolean): Computed {
  return { kind: 'truth', value };
}

export function whole(value: number): Computed {
  return { kind: 'decimal', value: { kind: 'finite', digits: BigInt(value), scale: 0 } };
}

export function decimalOf(value: Computed): Decimal {
  if (value.kind === 'decimal') return value.value;
  if (value.kind === 'float') return fromFloat(value.value, value.bits);
  throw new Error(`a ${value.kind} is no number`);
}

function textFunction(name: FunctionName, a: string, b: string): Computed {
  const text = (value: string): Computed => ({ kind: 'text', text: value });
  switch (name) {
    case 'casei':
      return text(foldCase(a));
    case 'lower':
      return text(a.toLowerCase());
    case 'upper':
      return text(a.toUpperCase());
    case 'initial':
      return text(([...a][0] ?? '').toUpperCase());
    case 'accenti':
      return text(a.normalize('NFD').replace(/[\u0300-\u036f]/g, ''));
    case 'length':
      return whole([...a].length);
    case 'starts':
      return truth(a.startsWith(b));
    case 'ends':
      return truth(a.endsWith(b));
    default:
      return truth(a.includes(b));
  }
}

/** Case folding (Unicode, chapter 3.13): capitals first, so that "ß" becomes "ss". */
function foldCase(text: string): string {
  // The dotless i is a letter of its own; the small sigma has one form.
  const parts = text.split('ı').map((part) => part.toLowerCase().toUpperCase().toLowerCase());
  return parts.join('ı').replaceAll('ς', 'σ');
}
