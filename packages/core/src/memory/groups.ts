import {
  sortSignature,
  type CheckedGrouping,
  type CheckedLevel,
  type CheckedScalar,
} from '../check/index.ts';
import { printDecimal, trimmed } from '../decimal/index.ts';
import { printCursor } from '../query/index.ts';
import { blankPadded } from '../schema/index.ts';
import { aggregateOf } from './aggregate.ts';
import { Evaluator, whole, type MemoryRow } from './evaluate.ts';
import { comparePlaces, notation, windowOf, type MemoryOptions, type Place } from './rows.ts';
import { byCodePoint, unicodeOrder, type TextOrder } from './text-order.ts';
import { compute, written, type Computed } from './value.ts';

/** A line of a grouping, in the encoding that answers have. */
export interface MemoryGroup {
  readonly value: unknown;
  /** How many rows it stands for. */
  readonly count: number;
  /** How many lines of the next level it stands for; null at the last level. */
  readonly below: number | null;
  readonly aggregates: Readonly<Record<string, unknown>>;
}

export interface MemoryGroups {
  readonly groups: readonly MemoryGroup[];
  /** How many lines the level has. */
  readonly total: number;
  readonly next: string | null;
  readonly previous: string | null;
}

interface Group {
  readonly value: Computed | null;
  readonly raw: unknown;
  readonly rows: MemoryRow[];
}

/** The lines of one level of a grouping, from an array of rows, as the service would give them. */
export function groupRows(
  grouping: CheckedGrouping,
  rows: readonly MemoryRow[],
  { textOrder = byCodePoint, rowsOf = () => [] }: MemoryOptions = {},
): MemoryGroups {
  const evaluator = new Evaluator(textOrder, rowsOf);
  const { levels, path, sort, containing } = grouping;
  const all = evaluator.matching(grouping, rows);
  const inside = all.filter((row) =>
    path.every((value, index) => {
      const above = levels[index];
      if (above === undefined) return true;
      const wanted = value === null ? null : compute(value, above.type);
      return keyOf(evaluator.value(above.scalar, row)) === keyOf(wanted);
    }),
  );
  const [level, next] = levels.slice(path.length);
  const found = grouped(inside, level, evaluator).filter(
    ({ raw }) => containing === undefined || level === undefined || has(raw, level, containing),
  );
  const aggregates = [...grouping.aggregates, ...grouping.hidden];
  const lines = found.map(({ value, raw, rows: own }) => {
    const computed = aggregates.map((one) =>
      aggregateOf(one, own, all, evaluator, orderOf(one.argument, textOrder)),
    );
    const line: MemoryGroup = {
      value: raw,
      count: own.length,
      below: next === undefined ? null : grouped(own, next, evaluator).length,
      aggregates: Object.fromEntries(
        grouping.aggregates.map(({ name, type, encoding }, index) => [
          name,
          written(computed[index] ?? null, type, encoding),
        ]),
      ),
    };
    const named: Readonly<Record<string, Computed | null>> = {
      value,
      count: whole(own.length),
      ...Object.fromEntries(computed.map((one, index) => [`a${index}`, one])),
    };
    return { line, at: sort.map(({ column }): Computed | null => named[column.own] ?? null) };
  });
  const scalars = new Map(aggregates.map(({ argument }, index) => [`a${index}`, argument]));
  const orders = sort.map(({ column: { own } }) =>
    orderOf(own === 'value' ? level?.scalar : scalars.get(own), textOrder),
  );
  lines.sort((one, other) => comparePlaces(one.at, other.at, sort, orders));
  const { first, end } = windowOf(
    grouping,
    lines.map(({ at }) => at),
    orders,
  );
  const window = lines.slice(first, end);
  const cursor = ({ at }: { at: Place }): string => {
    const values = sort.map(({ column: { type, encoding } }, index) =>
      notation(written(at[index] ?? null, type, encoding), type),
    );
    return printCursor({ sort: sortSignature(sort), values });
  };
  const [head] = window;
  const last = window.at(-1);
  return {
    groups: window.map(({ line }) => line),
    total: lines.length,
    next: last !== undefined && end < lines.length ? cursor(last) : null,
    previous: head !== undefined && first > 0 ? cursor(head) : null,
  };
}

/** Rows by their value of a level; all of them, none even, where there is no level. */
function grouped(
  rows: readonly MemoryRow[],
  level: CheckedLevel | undefined,
  evaluator: Evaluator,
): readonly Group[] {
  if (level === undefined) return [{ value: null, raw: null, rows: [...rows] }];
  const { scalar, type, encoding } = level;
  const groups = new Map<string, Group>();
  for (const row of rows) {
    const value = evaluator.value(scalar, row);
    const key = keyOf(value);
    const known = groups.get(key);
    if (known !== undefined) {
      known.rows.push(row);
      continue;
    }
    const raw =
      // Blank-padded texts are shown without their blanks.
      scalar.kind === 'column' && type.databaseType !== blankPadded
        ? evaluator.raw(scalar.column.path, scalar.column.own, row)
        : written(value, type, encoding);
    groups.set(key, { value, raw, rows: [row] });
  }
  return [...groups.values()];
}

/** The same for values that are equal, whatever their spelling. */
function keyOf(value: Computed | null): string {
  if (value === null) return 'null';
  switch (value.kind) {
    case 'text':
      return `text ${value.folded ?? value.text}`;
    case 'truth':
      return String(value.value);
    case 'decimal':
      return printDecimal(trimmed(value.value));
    case 'float':
      // There is one zero.
      return String(value.value + 0);
    case 'order':
      return String(value.value);
    case 'list':
      return JSON.stringify(value.items.map(keyOf));
    default:
      throw new Error(`no key for ${JSON.stringify(value satisfies never)}`);
  }
}

function has(raw: unknown, { type }: CheckedLevel, text: string): boolean {
  const whole = type.kind === 'boolean' && raw !== null ? JSON.stringify(raw) : notation(raw, type);
  return whole?.toLowerCase().includes(text.toLowerCase()) === true;
}

/** Functions of texts compare as Unicode does, whatever the collation of the column. */
function orderOf(scalar: CheckedScalar | undefined, textOrder: TextOrder): TextOrder {
  if (scalar?.kind !== 'function') return textOrder;
  return ['casei', 'lower', 'upper', 'initial'].includes(scalar.name) ? unicodeOrder : textOrder;
}
