import { plainColumn, type ColumnDescription, type ColumnType } from '../schema/index.ts';
import { plainTable } from '../testing/tables.ts';
import { applyChanges, checkChanges, writtenValue, type Change } from './index.ts';

const numeric = (precision: number, scale: number): ColumnType => ({
  kind: 'numeric',
  precision,
  scale,
});
const integer = (bits: 16 | 32 | 64): ColumnType => ({ kind: 'integer', bits });
const zoned: ColumnType = { kind: 'timestamp', zone: true };
const unzoned: ColumnType = { kind: 'timestamp', zone: false };
const list = (element: ColumnType): ColumnType => ({ kind: 'array', element });

describe('a value that is written', () => {
  it.each<[ColumnType, any, string | null]>([
    [integer(16), '0032767', '32767'],
    [integer(64), '-9223372036854775808', '-9223372036854775808'],
    [integer(32), 1e3, '1000'],
    [numeric(5, 2), '999.99', '999.99'],
    [numeric(5, 2), '1.500', '1.500'],
    [numeric(3, 3), '.5'.replace('.', '0.'), '0.5'],
    [{ kind: 'numeric' }, 'NaN', 'NaN'],
    [numeric(5, 2), 'NaN', 'NaN'],
    [numeric(5, -2), '12300', '12300'],
    [{ kind: 'time', zone: false }, '24:00:00', '24:00:00'],
    [{ kind: 'time', zone: true }, '10:15:00+05:30:15', '10:15:00+05:30:15'],
    [{ kind: 'date' }, '12024-01-01', '12024-01-01'],
    [{ kind: 'float', bits: 64 }, '-Infinity', '-Infinity'],
    [{ kind: 'boolean' }, 'true', 'true'],
    [{ kind: 'date' }, '2024-02-29', '2024-02-29'],
    [{ kind: 'date' }, 'infinity', 'infinity'],
    [zoned, '2024-02-29T10:15:00+02:00', '2024-02-29T10:15:00+02:00'],
    [unzoned, '2024-02-29T10:15', '2024-02-29T10:15:00'],
    [{ kind: 'interval' }, 'P1DT2H', 'P1DT2H'],
    [{ kind: 'json' }, { a: [1] }, '{"a":[1]}'],
    [{ kind: 'binary' }, 'AP8=', '\\x00ff'],
    [
      list(integer(32)),
      [
        [1, null],
        [2, 3],
      ],
      '{{"1",NULL},{"2","3"}}',
    ],
    [list({ kind: 'text' }), ['a"b', 'NULL', ''], '{"a\\"b","NULL",""}'],
    [{ kind: 'text' }, '', ''],
    [{ kind: 'text', maxLength: 2 }, '🛶🛶', '🛶🛶'],
    [{ kind: 'text' }, null, null],
  ])('of %j: %j is %j', (type, value, text) => {
    expect(writtenValue(value, type)).toEqual({ text });
  });

  it.each<[ColumnType, any, string]>([
    [integer(16), 32768, 'number-out-of-range'],
    [integer(32), 1.5, 'invalid-value'],
    [integer(32), '', 'invalid-value'],
    [numeric(5, 2), '1000', 'number-out-of-range'],
    [numeric(5, 2), '1.005', 'too-many-decimals'],
    [numeric(5, 2), 'Infinity', 'invalid-value'],
    [numeric(3, -2), '150', 'too-many-decimals'],
    [{ kind: 'boolean' }, 1, 'type-mismatch'],
    [{ kind: 'date' }, '2024-02-30', 'invalid-value'],
    [{ kind: 'date' }, '2024-02-29T10:15:00Z', 'invalid-value'],
    [zoned, '2024-02-29T10:15:00', 'invalid-value'],
    [zoned, '2024-02-29T25:15:00Z', 'invalid-value'],
    [{ kind: 'interval' }, 'an hour', 'invalid-value'],
    [{ kind: 'uuid' }, 'x', 'invalid-value'],
    [{ kind: 'enum', name: 'e', values: ['up'] }, 'upp', 'unknown-enum-value'],
    [{ kind: 'binary' }, '!', 'invalid-value'],
    [list(integer(32)), 'x', 'type-mismatch'],
    [list(integer(32)), [1, 'x'], 'invalid-value'],
    [{ kind: 'text', maxLength: 2 }, 'abc', 'text-too-long'],
    [{ kind: 'text' }, '\ud800', 'forbidden-character'],
    [{ kind: 'text' }, 5, 'type-mismatch'],
  ])('of %j: %j is %s', (type, value, code) => {
    expect(writtenValue(value, type)).toMatchObject({ problem: { code } });
  });

  it('keeps the digits of its JSON text', () => {
    expect(writtenValue(1, { kind: 'numeric' }, '1.00000000000000000001')).toEqual({
      text: '1.00000000000000000001',
    });
    expect(writtenValue({ n: 1 }, { kind: 'json' }, '{"n": 12345678901234567890}')).toEqual({
      text: '{"n": 12345678901234567890}',
    });
  });
});

const writing = { add: true, change: true } as const;
const column = (name: string, type: ColumnType, more: Partial<ColumnDescription> = {}) =>
  plainColumn(name, type, { writing, ...more });
const changes = { add: true, change: true, remove: true };
const parents = plainTable(
  'parents',
  [column('id', integer(32)), column('name', { kind: 'text' })],
  { changes },
);
const children = plainTable(
  'children',
  [
    column('id', integer(32)),
    column('parent_id', integer(32)),
    column('next_id', integer(32)),
    column('data', { kind: 'json' }),
  ],
  {
    changes,
    relationships: [
      { name: 'parent', kind: 'one', table: 'parents', columns: ['parent_id'], references: ['id'] },
      { name: 'next', kind: 'one', table: 'children', columns: ['next_id'], references: ['id'] },
    ],
  },
);
const tables = (name: string) => [parents, children].find((one) => one.name === name);
const add = (table: string, ref: string | undefined, values: object): Change => ({
  kind: 'add',
  table,
  ...(ref === undefined ? {} : { ref }),
  values: values as never,
});
const codes = (set: readonly Change[]): string[] =>
  checkChanges(set, { tables }).problems.map(({ code, change }) =>
    `${change ?? ''} ${code}`.trim(),
  );

describe('references between new rows', () => {
  it('bring those first that others refer to, and leave the rest as it was', () => {
    const { checked, problems } = checkChanges(
      [
        add('children', 'c', { id: 1, parent_id: { ref: 'p' }, next_id: { ref: 'd' } }),
        add('parents', undefined, { id: 9 }),
        add('children', 'd', { id: 2, parent_id: { ref: 'p' } }),
        add('parents', 'p', { id: 1 }),
        { kind: 'change', table: 'children', key: ['7'], values: { next_id: { ref: 'c' } } },
      ],
      { tables },
    );
    expect(problems).toEqual([]);
    expect(checked.map(({ at }) => at)).toEqual([3, 2, 0, 1, 4]);
    const first = checked.find(({ at }) => at === 0);
    expect(first?.kind === 'add' && first.values.get('parent_id')).toEqual({
      ref: 'p',
      column: 'id',
    });
  });

  it('are refused in a circle, to nowhere, to rows of another table, and twice the same', () => {
    const circle = [
      add('children', 'a', { next_id: { ref: 'b' } }),
      add('children', 'b', { next_id: { ref: 'a' } }),
    ];
    expect(codes(circle)).toEqual(['circular-refs']);
    expect(codes([add('children', 'a', { next_id: { ref: 'a' } })])).toEqual(['circular-refs']);
    expect(codes([add('children', undefined, { next_id: { ref: 'x' } })])).toEqual([
      '0 unknown-ref',
    ]);
    const misfit = [add('parents', 'p', {}), add('children', undefined, { next_id: { ref: 'p' } })];
    expect(codes(misfit)).toEqual(['1 ref-mismatch']);
    expect(codes([add('parents', 'p', {}), add('parents', 'p', {})])).toEqual(['1 repeated-ref']);
  });

  it('are values like any other where JSON is written', () => {
    const { checked } = checkChanges([add('children', undefined, { data: { ref: 'x' } })], {
      tables,
    });
    expect(checked[0]?.kind === 'add' && checked[0].values.get('data')).toBe('{"ref":"x"}');
  });

  it('may be a very long chain', () => {
    const chain = Array.from({ length: 20_000 }, (_, at) =>
      add('children', `r${at}`, at === 19_999 ? {} : { next_id: { ref: `r${at + 1}` } }),
    );
    const { checked, problems } = checkChanges(chain, { tables });
    expect([problems.length, checked[0]?.at, checked.at(-1)?.at]).toEqual([0, 19_999, 0]);
  });
});

describe('rows at hand', () => {
  const rows = [
    { id: 1, name: 'one' },
    { id: 2, name: 'two' },
  ];

  it('are changed wholly or not at all', () => {
    const set: Change[] = [
      { kind: 'add', values: { name: 'three' } },
      { kind: 'change', key: ['1'], was: { name: 'one' }, values: { name: 'first' } },
    ];
    expect(applyChanges(rows, set, parents)).toMatchObject({
      kind: 'saved',
      rows: [{ id: 1, name: 'first' }, { id: 2 }, { id: 3, name: 'three' }],
    });
    const late: Change = { kind: 'remove', key: ['2'], was: { name: 'other' } };
    expect(applyChanges(rows, [...set, late], parents)).toEqual({
      kind: 'conflict',
      outcomes: [
        { kind: 'held' },
        { kind: 'held' },
        { kind: 'conflict', columns: ['name'], now: { id: 2, name: 'two' } },
      ],
    });
    expect(rows).toHaveLength(2);
  });

  it('are held to the rules with all changes made, also by what a change does not name', () => {
    const rule = { rule: "name <> 'two' OR id < 5", message: 'Two stays small.' };
    const ruled = { ...parents, changes: { add: true, change: true, remove: true, rules: [rule] } };
    const renumbered: Change = { kind: 'change', key: ['2'], values: { id: 9 } };
    expect(applyChanges(rows, [renumbered], ruled)).toMatchObject({
      kind: 'refused',
      problems: [{ code: 'breaks-rule', change: 0, message: 'Two stays small.' }],
    });
    const first: Change = { kind: 'change', key: ['1'], values: { id: 9 } };
    expect(applyChanges(rows, [first], ruled).kind).toBe('saved');
  });
});
