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
  // Numbers that name things are not measured.
  if (isNumeric(type) && column.aggregates.includes('sum')) return [inSteps(name, '10'), each];
  if (type.kind === 'text') {
    return [each, { label: 'first letter', expression: call('initial', self) }];
  }
  return [each];
}

/** Bins of a number column. */
export function inSteps(name: string, width: string): GroupChoice {
  return { label: `steps of ${width}`, expression: call('bin', property(name), number(width)) };
}
