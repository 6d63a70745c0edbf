import { createLocalClient } from '@ephoros/client/local';
import { readView } from '@ephoros/core/view';
import { arabic } from '../messages/arabic.ts';
import { arabicChart } from '../messages/arabic-chart.ts';
import { arabicReport } from '../messages/arabic-report.ts';
import { english } from '../messages/english.ts';
import { englishChart } from '../messages/english-chart.ts';
import { englishReport } from '../messages/english-report.ts';
import type { RequestClient } from '../records/request-client.ts';
import { fetchReport, type ReportContent } from './report-content.ts';

const rows = Array.from({ length: 250 }, (_, index) => ({
  id: index + 1,
  quay: ['North', 'South', null][index % 3] ?? null,
  state: index % 2 === 0 ? 'free' : 'taken',
  fee: index === 7 ? null : (index * 1.5).toFixed(2),
  day: `2024-0${1 + (index % 3)}-15`,
}));
const client = createLocalClient({ berths: { rows, key: ['id'] } }) as RequestClient;

const english_ = {
  reader: { locale: 'en-GB', timeZone: 'UTC', messages: english },
  messages: { report: englishReport, chart: englishChart },
};
const arabic_ = {
  reader: { locale: 'ar', timeZone: 'UTC', messages: arabic },
  messages: { report: arabicReport, chart: arabicChart },
};

function report(
  texts: Readonly<Record<string, string>>,
  more: Partial<Parameters<typeof fetchReport>[0]> = {},
): Promise<ReportContent> {
  const { view, problems } = readView(texts);
  expect(problems).toEqual([]);
  return fetchReport({
    client,
    table: 'berths',
    view,
    now: new Date('2026-03-01T12:00:00Z'),
    ...english_,
    ...more,
  });
}

const cells = ({ lines }: ReportContent['rows']): readonly (readonly string[])[] =>
  lines.map((line) => line.cells);

describe('what a report says', () => {
  it('is the table, its rows in their order, and how many there are', async () => {
    const {
      title,
      sentence,
      facts,
      rows: shown,
      groups,
      chart,
      note,
    } = await report({ columns: 'id,fee,day', sort: '-id', filter: 'id <= 9' });
    expect([title, note, groups, chart]).toEqual(['Berths', undefined, undefined, undefined]);
    expect(sentence).toBe('Berths where id is at most 9, highest id first');
    expect(facts).toEqual(['9 rows', 'Created 1 March 2026 at 12:00 UTC']);
    expect(shown.title).toBe('Rows');
    expect(shown.heads).toEqual([
      { text: 'Id', set: 'end' },
      { text: 'Fee', set: 'end' },
      { text: 'Day', set: 'whole' },
    ]);
    // What there is not stays empty.
    expect(cells(shown).slice(0, 2)).toEqual([
      ['9', '12.00', '15 Mar 2024'],
      ['8', '', '15 Feb 2024'],
    ]);
  });

  it('are the first rows alone where there are many, under a name of its own', async () => {
    const {
      title,
      note,
      rows: shown,
    } = await report({}, { title: 'All of them', note: 'For Mondays.', rows: 20 });
    expect([title, note, shown.title, shown.lines.length]).toEqual([
      'All of them',
      'For Mondays.',
      'The first 20 of 250 rows',
      20,
    ]);
  });

  it('are groups of all levels, each behind the one that it lies in, with what is made of them', async () => {
    const { groups, rows: shown } = await report({
      group: 'quay,state',
      aggregate: 'sum(fee)',
      sort: '-sum(fee)',
      filter: 'id <= 12',
    });
    expect(groups?.title).toBe('Groups');
    expect(groups?.heads.map(({ text }) => text)).toEqual(['Quay › State', 'Rows', 'Sum of fee']);
    const lines = groups?.lines.map(({ depth, cells: [name, count, sum] }) => [
      depth,
      name,
      count,
      sum,
    ]);
    expect(lines).toEqual([
      [0, 'null', '4', '39.00'],
      [1, 'taken', '2', '24.00'],
      [1, 'free', '2', '15.00'],
      [0, 'North', '4', '27.00'],
      [1, 'taken', '2', '18.00'],
      [1, 'free', '2', '9.00'],
      [0, 'South', '4', '22.50'],
      [1, 'free', '2', '21.00'],
      [1, 'taken', '2', '1.50'],
    ]);
    // The rows of groups come in the table's own order.
    expect(cells(shown)[0]?.[0]).toBe('1');
  });

  it('are so many groups that they can be read', async () => {
    const { groups } = await report({ group: 'id' });
    expect([groups?.title, groups?.lines.length]).toEqual(['Groups, the first 200', 200]);
  });

  it('is a chart of what the view is about, with the numbers that it draws', async () => {
    const { chart } = await report({ chart: 'bars,state,count()', filter: 'id <= 9' });
    expect(chart?.title).toBe('count by state (bar)');
    expect(chart?.drawing.names).toEqual(['free', 'taken']);
    expect(chart?.drawing.marks.map(({ numbers }) => numbers)).toEqual([[5], [4]]);
    expect(chart?.drawing.write(12_500)).toBe('12.5k');
  });

  it('speaks the language of its reader, from their side', async () => {
    const content = await report({ filter: 'id <= 9', group: 'state' }, arabic_);
    expect([content.language, content.direction]).toEqual(['ar', 'rtl']);
    for (const text of [
      content.sentence,
      ...content.facts,
      content.groups?.title,
      content.rows.title,
    ]) {
      expect(text).toMatch(/[\u0600-\u06ff]/);
    }
  });

  it('is nothing but words where no row matches', async () => {
    const { rows: shown, nothing, facts } = await report({ filter: 'id > 900' });
    expect([shown.lines, nothing, facts[0]]).toEqual([[], 'No rows.', '0 rows']);
  });

  it('fails as its questions do, and ends with anyone who wanted it', async () => {
    await expect(report({ filter: 'nothing = 1' })).rejects.toThrow('Unknown column nothing');
    const signal = AbortSignal.abort();
    await expect(report({}, { signal })).rejects.toThrow();
  });
});
