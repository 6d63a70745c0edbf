import { call, number, property, text, type Expression } from '@ephoros/core/expression';
import { isNumeric, type ColumnDescription } from '@ephoros/core/schema';
import { reader } from '../service.ts';

/** A way to group by a column. */
export interface GroupChoice {
  readonly label: string;
  readonly expression: Expression;
}

const bins = [
  ['calendar year', 'P1Y'],
  ['calendar quarter', 'P3M'],
  ['calendar month', 'P1M'],
  ['week', 'P1W'],
  ['day', 'P1D'],
] as const;

const parts = [
  ['month of the year', 'month'],
  ['day of the week', 'weekday'],
  ['hour of the day', 'hour'],
] as const;

/** The ways to group by a column, most usual first. Days are those of the reader's own clock. */
export function groupChoices(column: ColumnDescription): readonly GroupChoice[] {
  const { name, type } = column;
  const self = property(name);
  const each: GroupChoice = { label: 'each value', expression: self };
  if (type.kind === 'date' || type.kind === 'timestamp') {
    const zoned = type.kind === 'timestamp' && type.zone && reader.timeZone !== 'UTC';
    const zone = zoned ? [text(reader.timeZone)] : [];
    const clock = type.kind === 'timestamp' ? parts : parts.slice(0, -1);
    return [
      ...bins.map(([label, width]) => ({
        label,
        expression: call('bin', self, text(width), ...zone),
      })),
      ...clock.map(([label, part]) => ({ label, expression: call(part, self, ...zone) })),
      each,
    ];
  }
  if (type.kind === 'text') {
    return [each, { label: 'first letter', expression: call('initial', self) }];
  }
  return [each];
}

/** Whether bins of a column make sense: numbers that name things are not measured. */
export function isBinned({ type, aggregates }: ColumnDescription): boolean {
  return isNumeric(type) && aggregates.includes('sum');
}

/** Bins of a number column; undefined for what is no width. */
export function inSteps(name: string, width: string): Expression | undefined {
  const sound = /^(?:\d+(?:\.\d*)?|\.\d+)$/.test(width) && /[1-9]/.test(width);
  return sound ? call('bin', property(name), number(width)) : undefined;
}
