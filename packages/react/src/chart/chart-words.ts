import { spokenTerm } from '@ephoros/core/query';
import type { Chart } from '@ephoros/core/view';
import { formatText, type FullReader } from '../format/value.ts';
import type { ChartMessages } from '../messages/chart-messages.ts';
import type { Messages } from '../messages/messages.ts';
import { groupValue } from '../outline/group-value.ts';
import type { ChartData } from './chart-data.ts';

/** What a chart is called, and what its numbers are. */
export function chartTitle(
  { kind, by, of }: Chart,
  labelOf: (name: string) => string,
  sentence: Messages['sentence'],
  messages: ChartMessages,
): { readonly title: string; readonly of: string } {
  const sized = of === undefined ? messages.rows : spokenTerm(of.expression, labelOf, sentence);
  const message = spokenTerm(by.expression, labelOf, sentence);
  const numbers = kind === 'histogram' ? messages.rows : sized;
  return { title: messages.heading(messages.kinds[kind], numbers, message), of: sized };
}

/** What the marks are called; no two alike. */
export function markNames(
  { marks, by }: ChartData,
  { by: term }: Chart,
  reader: FullReader,
  messages: ChartMessages,
): readonly string[] {
  const visible = new Map<string, number>();
  return marks.map(({ value, end }) => {
    const name =
      value === null
        ? messages.missing
        : end === undefined
          ? groupValue(value, by, term.expression, reader).text
          : formatText(value, by, reader);
    const before = visible.get(name) ?? 0;
    visible.set(name, before + 1);
    return before === 0 ? name : `${name} (${before + 1})`;
  });
}

/** Writes the numbers of a scale: large ones in short. */
export function scaleOf({ locale }: FullReader): (value: number) => string {
  return (value) =>
    value.toLocaleString(locale, {
      notation: Math.abs(value) >= 10_000 ? 'compact' : 'standard',
      maximumFractionDigits: 2,
    });
}
