import { and, property, compare, type Expression } from '@ephoros/core/expression';
import { literal, writeColumnTerm } from '@ephoros/core/query';
import type { ColumnDescription } from '@ephoros/core/schema';
import { changed, type Chart, type View } from '@ephoros/core/view';
import { plainText, type FullReader } from '../format/value.ts';
import { conditionRequest } from '../records/opening.ts';
import type { Mark } from './chart-data.ts';

/** Shows only the rows of a mark; undefined where nobody says which those are. */
export async function narrowedTo(
  mark: Mark,
  chart: Chart,
  column: (name: string) => ColumnDescription | undefined,
  reader: FullReader,
): Promise<((view: View) => View) | undefined> {
  const condition =
    binOf(mark, chart, column) ??
    stretchOf(mark, chart, column, reader) ??
    (mark.filter === undefined ? undefined : await conditionRequest(mark.filter));
  if (condition === undefined) return undefined;
  return (view) =>
    changed(view, {
      filter: and(view.filter === undefined ? [condition] : [view.filter, condition]),
      place: undefined,
    });
}

/** The range of a bin of a histogram: its end belongs to the next one, but of the last. */
function binOf(
  { value, end, isLast }: Mark,
  { by }: Chart,
  column: (name: string) => ColumnDescription | undefined,
): Expression | undefined {
  const { expression } = by;
  if (end === undefined || end === null || value === null || expression.kind !== 'property') {
    return undefined;
  }
  const of = column(expression.name);
  if (of === undefined) return undefined;
  const self = property(of.name);
  return and([
    compare(self, '>=', literal(plainText(value), of)),
    compare(self, isLast ? '<=' : '<', literal(plainText(end), of)),
  ]);
}

const months: Readonly<Record<string, number>> = { P1Y: 12, P3M: 3, P1M: 1 };
const days: Readonly<Record<string, number>> = { P1W: 7, P1D: 1 };

/** A year, a month, a week or a day as readers say it: from its first day to its last. */
function stretchOf(
  { value }: Mark,
  { by: { expression } }: Chart,
  column: (name: string) => ColumnDescription | undefined,
  { timeZone }: FullReader,
): Expression | undefined {
  if (expression.kind !== 'call' || expression.name !== 'bin' || typeof value !== 'string') {
    return undefined;
  }
  const [of, width, zone] = expression.args;
  const described = of?.kind === 'property' ? column(of.name) : undefined;
  if (described === undefined || width?.kind !== 'text') return undefined;
  // By another clock than the reader's those would be other days.
  if (zone?.kind === 'text' && zone.value !== timeZone) return undefined;
  const last = lastDay(value, width.value);
  if (last === undefined) return undefined;
  const term = { column: described.name, operator: 'between' as const, values: [value, last] };
  return writeColumnTerm(term, described, timeZone);
}

function lastDay(first: string, width: string): string | undefined {
  const at = new Date(`${first}T00:00:00Z`);
  if (Number.isNaN(at.getTime())) return undefined;
  const [byMonths, byDays] = [months[width], days[width]];
  if (byMonths !== undefined) at.setUTCMonth(at.getUTCMonth() + byMonths);
  else if (byDays !== undefined) at.setUTCDate(at.getUTCDate() + byDays);
  else return undefined;
  at.setUTCDate(at.getUTCDate() - 1);
  return at.toISOString().slice(0, 10);
}
