import type { Value } from '../answer/index.ts';
import { checkQuery, selectedRows, type CheckOptions } from '../check/index.ts';
import { parseExpression, type ExpressionLimits } from '../expression/index.ts';
import { inParameter, nearest, problem, type Problem } from '../problem/index.ts';
import { parseSearch } from '../query/index.ts';
import {
  printKey,
  type ColumnDescription,
  type TableDescription,
  type Tables,
} from '../schema/index.ts';
import type {
  Addition,
  Change,
  MatchingChange,
  Removal,
  RowChange,
  WrittenValue,
} from './change.ts';
import type {
  CheckedChange,
  CheckedMatchingChange,
  CheckedRowChange,
  CheckedValue,
  CheckedValues,
  ExpectedValue,
} from './checked.ts';
import { inOrderOfReferences } from './references.ts';
import { brokenRules } from './rules.ts';
import { writtenValue } from './written-value.ts';

export interface ChangeOptions extends CheckOptions {
  readonly tables: Tables;
  /** The table of changes that name none. */
  readonly table?: TableDescription;
  readonly limits?: ExpressionLimits;
  /** The JSON text of a value, where it is known: it has all digits of its numbers. */
  readonly raw?: (change: number, member: 'was' | 'values', column: string) => string | undefined;
  /** Names of the tables there are, for one that is misspelled. */
  readonly names?: Iterable<string>;
}

/**
 * Holds a set of changes against the descriptions of its tables: what may be changed, names, types,
 * lengths, what must not be missing, patterns and rules. Gives every error, with its change and
 * column, and the other changes, in an order in which rows are there before others refer to them.
 */
export function checkChanges(
  changes: readonly Change[],
  options: ChangeOptions,
): { readonly checked: readonly CheckedChange[]; readonly problems: readonly Problem[] } {
  const problems: Problem[] = [];
  const check = new ChangeCheck(options, changes, problems);
  const checked = changes.flatMap((change, at) => check.change(change, at) ?? []);
  const ordered = inOrderOfReferences(checked);
  if (ordered === undefined) problems.push(problem('circular-refs', {}));
  return { checked: ordered ?? [], problems };
}

const actions = { add: 'add rows to', change: 'change rows of', remove: 'remove rows of' } as const;

/** That something may not be done to a table. */
export function actionNotAllowed(action: keyof typeof actions, table: string): Problem {
  return problem('change-not-allowed', { what: actions[action], table });
}

class ChangeCheck {
  private readonly options: ChangeOptions;
  private readonly changes: readonly Change[];
  private readonly problems: Problem[];
  private readonly refs = new Map<string, number>();
  /** The rows that changes of the set are about, by their table and key. */
  private readonly rows = new Map<string, number>();

  constructor(options: ChangeOptions, changes: readonly Change[], problems: Problem[]) {
    this.options = options;
    this.changes = changes;
    this.problems = problems;
    for (const [at, change] of changes.entries()) {
      if (change.kind !== 'add' || change.ref === undefined) continue;
      if (this.refs.has(change.ref)) this.say(at, problem('repeated-ref', { ref: change.ref }));
      else this.refs.set(change.ref, at);
    }
  }

  change(change: Change, at: number): CheckedChange | undefined {
    const before = this.problems.length;
    const table = this.tableOf(change);
    if (table === undefined) {
      const name = change.table ?? '';
      const near = nearest(name, this.options.names ?? []);
      this.say(at, problem('unknown-table', { name, near }));
      return undefined;
    }
    if (!this.mayBe(change.kind, table, at)) return undefined;
    const checked = this.checked(change, table, at);
    return this.problems.length > before ? undefined : checked;
  }

  private checked(change: Change, table: TableDescription, at: number): CheckedChange | undefined {
    switch (change.kind) {
      case 'add': {
        const values = this.values(change, table, at);
        this.required(change, table, at);
        this.rules(values, table, at);
        const { ref } = change;
        return { kind: 'add', at, table, ...(ref === undefined ? {} : { ref }), values };
      }
      case 'change': {
        const row = this.row(change, table, at);
        const values = this.values(change, table, at);
        if (values.size === 0 && Object.keys(change.values).length === 0) {
          this.say(at, problem('nothing-to-change', {}));
        }
        if (row === undefined) return undefined;
        this.rules(
          new Map<string, CheckedValue | ExpectedValue>([...row.was, ...values]),
          table,
          at,
        );
        return { kind: 'change', at, table, ...row, values };
      }
      case 'remove': {
        const row = this.row(change, table, at);
        return row && { kind: 'remove', at, table, ...row };
      }
      case 'set':
        return this.matching(change, table, at);
      default:
        throw new Error(`unknown change ${JSON.stringify(change satisfies never)}`);
    }
  }

  private matching(
    change: MatchingChange,
    table: TableDescription,
    at: number,
  ): CheckedMatchingChange | undefined {
    const values = this.values(change, table, at);
    if (Object.keys(change.values).length === 0) this.say(at, problem('nothing-to-change', {}));
    const { filter, search = '', count } = change;
    const parsed = filter.trim() === '' ? undefined : parseExpression(filter, this.options.limits);
    if (parsed !== undefined && 'problems' in parsed) {
      for (const one of inParameter('filter', parsed.problems)) this.say(at, one);
      return undefined;
    }
    const terms = parseSearch(search);
    const query = {
      ...(parsed && { filter: parsed.expression }),
      ...(terms.length > 0 && { search: terms }),
    };
    const read = checkQuery(query, table, this.options);
    if ('problems' in read) {
      for (const one of read.problems) this.say(at, one);
      return undefined;
    }
    const { filter: found, search: sought } = read.checked;
    const match = { ...(found && { filter: found }), ...(sought && { search: sought }) };
    return { kind: 'set', at, table, match, ...(count === undefined ? {} : { count }), values };
  }

  private tableOf({ table }: Change): TableDescription | undefined {
    const { table: own, tables } = this.options;
    if (table === undefined || table === own?.name) return own;
    // Of a set over one table no change is about another one.
    return own === undefined ? tables(table) : undefined;
  }

  private mayBe(kind: Change['kind'], table: TableDescription, at: number): boolean {
    const { changes, name, key } = table;
    const action = kind === 'set' ? 'change' : kind;
    if (key.length === 0) this.say(at, problem('no-key', { table: name }));
    else if (changes === undefined) this.say(at, problem('not-changeable', { table: name }));
    else if (!changes[action]) {
      this.say(at, actionNotAllowed(action, name));
    } else return true;
    return false;
  }

  /** The row that a change is about, by its key and what was read of it. */
  private row(
    { key, was = {} }: RowChange | Removal,
    table: TableDescription,
    at: number,
  ): Pick<CheckedRowChange, 'key' | 'address' | 'was'> | undefined {
    const found: Problem[] = [];
    const address = printKey(key);
    const span = { start: 0, end: 0 };
    const selected = selectedRows([{ key: address, span }], table, span, found);
    for (const { position: _position, length: _length, ...one } of found) this.say(at, one);
    const visible = new Map<string, ExpectedValue>();
    for (const [name, value] of Object.entries(was)) {
      const column = this.column(name, table, at);
      const read = column && this.readValue(value, column, at);
      if (read !== undefined) visible.set(name, read);
    }
    const [parts] = selected?.keys ?? [];
    if (parts === undefined) return undefined;
    const texts = parts.map(({ value }, index) => plainKey(value, table, index));
    const same = JSON.stringify([table.name, texts]);
    const other = this.rows.get(same);
    if (other !== undefined) this.say(at, problem('duplicate-row', { other }));
    this.rows.set(same, at);
    return { key: texts, address, was: visible };
  }

  private values(
    change: Exclude<Change, Removal>,
    table: TableDescription,
    at: number,
  ): CheckedValues {
    const action = change.kind === 'add' ? 'add' : 'change';
    const values = new Map<string, CheckedValue>();
    for (const [name, value] of Object.entries(change.values)) {
      const column = this.column(name, table, at);
      if (column === undefined) continue;
      if (column.writing?.[action] !== true) {
        this.say(at, problem('column-not-writable', { name }), name);
        continue;
      }
      const read =
        column.type.kind !== 'json' && isReference(value)
          ? this.reference(value.ref, column, table, at)
          : this.read(value, column, at, 'values');
      if (read === undefined) continue;
      if (read === null && !column.nullable) {
        this.say(at, problem('missing-value', { name: column.label }), name);
      } else if (typeof read === 'string' && !isLike(read, column)) {
        const message = column.writing.pattern?.message;
        this.say(at, problem('pattern-mismatch', { message }), name);
      } else values.set(name, read);
    }
    return values;
  }

  private required({ values }: Addition, table: TableDescription, at: number): void {
    for (const { name, label, writing } of table.columns) {
      if (writing?.required !== true || Object.hasOwn(values, name)) continue;
      this.say(at, problem('missing-value', { name: label }), name);
    }
  }

  /** Of what is known of a row; the rest is visible where it is saved. */
  private rules(
    values: ReadonlyMap<string, CheckedValue | ExpectedValue>,
    table: TableDescription,
    at: number,
  ): void {
    const row: Record<string, string | null> = {};
    for (const [name, value] of values) {
      if (value === null || typeof value === 'string') row[name] = value;
    }
    for (const { problem: one, columns } of brokenRules(row, table, this.options.tables)) {
      this.say(
        at,
        one,
        columns.find((name) => values.has(name)),
      );
    }
  }

  private column(name: string, table: TableDescription, at: number): ColumnDescription | undefined {
    const column = table.columns.find((one) => one.name === name);
    if (column !== undefined) return column;
    const near = nearest(
      name,
      table.columns.map((one) => one.name),
    );
    this.say(at, problem('unknown-column', { name, table: table.name, near }), name);
    return undefined;
  }

  private read(
    value: WrittenValue,
    { name, type }: ColumnDescription,
    at: number,
    member: 'was' | 'values',
  ): string | null | undefined {
    const raw = this.options.raw?.(at, member, name);
    const read = writtenValue(value as Value, type, raw);
    if ('text' in read) return read.text;
    const { position: _position, length: _length, ...one } = read.problem;
    this.say(at, one, name);
    return undefined;
  }

  /** A value that was read; of types whose answers are not PostgreSQL's whole text as the answer had it. */
  private readValue(
    value: Value,
    column: ColumnDescription,
    at: number,
  ): ExpectedValue | undefined {
    const { kind } = column.type;
    const text = this.read(value, column, at, 'was');
    if (text === undefined || (kind !== 'json' && kind !== 'array')) return text;
    return { answered: this.options.raw?.(at, 'was', column.name) ?? JSON.stringify(value) };
  }

  /** The column of the new row that a reference has the value of. */
  private reference(
    ref: string,
    { name }: ColumnDescription,
    table: TableDescription,
    at: number,
  ): CheckedValue | undefined {
    const other = this.refs.get(ref);
    const added = other === undefined ? undefined : this.changes[other];
    if (added === undefined) {
      this.say(at, problem('unknown-ref', { ref }), name);
      return undefined;
    }
    const there = this.tableOf(added)?.name;
    for (const { kind, table: to, columns, references } of table.relationships) {
      const index = columns.indexOf(name);
      const column = references[index];
      if (kind === 'one' && to === there && column !== undefined) return { ref, column };
    }
    this.say(at, problem('ref-mismatch', { ref, name }), name);
    return undefined;
  }

  private say(change: number, one: Problem, column?: string): void {
    this.problems.push({ ...one, change, ...(column === undefined ? {} : { column }) });
  }
}

function isReference(value: WrittenValue): value is { readonly ref: string } {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return false;
  const { ref, ...others } = value as Readonly<Record<string, unknown>>;
  return typeof ref === 'string' && Object.keys(others).length === 0;
}

/** A number or a UUID without what two spellings of it may differ in. */
function plainKey(value: string, { key, columns }: TableDescription, index: number): string {
  const type = columns.find(({ name }) => name === key[index])?.type;
  switch (type?.kind) {
    case 'integer':
      return /^-?\d+$/.test(value) ? String(BigInt(value)) : value;
    case 'uuid':
      return value.toLowerCase();
    default:
      return value;
  }
}

function isLike(text: string, { writing }: ColumnDescription): boolean {
  const { pattern } = writing ?? {};
  return pattern === undefined || patternOf(pattern.text).test(text);
}

const patterns = new Map<string, RegExp>();
const mostPatterns = 500;

function patternOf(text: string): RegExp {
  const made = patterns.get(text) ?? new RegExp(`^(?:${text})$`, 'u');
  if (patterns.size >= mostPatterns) patterns.clear();
  patterns.set(text, made);
  return made;
}
