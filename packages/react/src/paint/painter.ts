import type { Row, Value } from '@ephoros/client';
import { byCodePoint, byCollator, Evaluator, type TextOrder } from '@ephoros/core/memory';
import { isNumeric, type ColumnDescription, type TableDescription } from '@ephoros/core/schema';
import { asksOtherRows, namesOf, type PaintRule } from '@ephoros/core/view';
import { checkCondition } from '../records/check-condition.ts';
import type { CellPaint } from '../table/column.ts';
import type { Paint } from './paint.ts';

/** The least and the greatest value of a column. */
export interface Ends {
  readonly least: number;
  readonly greatest: number;
}

export interface PainterOptions {
  readonly rules: readonly PaintRule[];
  readonly table: TableDescription;
  readonly column: (name: string) => ColumnDescription | undefined;
  /** Of the columns whose rules do not say where their scale begins and ends. */
  readonly ends: (column: string) => Ends | undefined;
}

type ToneRule = Extract<PaintRule, { kind: 'tone' }>;
type MeasureRule = Exclude<PaintRule, ToneRule>;

interface CheckedTone extends ToneRule {
  readonly holds: (row: Row) => boolean;
}

/** How rules paint rows and cells. Of several rules the first that holds has its way. */
export function painterOf(options: PainterOptions): Paint {
  const tones = options.rules.flatMap((rule) =>
    rule.kind === 'tone' ? checked(rule, options) : [],
  );
  const ofRows = tones.filter(({ column }) => column === undefined);
  const measures = options.rules.filter((rule) => rule.kind !== 'tone');
  return {
    row: ofRows.length === 0 ? undefined : (row) => ofRows.find((rule) => rule.holds(row))?.tone,
    cell: (name) => {
      const own = tones.filter(({ column }) => column === name);
      const measured = measures.filter(
        ({ column }) => column === name && isMeasurable(options.column(name)),
      );
      if (own.length === 0 && measured.length === 0) return undefined;
      return (value, row) => {
        const tone = own.find((rule) => rule.holds(row))?.tone;
        const shares = measured.map((rule) => shareOf(rule, value, options.ends(name)));
        const paint = shares.reduce<CellPaint>(
          (before, share) => ({ ...before, ...share }),
          tone === undefined ? {} : { tone },
        );
        return Object.keys(paint).length === 0 ? undefined : paint;
      };
    },
  };
}

/** Why a rule paints nothing; undefined where it does. */
export function unfitReason(
  rule: PaintRule,
  table: TableDescription,
  column: PainterOptions['column'],
): 'unknown' | 'other-rows' | 'no-number' | { readonly message: string } | undefined {
  if (rule.column !== undefined && column(rule.column) === undefined) return 'unknown';
  if (rule.kind !== 'tone') {
    return isMeasurable(column(rule.column)) ? undefined : 'no-number';
  }
  if (asksOtherRows(rule.when)) return 'other-rows';
  const read = checkCondition(rule.when, table, column);
  if (read === undefined) return 'unknown';
  if ('checked' in read) return undefined;
  return { message: read.problems.map(({ message }) => message).join(' ') };
}

function isMeasurable(column: ColumnDescription | undefined): boolean {
  return column !== undefined && isNumeric(column.type);
}

function checked(rule: ToneRule, { table, column }: PainterOptions): readonly CheckedTone[] {
  if (asksOtherRows(rule.when)) return [];
  const read = checkCondition(rule.when, table, column);
  const filter = read !== undefined && 'checked' in read ? read.checked.filter : undefined;
  if (filter === undefined) return [];
  const evaluator = new Evaluator(orderOf(rule, column), () => []);
  return [{ ...rule, holds: (row) => evaluator.condition(filter, row) === true }];
}

/** How the texts that a condition compares are ordered, where that is known. */
function orderOf(rule: ToneRule, column: PainterOptions['column']): TextOrder {
  const orders = namesOf(rule.when).flatMap((name) => column(name)?.textOrder ?? []);
  const language = orders.find((order) => order !== 'C');
  return language === undefined ? byCodePoint : byCollator(new Intl.Collator(language).compare);
}

function shareOf(rule: MeasureRule, value: Value, ends: Ends | undefined): CellPaint {
  if (value === null || value === '') return {};
  const { kind, from = kind === 'bar' ? Math.min(0, ends?.least ?? 0) : ends?.least } = rule;
  const { to = ends?.greatest } = rule;
  const number = Number(value);
  if (from === undefined || to === undefined || Number.isNaN(number)) return {};
  const share = to > from ? Math.min(1, Math.max(0, (number - from) / (to - from))) : 1;
  return kind === 'bar' ? { bar: share } : { scale: share };
}
