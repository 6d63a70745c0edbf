import type { WrittenQuery } from '@ephoros/client';
import { createLocalClient } from '@ephoros/client/local';
import { plainColumn } from '@ephoros/core/schema';
import { readView, type Chart } from '@ephoros/core/view';
import { requestsByRows } from '../records/row-requests.ts';
import { fetchChart, type ChartData } from './chart-data.ts';
import { narrowedTo } from './narrowing.ts';

const rows = Array.from({ length: 120 }, (_, index) => ({
  id: index,
  name: `Berth ${index}`,
  state: ['free', 'taken', 'shut'][index % 3] ?? null,
  fee: index,
  day: `2024-0${1 + (index % 4)}-15`,
}));
const client = createLocalClient({ berths: { rows, key: ['id'] } });
const wanted: WrittenQuery[] = [];
const request = requestsByRows(
  {
    ...client,
    groups: (table, query, signal) => {
      wanted.push(query);
      return client.groups(table, query, signal);
    },
    rows: () => Promise.reject(new Error('a chart asks for no rows')),
  },
  'berths',
  0,
);
const chartOf = (text: string): Chart => {
  const { view, problems } = readView({ chart: text });
  expect(problems).toEqual([]);
  return view.chart!;
};
const data = (text: string, match: WrittenQuery = {}): Promise<ChartData> =>
  fetchChart(chartOf(text), request, match, new AbortController().signal);
const marks = async (text: string, match?: WrittenQuery): Promise<unknown[]> =>
  (await data(text, match)).marks.map(({ value, numbers }) => [value, ...numbers]);
const filter = { kind: 'boolean', value: false, span: { start: 0, end: 0 } } as const;

describe('what a chart draws', () => {
  it('are groups, the largest first, of the number of rows or of an aggregate', async () => {
    expect(await marks('bars,state')).toEqual([
      ['free', 40],
      ['shut', 40],
      ['taken', 40],
    ]);
    expect((await marks('bars,state,sum(fee)'))[0]).toEqual(['shut', 2420]);
  });

  it('are groups in their order where they have one, such as of time', async () => {
    const months = (await marks("bars,bin(day, 'P1M')")).map(([value]: any) => value);
    expect(months).toEqual(['2024-01-01', '2024-02-01', '2024-03-01', '2024-04-01']);
    expect((await data('line,name')).ordered).toBe(true);
  });

  it('are so many at most, and it is known of how many', async () => {
    const { marks: drawn, all, ordered } = await data('bars,name');
    expect([drawn.length, all, ordered]).toEqual([40, 120, false]);
  });

  it('are the least, the quarters and the greatest of a spread', async () => {
    expect(wanted.length).toBeGreaterThan(0);
    const [first] = (await data('spread,state,fee')).marks;
    const [least, quarter, median, threeQuarters, greatest] = first!.numbers as number[];
    expect([least, median, greatest]).toEqual([0, 58.5, 117]);
    expect(quarter).toBeLessThan(median!);
    expect(threeQuarters).toBeGreaterThan(median!);
  });

  it('are bins of a histogram that hold all rows', async () => {
    const { marks: bins, of } = await data('histogram,fee');
    expect(of).toHaveLength(1);
    expect(bins.reduce((sum, { numbers }) => sum + (numbers[0] ?? 0), 0)).toBe(120);
    expect(bins.filter(({ isLast }) => isLast)).toHaveLength(1);
    await expect(data("histogram,bin(day, 'P1M')")).rejects.toThrow('one column');
  });

  it('are none where nothing matches', async () => {
    expect(await marks('bars,state', { filter })).toEqual([]);
  });
});

describe('a press on a mark', () => {
  const fee = plainColumn('fee', { kind: 'numeric' });
  const day = plainColumn('day', { kind: 'date' });
  const column = (name: string) => [fee, day].find((one) => one.name === name);
  const narrowed = async (text: string, which: number, before = ''): Promise<string> => {
    const chart = chartOf(text);
    const mark = (await data(text)).marks[which]!;
    const reader = { locale: 'en', timeZone: 'UTC', messages: undefined as never };
    const narrow = await narrowedTo(mark, chart, column, reader);
    const { filter: all } = narrow!(readView(before === '' ? {} : { filter: before }).view);
    const { printExpression } = await import('@ephoros/core/expression');
    return printExpression(all!);
  };

  it.each([
    ['bars,state', 0, '', "state = 'free'"],
    ['bars,state', 0, 'fee > 3', "fee > 3 AND state = 'free'"],
    ["line,bin(day, 'P1M')", 1, '', "day BETWEEN DATE('2024-02-01') AND DATE('2024-02-29')"],
    ["line,bin(day, 'P1Y')", 0, '', "day BETWEEN DATE('2024-01-01') AND DATE('2024-12-31')"],
    ["line,bin(day, 'P3M')", 1, '', "day BETWEEN DATE('2024-04-01') AND DATE('2024-06-30')"],
  ])('narrows the view to its rows: %s', async (chart, which, before, after) => {
    expect(await narrowed(chart, which, before)).toBe(after);
  });

  it('has an end of a bin in the next one, but of the last', async () => {
    expect(await narrowed('histogram,fee', 0)).toMatch(/^fee >= 0 AND fee < [\d.]+$/);
    const last = (await data('histogram,fee')).marks.length - 1;
    expect(await narrowed('histogram,fee', last)).toMatch(/^fee >= [\d.]+ AND fee <= 119$/);
  });
});
