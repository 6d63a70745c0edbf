import fc from 'fast-check';
import { call, property } from '../expression/index.ts';
import { termOf } from '../query/index.ts';
import { tones } from '../schema/index.ts';
import {
  chartKinds,
  chartSides,
  heights,
  readings,
  rowStyles,
  type Chart,
  type PaintRule,
  type View,
} from '../view/index.ts';
import { expressions } from './expressions.ts';

const span = { start: 0, end: 0 };
const name = fc.constantFrom('id', 'toll', 'lock.name', 'Étang', 'odd, name', 'a:b', 'say "so"');
const names = fc.uniqueArray(name, { minLength: 1 });
const terms = fc
  .uniqueArray(
    fc.constantFrom(
      property('status'),
      property('odd, name'),
      call('month', property('passed_at')),
      call('sum', property('toll')),
    ),
    { minLength: 1 },
  )
  .map((all) => all.map(termOf));
const value = fc.oneof(fc.string(), fc.integer(), fc.boolean(), fc.constant(null));

const end = fc.option(fc.integer(), { nil: undefined });

const rules: fc.Arbitrary<PaintRule> = fc.oneof(
  fc
    .record({
      when: expressions,
      tone: fc.constantFrom(...tones),
      column: fc.option(name, { nil: undefined }),
    })
    .map(({ column, ...rest }): PaintRule => ({
      kind: 'tone',
      ...rest,
      ...(column !== undefined && { column }),
    })),
  fc
    .record({
      kind: fc.constantFrom('bar' as const, 'scale' as const),
      column: name,
      from: end,
      to: end,
    })
    .map(({ kind, column, from, to }): PaintRule => ({
      kind,
      column,
      ...(from !== undefined && { from }),
      ...(to !== undefined && { to }),
    })),
);

const charts: fc.Arbitrary<Chart> = fc
  .record({ kind: fc.constantFrom(...chartKinds), all: terms })
  .map(({ kind, all: [by, of] }) => ({ kind, by: by!, ...(of && { of }) }));

/** Any view at all, whether its columns are there or not. */
export const views: fc.Arbitrary<View> = fc.record(
  {
    columns: names.map((all) => all.map((one) => ({ name: one, span }))),
    filter: expressions,
    search: fc.array(fc.constantFrom('heron', 'north lock', 'a"b', '50%'), { minLength: 1 }),
    sort: names.map((all) =>
      all.map((one, index) => ({ column: { name: one, span }, descending: index % 2 === 0 })),
    ),
    nulls: fc.constantFrom('first', 'last'),
    group: fc.oneof(terms, fc.constant([])),
    aggregate: fc.oneof(terms, fc.constant([])),
    limit: fc.integer({ min: 1, max: 1_000_000 }),
    total: fc.constantFrom('exact', 'estimate', 'none'),
    place: fc.oneof(
      fc.record({ kind: fc.constant('page' as const), page: fc.integer({ min: 1 }) }),
      fc.record({ kind: fc.constant('offset' as const), offset: fc.nat() }),
    ),
    reading: fc.constantFrom(...readings),
    pinned: fc.uniqueArray(name),
    widths: fc.dictionary(name, fc.integer({ min: 1, max: 10_000 })),
    density: fc.constantFrom('compact', 'normal', 'roomy'),
    layout: fc.constantFrom('down', 'across'),
    pinnedEnd: fc.uniqueArray(name),
    rowStyle: fc.subarray([...rowStyles]),
    height: fc.constantFrom(...heights),
    paint: fc.array(rules, { maxLength: 5 }),
    chart: charts,
    chartSide: fc.constantFrom(...chartSides),
    open: fc.array(fc.array(value)),
  },
  { requiredKeys: [] },
);
