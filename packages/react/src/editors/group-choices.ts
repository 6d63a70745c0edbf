import { call, number, property, text, type Expression } from '@ephoros/core/expression';
import { isNumeric, type ColumnDescription } from '@ephoros/core/schema';
import type { EditorMessages } from '../messages/editor-messages.ts';

/** A way to group by a column. */
export interface GroupChoice {
  readonly label: string;
  readonly expression: Expression;
}

const bins = ['P1Y', 'P3M', 'P1M', 'P1W', 'P1D'];
const parts = ['month', 'weekday', 'hour'];

/** The ways to group by a column, most usual first. Days are those of the reader's own clock. */
export function groupChoices(
  { name, type }: ColumnDescription,
  timeZone: string,
  { ways, eachValue, firstLetter }: EditorMessages,
): readonly GroupChoice[] {
  const self = property(name);
  const each: GroupChoice = { label: eachValue, expression: self };
  if (type.kind === 'date' || type.kind === 'timestamp') {
    const zoned = type.kind === 'timestamp' && type.zone && timeZone !== 'UTC';
    const zone = zoned ? [text(timeZone)] : [];
    const clock = type.kind === 'timestamp' ? parts : parts.slice(0, -1);
    return [
      ...bins.map((width) => ({
        label: ways[width] ?? width,
        expression: call('bin', self, text(width), ...zone),
      })),
      ...clock.map((part) => ({
        label: ways[part] ?? part,
        expression: call(part, self, ...zone),
      })),
      each,
    ];
  }
  if (type.kind === 'text') {
    return [each, { label: firstLetter, expression: call('initial', self) }];
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
