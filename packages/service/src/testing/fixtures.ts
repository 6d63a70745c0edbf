import fc from 'fast-check';

/** Small pools, so that values meet, tie and match. */
const texts = [
  '',
  'a',
  'A',
  'ä',
  'Ab',
  'ab',
  'a b',
  "it's",
  '100%',
  'a_b',
  'C:\\dir',
  'Étang',
  'etang',
  'ß',
  'SS',
  'ΟΔΟΣ',
  'οδος',
  'ﬁ',
  'fi',
  'ı',
  'İ',
  'Ω',
  '美咲',
  'z',
  'Zoë',
  '🛶',
  '"q"',
];
const days = ['2024-02-29', '2023-12-31', '2024-01-01', '2020-06-15', '1999-12-31', '1969-07-20'];
const clocks = ['00:00:00', '10:15:00', '10:15:00.5', '23:59:59.999999'];
const numbers = ['0', '1', '-1', '2', '7', '10', '-3.5', '2.5', '0.125', '12.340', '1000.001'];
const statuses = ['low', 'mid', 'high'];

const maybe = <Value>(value: fc.Arbitrary<Value>): fc.Arbitrary<Value | null> =>
  fc.option(value, { freq: 4 });
const pick = <Value>(values: readonly Value[]): fc.Arbitrary<Value> => fc.constantFrom(...values);
const moment = fc.tuple(pick(days), pick(clocks)).map(([day, clock]) => `${day}T${clock}`);

const row = fc.record({
  n: maybe(fc.integer({ min: -5, max: 12 })),
  big: maybe(pick(['9223372036854775807', '-9223372036854775808', '0', '12'])),
  d: maybe(pick(numbers)),
  f: maybe(pick(['0', '-0.5', '1e300', '2.5', 'NaN', 'Infinity', '0.1'])),
  r: maybe(pick(['0.1', '2.5', '26.60379', '-1'])),
  s: maybe(pick(texts)),
  b: maybe(fc.boolean()),
  day: maybe(pick(days)),
  ts: maybe(moment.map((text) => `${text}Z`)),
  local: maybe(moment),
  e: maybe(pick(statuses)),
  l: maybe(fc.array(maybe(pick(['a', 'b', 'ä'])), { maxLength: 3 })),
  span: maybe(pick(['P1M', 'P30D', 'PT1H', 'P1DT2H', 'PT0S', 'P-1D'])),
  ch: maybe(pick(['', 'a', 'A', 'ab', 'b c', 'ä'])),
  ci: maybe(pick(texts)),
  dm: maybe(pick(numbers)),
  de: maybe(pick(statuses)),
  lc: maybe(fc.array(maybe(pick(['a', 'A', 'ä'])), { maxLength: 3 })),
  parent_id: maybe(fc.integer({ min: 1, max: 4 })),
});

/** Rows of a table of every kind of column, of its parents and of its children. */
export const fixtures = fc.record({
  t: fc.array(row, { minLength: 5, maxLength: 40 }),
  parent: fc.array(
    fc.record({ name: maybe(pick(texts)), rank: maybe(fc.integer({ min: 0, max: 3 })) }),
    {
      minLength: 4,
      maxLength: 4,
    },
  ),
  child: fc.array(fc.record({ t_id: fc.integer({ min: 1, max: 5 }), v: maybe(pick(numbers)) }), {
    maxLength: 15,
  }),
});

const quoted = pick(texts).map((text) => `'${text.replaceAll("'", "''").replace(/\\$/, '\\\\')}'`);
const comparator = pick(['=', '<>', '<', '<=', '>', '>=']);
const dates = pick(days).map((day) => `DATE('${day}')`);
const stamps = moment.map((text) => `TIMESTAMP('${text}Z')`);
const patterns = pick(["'%'", "'a%'", "'%b'", "'_'", "'%\\%'", "'a\\_b'", "'%_%'", "''"]);
const numberValue: fc.Arbitrary<string> = fc.letrec<{ value: string }>((tie) => ({
  value: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    pick([
      'n',
      'd',
      'parent.rank',
      'COUNT(child)',
      'length(s)',
      'year(ts)',
      'week(day)',
      'weekday(local)',
      'hour(ts)',
      'quarter(day)',
      'month(ts)',
      'day(local)',
    ]),
    pick(numbers),
    fc
      .tuple(tie('value'), pick(['+', '-', '*', '/', '%', 'DIV']), tie('value'))
      .map(([a, operator, b]) => `(${a} ${operator} ${b})`),
    tie('value').map((value) => `abs(${value})`),
    tie('value').map((value) => `round(${value}, 1)`),
  ),
})).value;

const inside = pick(['', ', v > 1', ', v IS NULL', ', t.n > 0', ', t.parent.rank = 1 OR v < 0']);

/** Conditions on the table, as text. */
export const filters: fc.Arbitrary<string> = fc.letrec<{ filter: string }>((tie) => ({
  filter: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.tuple(numberValue, comparator, numberValue).map((parts) => parts.join(' ')),
    fc
      .tuple(
        pick(['f', 'r', 'f * 2', 'r + 1', 'f / r', 'd * r', 'n ^ 2']),
        comparator,
        pick(['f', 'r', ...numbers]),
      )
      .map((parts) => parts.join(' ')),
    fc
      .tuple(
        pick(['big', 'big + 1', 'big * big']),
        comparator,
        pick(['9223372036854775807', 'n', 'd']),
      )
      .map((parts) => parts.join(' ')),
    fc
      .tuple(pick(['s', 'parent.name', 'ch', 'ci']), comparator, quoted)
      .map((parts) => parts.join(' ')),
    fc.tuple(pick(['dm', 'dm + 1']), comparator, numberValue).map((parts) => parts.join(' ')),
    fc.tuple(comparator, pick(statuses)).map(([sign, status]) => `de ${sign} '${status}'`),
    fc
      .tuple(
        pick(['n', 'id', 'big']),
        comparator,
        pick(['2147483648', '-99999999999999999999', '1.5']),
      )
      .map((parts) => parts.join(' ')),
    fc
      .tuple(
        pick(['A_CONTAINS', 'A_EQUALS', 'A_OVERLAPS', 'A_CONTAINEDBY']),
        pick(['lc', "('a', 'b')"]),
        pick(["('A')", 'lc', "(s, 'a')", '(ci)']),
      )
      .map(([test, one, other]) => `${test}(${one}, ${other})`),
    tie('filter').map((filter) => `(${filter}) IS NULL`),
    fc
      .tuple(
        pick(['s', 'CASEI(s)', 'ACCENTI(s)', 'upper(s)', 'ch', 'ci', 'upper(ci)']),
        pick(['LIKE', 'NOT LIKE']),
        patterns,
      )
      .map((parts) => parts.join(' ')),
    fc
      .tuple(pick(['CASEI', 'ACCENTI', 'lower', 'upper']), quoted)
      .chain(([fold, text]) =>
        pick(['s', 'ch', 'ci']).map((name) => `${fold}(${name}) = ${fold}(${text})`),
      ),
    fc
      .tuple(pick(['starts', 'ends', 'contains']), quoted)
      .chain(([test, text]) => pick(['s', 'ch', 'ci']).map((name) => `${test}(${name}, ${text})`)),
    fc
      .tuple(pick(['day', 'ts', 'local']), comparator, fc.oneof(dates, pick(['day', 'ts'])))
      .map((parts) => parts.join(' ')),
    fc.tuple(pick(['ts', 'local']), comparator, stamps).map((parts) => parts.join(' ')),
    fc
      .tuple(
        pick([
          'T_AFTER',
          'T_BEFORE',
          'T_DURING',
          'T_INTERSECTS',
          'T_EQUALS',
          'T_MEETS',
          'T_DISJOINT',
          'T_OVERLAPS',
          'T_FINISHES',
          'T_STARTEDBY',
        ]),
        pick(['ts', 'INTERVAL(ts, ..)', 'INTERVAL(.., ts)']),
        pick([...days, '..']),
        pick([...days, '..']),
      )
      .map(
        ([relation, left, from, to]) =>
          `${relation}(${left.replace('..', "'..'")}, INTERVAL('${from}', '${to}'))`,
      ),
    fc.tuple(comparator, pick(statuses)).map(([sign, status]) => `e ${sign} '${status}'`),
    fc
      .tuple(comparator, pick(['P1M', 'PT2H', 'P1D']))
      .map(([sign, span]) => `span ${sign} '${span}'`),
    pick(['b', 'NOT b', 'b = FALSE', 'HAS(child)', 'TRUE']),
    inside.map((condition) => `HAS(child${condition})`),
    fc.tuple(inside, comparator).map(([condition, sign]) => `COUNT(child${condition}) ${sign} 1`),
    fc
      .tuple(
        pick(['A_CONTAINS', 'A_EQUALS', 'A_OVERLAPS', 'A_CONTAINEDBY']),
        pick(['()', "('a')", "('a', 'b')", 'l']),
      )
      .map(([test, list]) => `${test}(l, ${list})`),
    pick(['n', 's', 'parent.name', 'l', 'n + d', 'b', 'span']).map((value) => `${value} IS NULL`),
    fc
      .tuple(numberValue, numberValue, numberValue)
      .map(([a, b, c]) => `${a} BETWEEN ${b} AND ${c}`),
    fc
      .tuple(pick(['n', 'd']), fc.array(pick(numbers), { minLength: 1, maxLength: 4 }))
      .map(([name, list]) => `${name} IN (${list.join(', ')})`),
    fc
      .tuple(
        pick(['s', 'parent.name', 'ci', 'ch']),
        fc.array(quoted, { minLength: 1, maxLength: 3 }),
      )
      .map(([name, list]) => `${name} NOT IN (${list.join(', ')})`),
    fc
      .tuple(tie('filter'), pick(['AND', 'OR']), tie('filter'))
      .map(([a, by, b]) => `(${a}) ${by} (${b})`),
    tie('filter').map((filter) => `NOT (${filter})`),
  ),
})).filter;

const sortable = [
  'n',
  'big',
  'd',
  'f',
  'r',
  's',
  'b',
  'day',
  'ts',
  'local',
  'e',
  'l',
  'span',
  'ch',
  'ci',
  'dm',
  'de',
  'parent_id',
  'parent.name',
  'parent.rank',
  'id',
];

/** Sorts of up to three terms. */
export const sorts: fc.Arbitrary<string> = fc
  .uniqueArray(fc.tuple(pick(sortable), fc.boolean()), {
    minLength: 1,
    maxLength: 3,
    selector: ([name]) => name,
  })
  .map((terms) => terms.map(([name, down]) => (down ? `-${name}` : name)).join(','));
