import { z } from 'zod';
import { checkAggregates, checkGrouping, checkQuery, checkValuesOf } from '../check/index.ts';
import type { Problem } from '../problem/index.ts';
import { parseParameters, type Query, type QueryParameter } from '../query/index.ts';
import { passages } from '../testing/passages.ts';
import {
  aggregatesAnswer,
  answerAggregates,
  answerGroups,
  answerMileposts,
  answerRow,
  answerRows,
  answerValues,
  groupsAnswer,
  JsonText,
  linksAround,
  MemoryExecutor,
  milepostsAnswer,
  printAnswer,
  rowAnswer,
  rowsAnswer,
  valuesAnswer,
} from './index.ts';

const rows = [
  { id: '1', toll: '2.50', status: 'disputed', day: '2024-02-29', speed: 3, note: 'Otter' },
  { id: '2', toll: null, status: 'passed', day: null, speed: 'NaN', note: null },
  { id: '3', toll: '10.00', status: 'passed', day: '2023-12-31', speed: 1.5, note: 'Heron' },
];
const executor = new MemoryExecutor(rows);

function checked<Checked>(
  parameters: Partial<Record<QueryParameter, string>>,
  check: (
    query: Query,
  ) => { readonly checked: Checked } | { readonly problems: readonly Problem[] },
): { query: Query; checked: Checked } {
  const { query } = parseParameters(parameters);
  const read = check(query);
  if ('problems' in read) throw new Error(read.problems.map(({ message }) => message).join(' '));
  return { query, checked: read.checked };
}

function request(
  parameters: Partial<Record<QueryParameter, string>> = {},
): Parameters<typeof answerRows>[0] {
  return checked(parameters, (query) => checkQuery(query, passages)).checked;
}

/** What of an answer its schema does not know; members that it has too many are reported as well. */
function faultsOf(schema: z.ZodObject, answer: unknown): readonly unknown[] {
  const result = z.strictObject(schema.shape).safeParse(answer);
  return result.success ? [] : result.error.issues;
}

describe('answers from memory', () => {
  it('are what their schemas say, each of them', async () => {
    const grouping = checked(
      { group: 'status,bin(toll,5)', aggregate: 'sum(toll),min(day)', path: '["passed"]' },
      (query) => checkGrouping(query, passages),
    );
    const aggregates = checked({ aggregate: 'avg(toll)' }, (query) =>
      checkAggregates(query, passages),
    );
    const values = (column: string): Parameters<typeof answerValues>[1] =>
      checked({}, (query) => checkValuesOf(query, { column, bins: 2 }, passages)).checked;
    const { columns } = request();
    const all: readonly [z.ZodObject, unknown][] = [
      [rowsAnswer, await answerRows(request({ sort: 'toll', limit: '2', page: '1' }), executor)],
      [rowsAnswer, await answerRows(request({ total: 'none', offset: '7' }), executor)],
      [rowAnswer, await answerRow(passages, columns, ['3'], executor)],
      [groupsAnswer, await answerGroups(grouping.query, grouping.checked, executor)],
      [aggregatesAnswer, await answerAggregates(aggregates.checked, executor)],
      [valuesAnswer, await answerValues('toll', values('toll'), executor)],
      [valuesAnswer, await answerValues('day', values('day'), executor)],
      [milepostsAnswer, await answerMileposts(request({ sort: '-day' }), 2, executor)],
    ];
    for (const [schema, answer] of all) {
      expect(faultsOf(schema, answer)).toEqual([]);
      // Nothing in them is lost on the way through text.
      expect(JSON.parse(printAnswer(answer))).toEqual(JSON.parse(JSON.stringify(answer)));
    }
  });

  it('hold the number of rows where no aggregate is named', async () => {
    const counted = checked({}, (query) => checkAggregates(query, passages));
    expect((await answerAggregates(counted.checked, executor)).values).toEqual({ 'count()': 3 });
  });

  it('count the values of numbers and days in bins, without what has no distance', async () => {
    const of = async (column: string): Promise<unknown[]> => {
      const read = checked({}, (query) => checkValuesOf(query, { column, bins: 2 }, passages));
      const { range, histogram } = await answerValues(column, read.checked, executor);
      return [range, histogram?.map(({ from, to, count }) => [from, to, count])];
    };
    expect(await of('toll')).toEqual([
      { least: '2.50', greatest: '10.00' },
      [
        ['2.50', '6.25', 1],
        ['6.25', '10.00', 1],
      ],
    ]);
    expect(await of('speed')).toEqual([
      { least: 1.5, greatest: 3 },
      [
        [1.5, 2.25, 1],
        [2.25, 3, 1],
      ],
    ]);
    expect((await of('day'))[0]).toEqual({ least: '2023-12-31', greatest: '2024-02-29' });
  });

  it('know no row of a table without a key', async () => {
    const keyless = { ...passages, key: [] };
    expect(await answerRow(keyless, request().columns, [], executor)).toBeUndefined();
    expect(await answerRow(passages, request().columns, ['4'], executor)).toBeUndefined();
  });
});

describe('the text of an answer', () => {
  it('has what a database wrote as it is, and leaves out what is not there', () => {
    const answer = {
      rows: JsonText.rows('[{"id":12345678901234567890}]'),
      cuts: undefined,
      n: null,
    };
    expect(printAnswer(answer)).toBe('{"rows":[{"id":12345678901234567890}],"n":null}');
    expect(printAnswer({ 'a"b': ['ä\n', [JsonText.value('1.50')], true] })).toBe(
      '{"a\\"b":["ä\\n",[1.50],true]}',
    );
  });
});

describe('the links around a window', () => {
  const window = { limit: 10, count: 10, total: 95, totalKind: 'exact' as const };
  const none = { next: null, previous: null };

  it('are pages where the window is one, offsets where it is none or where they are preferred', () => {
    expect(linksAround({ ...window, offset: 20 }, none)).toEqual({
      first: 'page=1',
      previous: 'page=2',
      next: 'page=4',
      last: 'page=10',
    });
    expect(linksAround({ ...window, offset: 25 }, none)).toEqual({
      first: 'page=1',
      previous: 'offset=15',
      next: 'offset=35',
      last: 'offset=85',
    });
    expect(linksAround({ ...window, offset: 20 }, none, true).first).toBe('offset=0');
  });

  it('are cursors next to one, and go on behind a window that was cut', () => {
    expect(linksAround({ ...window, offset: null }, { next: 'b', previous: 'a' })).toEqual({
      first: '',
      previous: 'before=a',
      next: 'after=b',
    });
    const cut = {
      ...window,
      offset: 0,
      count: 4,
      total: null,
      totalKind: 'none' as const,
      cut: true,
    };
    expect(linksAround(cut, none).next).toBe('offset=4');
    expect(linksAround({ ...cut, cut: false }, none).next).toBeUndefined();
  });
});

describe('the total of a window', () => {
  /** The window of an executor that finds so many rows, and knows a total of 100. */
  const windowOf = async (
    parameters: Partial<Record<QueryParameter, string>>,
    found: Partial<Awaited<ReturnType<typeof executor.rows>>>,
  ): Promise<unknown> => {
    const query = request(parameters);
    const own = await executor.rows(query);
    const known = { ...own, next: null, total: { rows: 100, kind: 'exact' as const }, ...found };
    const { window } = await answerRows(
      query,
      Object.assign(new MemoryExecutor(rows), { rows: () => Promise.resolve(known) }),
    );
    return [window.total, window.totalKind];
  };

  it('is exact at the end, by the end itself', async () => {
    expect(await windowOf({ offset: '40', total: 'estimate' }, { count: 2 })).toEqual([
      42,
      'exact',
    ]);
    expect(await windowOf({}, { count: 0 })).toEqual([0, 'exact']);
  });

  it('is no exact number where an empty window contradicts it', async () => {
    expect(await windowOf({ offset: '50' }, { count: 0 })).toEqual([100, 'estimate']);
    expect(await windowOf({ offset: '100' }, { count: 0 })).toEqual([100, 'exact']);
  });

  it('is what was counted where the window shows nothing of it', async () => {
    const counted = [100, 'exact'];
    expect(await windowOf({ offset: '40' }, { count: 2, at: 1_000 })).toEqual(counted);
    expect(await windowOf({}, { count: 0, nextToRow: true })).toEqual(counted);
    expect(await windowOf({ offset: '40' }, { count: 2, cut: true })).toEqual(counted);
    expect(await windowOf({ offset: '40' }, { count: 2, next: 'more' })).toEqual(counted);
  });
});
