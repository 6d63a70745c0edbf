import fc from 'fast-check';
import { call, compare, number, property } from '../expression/index.ts';
import { sortInForce, termOf } from '../query/index.ts';
import { withoutPlaces } from '../testing/expressions.ts';
import { passages } from '../testing/passages.ts';
import { views } from '../testing/views.ts';
import {
  asksOtherRows,
  fitView,
  namesIn,
  namesInView,
  namesPainted,
  partsOf,
  printView,
  readSavedView,
  readView,
  saveView,
  showsTheSame,
  sortedBy,
  sortMarks,
  type View,
  withLevels,
  withParts,
  withSort,
} from './index.ts';

const span = { start: 0, end: 0 };
const by = (name: string, descending = false): NonNullable<View['sort']>[number] => ({
  column: { name, span },
  descending,
});

describe('a view', () => {
  it('comes back from its address, with what is at its default left out', () => {
    fc.assert(
      fc.property(views, (view) => {
        const printed = printView(view);
        const { view: again, problems } = readView(Object.fromEntries(printed));
        expect(problems).toEqual([]);
        expect(withoutPlaces(again)).toEqual(withoutPlaces(view));
      }),
      { numRuns: 500 },
    );
    expect(printView({})).toEqual([]);
    expect(readView({})).toEqual({ view: {}, problems: [] });
  });

  it('comes back from what was saved as JSON', () => {
    fc.assert(
      fc.property(views, (view) => {
        const saved: unknown = JSON.parse(JSON.stringify(saveView(view)));
        const { view: again, problems } = readSavedView(saved);
        expect(problems).toEqual([]);
        expect(withoutPlaces(again)).toEqual(withoutPlaces(view));
      }),
      { numRuns: 500 },
    );
  });

  it('comes back from the parts of its sentence, which say each of them once', () => {
    fc.assert(
      fc.property(views, ({ place, ...view }) => {
        const { filter, search, sort, group, aggregate, reading, limit, total, ...rest } = view;
        const parts = partsOf(view, passages);
        const again = withParts(place === undefined ? rest : { ...rest, place }, parts, passages);
        // The sort is written with its groups first, and without the table's own.
        const written = withSort(view, sortInForce(view, passages), passages);
        const empty = {
          ...(group?.length === 0 && { group }),
          ...(aggregate?.length === 0 && { aggregate }),
        };
        expect(withoutPlaces({ ...again, ...empty })).toEqual(withoutPlaces(written));
      }),
      { numRuns: 500 },
    );
  });

  it.each([
    [{ reading: 'scrol' }, 'reading', 'not-one-of', 'Did you mean scroll?'],
    [{ density: 'x' }, 'density', 'not-one-of', undefined],
    [{ layout: 'acros' }, 'layout', 'not-one-of', 'Did you mean across?'],
    [{ widths: 'toll:wide' }, 'widths', 'not-a-whole-number', undefined],
    [{ widths: 'toll' }, 'widths', 'not-a-whole-number', undefined],
    [{ widths: 'toll:99999' }, 'widths', 'not-a-whole-number', undefined],
    [{ pinned: 'id,,toll' }, 'pinned', 'empty-list-item', undefined],
    [{ open: '[1' }, 'open', 'malformed-view', undefined],
    [{ open: '[1]' }, 'open', 'malformed-view', undefined],
    [{ filter: 'toll >' }, 'filter', 'unexpected-end', undefined],
    [{ 'row-style': 'striped,dotted' }, 'row-style', 'not-one-of', undefined],
    [{ height: 'tall' }, 'height', 'not-one-of', undefined],
    [{ 'pinned-end': 'id,,toll' }, 'pinned-end', 'empty-list-item', undefined],
    [{ paint: '{"when":"toll > 1"}' }, 'paint', 'malformed-view', undefined],
    [{ paint: '[{"when":"toll >","tone":"warn"}]' }, 'paint', 'unexpected-end', undefined],
    [{ paint: '[{"when":"toll > 1","tone":"red"}]' }, 'paint', 'malformed-view', undefined],
    [{ paint: '[{"bar":"toll","scale":"toll"}]' }, 'paint', 'malformed-view', undefined],
    [{ paint: '[{"bar":"toll","to":"much"}]' }, 'paint', 'malformed-view', undefined],
    [{ chart: 'pies,status' }, 'chart', 'not-one-of', undefined],
    [{ chart: 'bars' }, 'chart', 'malformed-view', undefined],
    [{ chart: 'bars,status,count(),count()' }, 'chart', 'malformed-view', undefined],
    [{ 'chart-side': 'under' }, 'chart-side', 'not-one-of', undefined],
  ])('that is written wrong is told with its place: %j', (texts, parameter, code, hint) => {
    const { problems } = readView(texts);
    expect(problems).toMatchObject([{ parameter, code, ...(hint && { hint }) }]);
  });

  it.each([
    [null],
    [{ version: 2 }],
    [{ version: 1, colour: 'red' }],
    [{ version: 1, limit: 0 }],
    [{ version: 1, filter: 'toll >' }],
    [{ version: 1, open: ['a'] }],
  ])('that was saved by another hand is refused with a reason: %j', (saved) => {
    expect(readSavedView(saved).problems).toHaveLength(1);
  });

  it('of a newer version is reported as that', () => {
    expect(readSavedView({ version: 2 }).problems).toMatchObject([{ code: 'newer-view' }]);
  });

  it('shows the same wherever one is in it and whichever groups are open', () => {
    fc.assert(
      fc.property(views, views, ({ place, open, ...view }, other) => {
        expect(
          showsTheSame(view, { ...view, ...(place && { place }), ...(open && { open }) }),
        ).toBe(true);
        const widths = { widths: { ...view.widths, 'one more': 7 } };
        expect(showsTheSame({ ...view, ...widths }, view)).toBe(false);
        expect(showsTheSame(view, other)).toBe(showsTheSame(other, view));
      }),
    );
  });

  it('names the columns that it speaks of', () => {
    const { view } = readView({
      columns: 'id',
      filter: "lock.name = 'Heron' OR month(passed_at) = 3",
      group: 'lock.canal.name',
      aggregate: 'sum(toll)',
      sort: '-sum(wait),note',
    });
    expect([...namesIn(view)].sort()).toEqual(
      ['id', 'lock.canal.name', 'lock.name', 'note', 'passed_at', 'toll', 'wait'].sort(),
    );
  });
});

describe('the sort of a view', () => {
  const sums: View = {
    group: [termOf(property('status'))],
    aggregate: [termOf(call('sum', property('toll')))],
  };
  const printed = (view: View): unknown => Object.fromEntries(printView(view)).sort;
  const after = (view: View, ...headers: readonly string[]): unknown[] => {
    let last = view;
    return headers.map((header) => printed((last = sortedBy(last, header, false, passages))));
  };

  it('goes from none to ascending to descending to none at a header', () => {
    expect(after({}, 'toll', 'toll', 'toll', 'note')).toEqual(['toll', '-toll', undefined, 'note']);
  });

  it('turns around where none would be the same', () => {
    expect(after({}, 'passed_at', 'passed_at', 'passed_at')).toEqual([
      'passed_at',
      undefined,
      'passed_at',
    ]);
  });

  it('keeps the other terms where one is added, and begins at the beginning', () => {
    const view: View = { sort: [by('toll')], place: { kind: 'page', page: 3 } };
    const added = sortedBy(view, 'note', true, passages);
    expect(printed(added)).toBe('toll,note');
    expect(added.place).toBeUndefined();
    expect(printed(sortedBy(added, 'toll', true, passages))).toBe('-toll,note');
  });

  it('of groups is by what stands for them at the header', () => {
    expect(after(sums, 'toll', 'toll', 'toll')).toEqual(['-sum(toll)', 'sum(toll)', undefined]);
    expect(after(sums, ' outline', ' outline')).toEqual(['status', '-status']);
    const sorted = sortedBy(sums, 'toll', false, passages);
    expect(sortMarks(sorted, passages)).toEqual([
      { column: 'toll', descending: true },
      { column: 'passed_at', descending: true },
    ]);
    // Of the whole alone there is one sum.
    expect(after({ aggregate: sums.aggregate ?? [] }, 'toll')).toEqual(['toll']);
  });

  it('by a level goes with it', () => {
    const view: View = {
      ...sums,
      filter: compare(property('toll'), '>', number('1')),
      sort: [by('status', true), by('note')],
      open: [['passed']],
    };
    expect(Object.fromEntries(printView(withLevels(view, [])))).toEqual({
      filter: 'toll > 1',
      aggregate: 'sum(toll)',
      sort: 'note',
    });
  });
});

describe('the paint of a view', () => {
  it('keeps the rules that can be read next to one that cannot', () => {
    const { view, problems } = readView({
      paint: '[{"bar":"toll"},{"when":"toll >","tone":"warn"},{"scale":"id","from":0,"to":9}]',
    });
    expect(view.paint).toEqual([
      { kind: 'bar', column: 'toll' },
      { kind: 'scale', column: 'id', from: 0, to: 9 },
    ]);
    expect(problems).toMatchObject([{ parameter: 'paint' }]);
  });

  it('has so many rules at most', () => {
    const rule = '{"bar":"toll"}';
    const many = (count: number): string => `[${Array(count).fill(rule).join(',')}]`;
    expect(readView({ paint: many(50) }).problems).toEqual([]);
    expect(readView({ paint: many(51) }).problems).toHaveLength(1);
  });

  it('names what rows must hold for it, and what it and the chart speak of', () => {
    const { view } = readView({
      paint:
        '[{"when":"toll > 1 AND lock.name = \'x\'","tone":"warn","column":"id"},{"bar":"rise"}]',
      chart: 'spread,status,toll',
    });
    expect(namesPainted(view.paint ?? [])).toEqual(['toll', 'lock.name']);
    expect(namesInView(view)).toEqual(['id', 'toll', 'lock.name', 'rise', 'status']);
  });

  it('asks of other rows where a condition does', () => {
    const asks = (filter: string): boolean => asksOtherRows(readView({ filter }).view.filter!);
    expect(asks('HAS(passages, toll > 1)')).toBe(true);
    expect(asks('NOT (COUNT(passages) > 3)')).toBe(true);
    expect(asks('toll > 1 OR CASEI(note) = note')).toBe(false);
  });
});

describe('what of a view still holds', () => {
  const fitted = (texts: Parameters<typeof readView>[0]): unknown => {
    const { view, problems } = fitView(readView(texts).view, passages);
    return [Object.fromEntries(printView(view)), problems.map(({ code }) => code)];
  };

  it('is all of it where nothing has changed', () => {
    const texts = {
      columns: 'id,toll',
      filter: "toll > 1 AND status = 'passed'",
      sort: '-toll,id',
    };
    expect(fitted(texts)).toEqual([texts, []]);
    expect(fitted({ group: '', aggregate: '', pinned: '' })).toEqual([
      { group: '', aggregate: '', pinned: '' },
      [],
    ]);
  });

  it('is each condition, column, level and term by itself', () => {
    expect(
      fitted({
        columns: 'gone,id',
        filter: "gone = 1 AND toll > 1 AND toll = 'a' AND NOT (id = 1 OR gone = 2)",
        sort: 'gone,-toll',
        pinned: 'gone,id',
        widths: 'gone:80,id:90',
      }),
    ).toEqual([
      { columns: 'id', filter: 'toll > 1', sort: '-toll', pinned: 'id', widths: 'id:90' },
      ['unknown-column', 'unknown-column', 'type-mismatch', 'unknown-column', 'unknown-column'],
    ]);
    expect(fitted({ columns: 'gone' })).toEqual([{}, ['unknown-column']]);
    expect(
      fitted({
        paint: '[{"bar":"gone"},{"when":"gone = 1","tone":"note"},{"scale":"toll"}]',
        chart: 'bars,gone',
        'pinned-end': 'gone,toll',
      }),
    ).toEqual([
      { paint: '[{"scale":"toll"}]', 'pinned-end': 'toll' },
      ['unknown-column', 'unknown-column', 'unknown-column'],
    ]);
    expect(
      fitted({
        group: 'gone,status',
        aggregate: 'sum(gone),sum(toll)',
        sort: 'gone,-sum(toll)',
        open: '[["a"]]',
      }),
    ).toEqual([
      { group: 'status', aggregate: 'sum(toll)', sort: '-sum(toll)' },
      ['unknown-column', 'unknown-column', 'not-a-group-sort'],
    ]);
  });
});
