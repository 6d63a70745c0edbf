import fc from 'fast-check';
import { checkQuery } from '../check/index.ts';
import { queryRows, type MemoryRow } from '../memory/index.ts';
import { plainColumn, type Tables } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import { plainTable } from '../testing/tables.ts';
import { identifierOf } from './identifier.ts';
import {
  csdlXml,
  edmTypeOf,
  entityOf,
  parseAddress,
  printValue,
  readQueryOptions,
} from './index.ts';

const one: Tables = () => undefined;

const rows: readonly MemoryRow[] = [
  { id: '1', toll: '2.50', lock_id: 4, note: 'zebra', clear: true },
  { id: '2', toll: null, lock_id: 2, note: null, clear: false },
  { id: '3', toll: '10', lock_id: -3, note: 'apple', clear: null },
  { id: '4', toll: '0', lock_id: 0, note: '', clear: true },
  { id: '5', toll: null, lock_id: 7, note: "it's", clear: null },
];

/** A row as the standard's own semantics see it. */
interface Seen {
  readonly toll: number | null;
  readonly lock_id: number;
  readonly note: string | null;
  readonly clear: boolean | null;
}

const observed = rows.map(({ toll, lock_id, note, clear }) => ({
  toll: toll === null ? null : Number(toll),
  lock_id,
  note,
  clear,
})) as readonly Seen[];

function found(options: Parameters<typeof readQueryOptions>[0]): unknown[] {
  const entity = entityOf(passages, one);
  if (entity === undefined) throw new Error('there is an entity');
  const { texts: query, problems } = readQueryOptions({ select: 'id', ...options }, entity, one);
  if (problems.length > 0) throw new Error(problems.map(({ message }) => message).join(' '));
  const read = checkQuery({ sort: [byId], ...query.query }, passages);
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return queryRows(read.checked, rows).rows.map(({ id }) => id);
}

const byId = { column: { name: 'id', span: { start: 0, end: 0 } }, descending: false };

/** What an expression is by the standard: a text, and what it gives for a row. */
interface Said<Value> {
  readonly text: string;
  readonly of: (row: Seen) => Value | null;
}

const numbers: fc.Arbitrary<Said<number>> = fc.oneof(
  fc.constantFrom(
    { text: 'toll', of: (row: Seen) => row.toll },
    { text: 'lock_id', of: (row: Seen) => row.lock_id },
    { text: '$it/toll', of: (row: Seen) => row.toll },
    { text: 'lock_id add 1', of: (row: Seen) => row.lock_id + 1 },
    { text: '(toll mul 2 sub 1)', of: ({ toll }: Seen) => (toll === null ? null : toll * 2 - 1) },
    { text: 'lock_id div 2', of: (row: Seen) => Math.trunc(row.lock_id / 2) },
    { text: 'lock_id divby 2', of: (row: Seen) => row.lock_id / 2 },
    { text: '-lock_id', of: (row: Seen) => -row.lock_id },
    { text: 'length(note)', of: ({ note }: Seen) => note?.length ?? null },
    { text: 'floor(toll)', of: ({ toll }: Seen) => (toll === null ? null : Math.floor(toll)) },
    { text: 'ceiling(toll)', of: ({ toll }: Seen) => (toll === null ? null : Math.ceil(toll)) },
  ),
  fc
    .constantFrom('0', '2', '-3', '2.5', '10', 'null')
    .map((text) => ({ text, of: () => (text === 'null' ? null : Number(text)) })),
);

const operators = {
  eq: (a: unknown, b: unknown) => a === b,
  ne: (a: unknown, b: unknown) => a !== b,
  gt: (a: number | null, b: number | null) => a !== null && b !== null && a > b,
  ge: (a: number | null, b: number | null) => a !== null && b !== null && a >= b,
  lt: (a: number | null, b: number | null) => a !== null && b !== null && a < b,
  le: (a: number | null, b: number | null) => a !== null && b !== null && a <= b,
} as const;

const both = (a: boolean | null, b: boolean | null): boolean | null =>
  a === false || b === false ? false : a === null || b === null ? null : true;
const opposite = (a: boolean | null): boolean | null => (a === null ? null : !a);

const conditions: fc.Arbitrary<Said<boolean>> = fc.letrec<{ predicate: Said<boolean> }>((tie) => ({
  predicate: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc
      .tuple(
        numbers,
        fc.constantFrom(...(Object.keys(operators) as (keyof typeof operators)[])),
        numbers,
      )
      .map(([a, operator, b]) => ({
        text: `${a.text} ${operator} ${b.text}`,
        of: (row: Seen) => operators[operator](a.of(row), b.of(row)),
      })),
    fc
      .tuple(numbers, fc.subarray(['2.5', '4', '0', 'null'], { minLength: 1 }))
      .filter(([{ text }]) => text !== 'null')
      .map(([a, members]) => ({
        text: `${a.text} in (${members.join(',')})`,
        of: (row: Seen) =>
          members.some((member) => a.of(row) === (member === 'null' ? null : Number(member))),
      })),
    fc.constantFrom<Said<boolean>>(
      { text: 'clear', of: (row) => row.clear },
      { text: 'clear eq true', of: (row) => row.clear === true },
      { text: 'clear ne true', of: (row) => row.clear !== true },
      { text: "contains(note,'a')", of: ({ note }) => note?.includes('a') ?? null },
      {
        text: "contains(note,'a') eq false",
        of: ({ note }) => note !== null && !note.includes('a'),
      },
      { text: '(toll gt 4) eq false', of: ({ toll }) => !(toll !== null && toll > 4) },
      { text: "startswith(note,'z')", of: ({ note }) => note?.startsWith('z') ?? null },
      { text: "note eq 'it''s'", of: ({ note }) => note === "it's" },
      { text: "toupper(note) eq 'ZEBRA'", of: ({ note }) => note?.toUpperCase() === 'ZEBRA' },
      { text: 'note ne null', of: ({ note }) => note !== null },
      { text: 'true', of: () => true },
    ),
    fc.tuple(tie('predicate'), tie('predicate')).map(([a, b]) => ({
      text: `(${a.text}) and (${b.text})`,
      of: (row: Seen) => both(a.of(row), b.of(row)),
    })),
    fc.tuple(tie('predicate'), tie('predicate')).map(([a, b]) => ({
      text: `(${a.text}) or (${b.text})`,
      of: (row: Seen) => opposite(both(opposite(a.of(row)), opposite(b.of(row)))),
    })),
    tie('predicate').map((a) => ({
      text: `not (${a.text})`,
      of: (row: Seen) => opposite(a.of(row)),
    })),
  ),
})).predicate;

describe('a filter of OData', () => {
  it('holds for the rows for which it is true by the standard, nulls and all', () => {
    fc.assert(
      fc.property(conditions, ({ text, of }) => {
        // A null alone on both sides has no type that rows could be requested by.
        fc.pre(!/\bnull (?:gt|ge|lt|le|eq|ne) null\b/.test(text));
        const wanted = rows.filter((_row, at) => of(observed[at]!) === true).map(({ id }) => id);
        expect({ text, ids: found({ filter: text }) }).toEqual({ text, ids: wanted });
      }),
      { numRuns: 600 },
    );
  });

  it.each([
    ['passed_at ge 2024-03-01T10:00:00+02:00 and day eq 2024-03-01 and at lt 10:15'],
    ['mark eq 0f8fad5b-d9cb-469f-a165-70867728950e'],
    ["crossing gt duration'PT5M' or crossing gt 'PT5M'"],
    ["crew/any(c: c eq 'Ada')"],
    ['year(passed_at) eq 2024 and date(passed_at) eq 2024-03-01'],
    ['passed_at ge 2024-03-01T10:00:00 02:00'],
  ])('is understood: %s', (filter) => {
    expect(() => found({ filter })).not.toThrow();
  });

  it.each([
    ["indexof(note,'a') eq 1", 'not-implemented', 0],
    ['toll gt 1 and note has 1', 'not-implemented', 19],
    ['tolll gt 1', 'unknown-column', 0],
    ['toll gt 1 and', 'unexpected-end', 13],
    ["note eq 'a", 'unclosed-quote', 8],
    ['frobnicate(toll) eq 1', 'unknown-function', 0],
    ['toll gt @p', 'not-implemented', 8],
    ['toll', 'none', undefined],
    ['lock/name eq 1', 'unknown-column', 0],
    ['toll/cents eq 1', 'not-implemented', 5],
    ['toString(note)', 'unknown-function', 0],
  ])('that cannot be answered is refused at its place: %s', (filter, code, position) => {
    const entity = entityOf(passages, one);
    if (entity === undefined) throw new Error('there is an entity');
    const { problems } = readQueryOptions({ filter }, entity, one);
    if (code === 'none') expect(problems).toEqual([]);
    else expect(problems).toMatchObject([{ code, parameter: '$filter', position }]);
  });

  it.each([
    ['too deep', '('.repeat(200), 'nested-too-deep', 101],
    ['a sum too long', `toll gt 1${' add 1'.repeat(200)}`, 'nested-too-deep', 610],
    ['a list too long', `toll in (${'1,'.repeat(10_000)}1)`, 'too-many-members', 20_009],
    ['too much', `toll gt 1${' or toll gt 1'.repeat(3_000)}`, 'too-many-parts', 32_500],
  ])('that is %s is refused', (_what, filter, code, position) => {
    const entity = entityOf(passages, one);
    if (entity === undefined) throw new Error('there is an entity');
    const [problem] = readQueryOptions({ filter }, entity, one).problems;
    expect([problem?.code, problem?.position]).toEqual([code, position]);
  });

  it('may have as many conditions side by side as a question has parts', () => {
    const many = Array.from({ length: 2_400 }, (_, at) => `toll gt ${at}`).join(' or ');
    expect(found({ filter: many })).toEqual(['1', '3']);
  });

  it('sorts nulls before all values, and so last downwards', () => {
    expect(found({ orderby: 'toll' })).toEqual(['2', '5', '4', '1', '3']);
    expect(found({ orderby: 'toll desc,lock_id desc' })).toEqual(['3', '1', '4', '5', '2']);
  });
});

describe('the model', () => {
  it.each([
    ['passed_at', 'passed_at'],
    ['odd name', 'odd_x0020_name'],
    ['odd_x0020_name', 'odd_x005F_x0020_name'],
    ['2nd', '_x0032_nd'],
    ['harbour.fees', 'harbour_x002E_fees'],
    ['größe', 'größe'],
    ['🛶', '_x1F6F6_'],
  ])('calls %s %s', (name, identifier) => {
    expect(identifierOf(name)).toBe(identifier);
  });

  it('gives two names two identifiers', () => {
    const sign = fc.constantFrom('a', '_', 'x', '0', '2', ' ', '.', '🛶', 'F');
    fc.assert(
      fc.property(
        fc.string({ unit: sign, minLength: 1 }),
        fc.string({ unit: sign, minLength: 1 }),
        (a, b) => {
          expect(identifierOf(a) === identifierOf(b)).toBe(a === b);
          expect(identifierOf(a)).toMatch(/^[\p{L}_][\p{L}\p{N}_]*$/u);
        },
      ),
      { numRuns: 2_000 },
    );
  });

  it('leaves out tables that have no key, or one that OData knows no key of', () => {
    const bare = plainTable('bare', [plainColumn('id', { kind: 'integer', bits: 32 })], {
      key: [],
    });
    const float = plainTable('float', [plainColumn('id', { kind: 'float', bits: 64 })]);
    expect(entityOf(bare, one)).toBeUndefined();
    expect(entityOf(float, one)).toBeUndefined();
  });

  it('stands in XML with whatever a label has in it', () => {
    const label = 'a <b> & "c"\n\u0001';
    const odd = plainTable('odd', [
      plainColumn('id', { kind: 'integer', bits: 32 }, { nullable: false, label }),
    ]);
    const entity = entityOf(odd, one);
    if (entity === undefined) throw new Error('there is an entity');
    const xml = csdlXml([entity], one, '4.01');
    expect(xml).toContain('String="a &lt;b&gt; &amp; &quot;c&quot;&#10; "');
    expect(xml).toContain('<Property Name="id" Type="Edm.Int32" Nullable="false">');
  });
});

describe('values', () => {
  const form = { ieee754Compatible: false };
  it.each([
    ['9223372036854775807', { kind: 'integer', bits: 64 }, '9223372036854775807'],
    ['4.00', { kind: 'numeric' }, '4.00'],
    ['NaN', { kind: 'numeric' }, '"NaN"'],
    ['-Infinity', { kind: 'float', bits: 64 }, '"-INF"'],
    [1.5, { kind: 'float', bits: 64 }, '1.5'],
    ['infinity', { kind: 'date' }, 'null'],
    ['0044-03-15 BC', { kind: 'date' }, '"-0043-03-15"'],
    ['0001-01-01 BC', { kind: 'date' }, '"0000-01-01"'],
    ['12024-01-01', { kind: 'date' }, '"12024-01-01"'],
    ['2024-02-29T10:15:00.5Z', { kind: 'timestamp', zone: true }, '"2024-02-29T10:15:00.5Z"'],
    ['2024-02-29T10:15:00', { kind: 'timestamp', zone: false }, '"2024-02-29T10:15:00Z"'],
    ['0044-03-15 10:00:00+00 BC', { kind: 'timestamp', zone: true }, '"-0043-03-15T10:00:00Z"'],
    ['-infinity', { kind: 'timestamp', zone: true }, 'null'],
    ['24:00:00', { kind: 'time', zone: false }, 'null'],
    ['+/+=', { kind: 'binary' }, '"-_-"'],
    ['{"a":1}', { kind: 'json' }, '"{\\"a\\":1}"'],
    [['a', null], { kind: 'array', element: { kind: 'text' } }, '["a",null]'],
    [[['1'], ['2']], { kind: 'array', element: { kind: 'integer', bits: 64 } }, '[1,2]'],
    [null, { kind: 'array', element: { kind: 'text' } }, '[]'],
    [null, { kind: 'text' }, 'null'],
    [true, { kind: 'boolean' }, 'true'],
  ] as const)('%j of %j is %s', (value, type, text) => {
    expect(printValue(value, edmTypeOf(type), form)).toBe(text);
  });

  it('are texts where a client cannot hold the number', () => {
    const compatible = { ieee754Compatible: true };
    expect(printValue('4.00', edmTypeOf({ kind: 'numeric' }), compatible)).toBe('"4.00"');
    expect(printValue(4, edmTypeOf({ kind: 'integer', bits: 32 }), compatible)).toBe('4');
  });
});

describe('an address', () => {
  it.each([
    ['/', []],
    ['/passages', [['passages']]],
    ['/passages(17)/toll/$value', [['passages', { '': '17' }], ['toll'], ['$value']]],
    ["/pairs(a=1,b='x%2Fy')", [['pairs', { a: '1', b: 'x/y' }]]],
    ["/owners('O''Hara')", [['owners', { '': "O'Hara" }]]],
    ['/days(2024-02-29)', [['days', { '': '2024-02-29' }]]],
    ['/lows(-5)', [['lows', { '': '-5' }]]],
  ])('%s is read', (path, expected) => {
    const parts = parseAddress(path).map(({ name, key }) =>
      key === undefined ? [name] : [name, Object.fromEntries(key)],
    );
    expect(parts).toEqual(expected);
  });
});
