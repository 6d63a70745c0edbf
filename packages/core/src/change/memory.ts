import type { Row, Value } from '../answer/index.ts';
import { Evaluator, unicodeOrder, type TextOrder } from '../memory/index.ts';
import { problem, type Problem } from '../problem/index.ts';
import {
  keyParts,
  printKey,
  type ColumnType,
  type TableDescription,
  type Tables,
} from '../schema/index.ts';
import type { Change } from './change.ts';
import { checkChanges } from './check.ts';
import type { CheckedChange, CheckedValues, ExpectedValue } from './checked.ts';
import { brokenRules } from './rules.ts';
import { isSameAnswer } from './same-answer.ts';
import type { ChangeOutcome, ChangesAnswer } from './schemas.ts';
import { writtenValue } from './written-value.ts';

/** What has become of a set of changes to rows at hand. */
export type AppliedChanges =
  | { readonly kind: 'saved'; readonly rows: readonly Row[]; readonly answer: ChangesAnswer }
  | { readonly kind: 'conflict'; readonly outcomes: readonly ChangeOutcome[] }
  | { readonly kind: 'refused'; readonly problems: readonly Problem[] };

/**
 * Makes the changes of a set on rows at hand, all or none, as the service does on a table: the
 * second executor of change sets. A new row without a key gets the next whole number.
 */
export function applyChanges(
  rows: readonly Row[],
  changes: readonly Change[],
  table: TableDescription,
  textOrder: TextOrder = unicodeOrder,
): AppliedChanges {
  const tables: Tables = (name) => (name === table.name ? table : undefined);
  const { checked, problems } = checkChanges(changes, { table, tables });
  if (problems.length > 0) return { kind: 'refused', problems };
  return new Applying(rows, changes, { table, tables, textOrder }).apply(checked);
}

interface Surroundings {
  readonly table: TableDescription;
  readonly tables: Tables;
  readonly textOrder: TextOrder;
}

class Applying {
  private readonly table: TableDescription;
  private readonly tables: Tables;
  private readonly given: readonly Change[];
  private readonly textOrder: TextOrder;
  /** By their keys, in the order in which they were. */
  private readonly rows: Map<string, Row>;
  private readonly refs = new Map<string, Row>();
  /** By the keys of rows that were added or changed, which change it was. */
  private readonly written = new Map<string, number>();
  private readonly outcomes = new Map<number, ChangeOutcome>();
  private readonly problems: Problem[] = [];

  constructor(
    rows: readonly Row[],
    given: readonly Change[],
    { table, tables, textOrder }: Surroundings,
  ) {
    this.table = table;
    this.tables = tables;
    this.given = given;
    this.textOrder = textOrder;
    this.rows = new Map(rows.map((row) => [this.keyOf(row), row]));
  }

  apply(checked: readonly CheckedChange[]): AppliedChanges {
    for (const change of checked) this.make(change);
    this.holdToRules();
    if (this.problems.length > 0) return { kind: 'refused', problems: this.problems };
    const outcomes = this.given.map(
      (_change, at): ChangeOutcome => this.outcomes.get(at) ?? { kind: 'held' },
    );
    if (outcomes.every(({ kind }) => kind === 'done')) {
      return { kind: 'saved', rows: [...this.rows.values()], answer: { id: null, outcomes } };
    }
    const held = outcomes.map((one): ChangeOutcome =>
      one.kind === 'done' ? { kind: 'held' } : one,
    );
    return { kind: 'conflict', outcomes: held };
  }

  private make(change: CheckedChange): void {
    const { at } = change;
    switch (change.kind) {
      case 'add': {
        const row = this.withKey({ ...this.empty(), ...this.read(change.values, at) });
        if (!this.put(row, at)) return;
        if (change.ref !== undefined) this.refs.set(change.ref, row);
        this.done(at, row);
        return;
      }
      case 'change':
      case 'remove': {
        const row = this.rows.get(change.address);
        const differing =
          row &&
          [...change.was].flatMap(([name, readValue]) =>
            this.isSame(row[name] ?? null, readValue, name) ? [] : [name],
          );
        if (row === undefined || differing === undefined || differing.length > 0) {
          const now = row ?? null;
          this.outcomes.set(at, { kind: 'conflict', columns: differing ?? [], now });
        } else if (change.kind === 'remove') {
          this.rows.delete(change.address);
          this.outcomes.set(at, { kind: 'done', key: this.partsOf(row), row: null });
        } else this.change(change.address, row, { ...row, ...this.read(change.values, at) }, at);
        return;
      }
      case 'set': {
        const evaluator = new Evaluator(this.textOrder, () => []);
        const found = evaluator.matching(change.match, [...this.rows.values()]);
        if (change.count !== undefined && change.count !== found.length) {
          this.outcomes.set(at, { kind: 'conflict', count: found.length });
          return;
        }
        const values = this.read(change.values, at);
        for (const row of found) this.change(this.keyOf(row), row, { ...row, ...values }, at);
        this.outcomes.set(at, { kind: 'done', count: found.length });
        return;
      }
      default:
        throw new Error(`unknown change ${JSON.stringify(change satisfies never)}`);
    }
  }

  /** Rows as they are with all changes made: what a change did not name of them is known here, too. */
  private holdToRules(): void {
    for (const [address, at] of this.written) {
      const row = this.rows.get(address);
      const broken = row === undefined ? [] : brokenRules(row, this.table, this.tables);
      for (const { problem: one, columns } of broken) {
        const [column] = columns;
        this.problems.push({ ...one, change: at, ...(column === undefined ? {} : { column }) });
      }
    }
  }

  private change(address: string, before: Row, after: Row, at: number): void {
    const key = this.keyOf(after);
    if (key === address) {
      this.rows.set(key, after);
    } else {
      this.rows.delete(address);
      if (!this.put(after, at)) this.rows.set(address, before);
    }
    this.done(at, after);
  }

  private put(row: Row, at: number): boolean {
    const key = this.keyOf(row);
    if (!this.rows.has(key)) {
      this.rows.set(key, row);
      return true;
    }
    const [column = ''] = this.table.key;
    const names = this.table.key.join(', ');
    this.problems.push({ ...problem('value-taken', { names }), change: at, column });
    return false;
  }

  private done(at: number, row: Row): void {
    this.outcomes.set(at, { kind: 'done', key: this.partsOf(row), row });
    this.written.set(this.keyOf(row), at);
  }

  private empty(): Row {
    return Object.fromEntries(this.table.columns.map(({ name }) => [name, null]));
  }

  private withKey(row: Row): Row {
    const [name = '', ...others] = this.table.key;
    const column = this.table.columns.find((one) => one.name === name);
    const counts = others.length === 0 && column?.type.kind === 'integer';
    if (!counts || (row[name] ?? null) !== null) return row;
    let most = 0n;
    for (const one of this.rows.values()) {
      const { [name]: own = null } = one;
      const value = own === null ? 0n : BigInt(typeof own === 'string' ? own : JSON.stringify(own));
      if (value > most) most = value;
    }
    const next = String(most + 1n);
    return { ...row, [name]: column.encoding === 'number' ? Number(next) : next };
  }

  /** Values as answers have them. */
  private read(values: CheckedValues, at: number): Row {
    const change = this.given[at];
    const given = change === undefined || change.kind === 'remove' ? {} : change.values;
    const read: Record<string, Value> = {};
    for (const [name, value] of values) {
      const column = this.table.columns.find((one) => one.name === name);
      if (typeof value === 'object' && value !== null) {
        read[name] = this.refs.get(value.ref)?.[value.column] ?? null;
      } else if (column !== undefined) {
        read[name] = answered(value, given[name] as Value, column.type);
      }
    }
    return read;
  }

  private isSame(now: Value, readValue: ExpectedValue, name: string): boolean {
    const type = this.table.columns.find((one) => one.name === name)?.type;
    if (type === undefined) return true;
    if (typeof readValue === 'object' && readValue !== null) {
      return 'answered' in readValue && isSameAnswer(JSON.stringify(now), readValue.answered);
    }
    const read = writtenValue(now, type);
    return 'text' in read && (read.text === readValue || isSameNumber(read.text, readValue, type));
  }

  private partsOf(row: Row): readonly string[] {
    return keyParts(row, this.table.key);
  }

  private keyOf(row: Row): string {
    return printKey(this.partsOf(row));
  }
}

/** Whether two numbers are the same, however they are written. */
function isSameNumber(one: string | null, other: string | null, { kind }: ColumnType): boolean {
  if (one === null || other === null) return false;
  if (kind === 'float') return Number(one) === Number(other);
  const plain = (text: string): string =>
    text
      .replace(/^\+/, '')
      .replace(/(\.\d*?)0+$/, '$1')
      .replace(/\.$/, '');
  return kind === 'numeric' && plain(one) === plain(other);
}

/** A value in PostgreSQL's notation as an answer has it; `given` is how it was written. */
function answered(text: string | null, given: Value, type: ColumnType): Value {
  if (text === null) return null;
  switch (type.kind) {
    case 'integer':
      return type.bits === 64 ? text : Number(text);
    case 'float': {
      const number = Number(text);
      return Number.isFinite(number) ? number : text;
    }
    case 'boolean':
      return text === 'true';
    case 'numeric':
      return scaled(text, type.scale);
    case 'timestamp':
      return text.replace(' ', 'T');
    case 'json':
    case 'array':
    case 'binary':
      return given;
    default:
      return text;
  }
}

/** With as many decimals as the column has. */
function scaled(text: string, scale = 0): string {
  if (!/^[+-]?\d+(?:\.\d+)?$/.test(text)) return text;
  const [whole = '', fraction = ''] = text.replace(/^\+/, '').split('.');
  const digits = fraction.padEnd(scale, '0');
  return digits === '' ? whole : `${whole}.${digits}`;
}
