import fc from 'fast-check';
import { printExpression } from '../expression/index.ts';
import { printParameters } from '../query/index.ts';
import { plainColumn } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import { plainTable } from '../testing/tables.ts';
import { spellingErrors, readSpelled, spelledProblems, type Spelling } from './index.ts';

const answer = { rows: '' };
const table = { table: passages, tables: () => undefined };

/** The query, as our own parameters have it. */
function request(
  pairs: readonly (readonly [string, string])[],
  parameters: Spelling['parameters'],
  more: Partial<Spelling> = {},
): Record<string, string> {
  const { query, problems } = readSpelled(pairs, { parameters, answer, ...more }, table);
  expect(problems).toEqual([]);
  return Object.fromEntries(printParameters(query));
}

describe('where a page begins', () => {
  it.each([
    [{ name: 'p', from: 0 }, '0', '1'],
    [{ name: 'p', from: 0 }, '6', '7'],
    [{ name: 'p', from: 1 }, '1', '1'],
    [{ name: 'p', from: 1 }, '7', '7'],
  ])('is numbered as %j says: %s is our %s', (page, sent, ours) => {
    expect(request([['p', sent]], { page })).toEqual({ page: ours });
  });

  it.each([
    [{ name: 'start', from: 0 }, '20', '20'],
    [{ name: 'start', from: 1 }, '21', '20'],
  ])('is counted as %j says: %s is our %s', (offset, sent, ours) => {
    expect(request([['start', sent]], { offset })).toEqual({ offset: ours });
  });

  it.each([
    [{ name: 'p', from: 1 }, '0'],
    [{ name: 'p', from: 0 }, '-1'],
    [{ name: 'p', from: 0 }, '1.5'],
    [{ name: 'p', from: 0 }, '9999999999999999'],
  ])('is none: %j, %s', (page, sent) => {
    const { problems } = readSpelled([['p', sent]], { parameters: { page }, answer }, table);
    expect(problems).toMatchObject([{ code: 'not-a-whole-number', parameter: 'p', position: 0 }]);
  });
});

describe('an order', () => {
  it.each([
    ['two parameters', { name: 's', direction: 'd' }, { s: 'toll', d: 'desc' }, '-toll'],
    ['no direction', { name: 's', direction: 'd' }, { s: 'toll,note' }, 'toll,note'],
    ['one for all', { name: 's', direction: 'd' }, { s: 'toll,note', d: 'desc' }, '-toll,-note'],
    [
      'one for each',
      { name: 's', direction: 'd' },
      { s: 'toll,note', d: 'desc,asc' },
      '-toll,note',
    ],
    [
      'a sign between',
      { name: 's', between: ':' },
      { s: 'toll:desc,note:asc,id' },
      '-toll,note,id',
    ],
    ['a blank between', { name: 's', between: ' ' }, { s: 'toll desc, note' }, '-toll,note'],
    ['a minus', { name: 's' }, { s: '-toll,+note' }, '-toll,note'],
    ['a minus turned around', { name: 's', direction: 'd' }, { s: '-toll', d: 'desc' }, 'toll'],
    [
      'words of its own',
      { name: 's', direction: 'd', ascending: ['UP'], descending: ['DOWN', '-1'] },
      { s: 'toll,note', d: '-1,UP' },
      '-toll,note',
    ],
    ['odd names', { name: 's', between: ':' }, { s: 'odd:name:desc' }, '-odd:name'],
  ] as const)('of %s is ours', (_what, sort, sent, ours) => {
    expect(request(Object.entries(sent), { sort })).toEqual({ sort: ours });
  });
});

const forms = {
  brackets: { name: 'w', form: 'brackets' },
  list: { name: 'w', form: 'list', column: 'c', operator: 'o', value: 'v' },
  json: {
    name: 'w',
    form: 'json',
    column: 'c',
    operator: 'o',
    value: 'v',
    joining: 'j',
    members: 'm',
  },
} as const;

const operators = {
  lt: 'less',
  gte: 'atLeast',
  in: 'oneOf',
  has: 'contains',
  none: 'missing',
} as const;

type Said = readonly [column: string, operator: string, values: readonly string[]];

/** The same conditions in each of the forms. */
const spelled: Readonly<
  Record<keyof typeof forms, (given: readonly Said[]) => [string, string][]>
> = {
  brackets: (given) =>
    given.flatMap(([column, operator, values]) =>
      values.map((value): [string, string] => [
        `w[${column}][${operator}]${values.length > 1 ? '[]' : ''}`,
        value,
      ]),
    ),
  list: (given) =>
    given.flatMap(([column, operator, values], at) => [
      [`w[${at}][c]`, column] as [string, string],
      [`w[${at}][o]`, operator] as [string, string],
      ...values.map((value): [string, string] => [
        `w[${at}][v]${values.length > 1 ? '[]' : ''}`,
        value,
      ]),
    ]),
  json: (given) => [
    [
      'w',
      JSON.stringify(
        given.map(([c, o, values]) => ({ c, o, v: values.length > 1 ? values : values[0] })),
      ),
    ],
  ],
};

describe('a condition', () => {
  it('is the same in all forms', () => {
    const conditions = fc.uniqueArray(
      fc.oneof(
        fc.tuple(
          fc.constant('toll'),
          fc.constantFrom('lt', 'gte', 'equals', 'differs'),
          fc.constantFrom(['4'], ['-2.5']),
        ),
        fc.tuple(
          fc.constant('note'),
          fc.constantFrom('has', 'begins', 'equals'),
          fc.constantFrom(['a'], ["it's"], ['x y']),
        ),
        fc.tuple(fc.constant('status'), fc.constant('in'), fc.constant(['passed', 'disputed'])),
        fc.tuple(
          fc.constant('day'),
          fc.constant('between'),
          fc.constant(['2024-01-01', '2024-02-29']),
        ),
      ),
      { minLength: 1, maxLength: 4, selector: ([column, operator]) => `${column} ${operator}` },
    );
    fc.assert(
      fc.property(conditions, (given) => {
        const texts = (Object.keys(forms) as (keyof typeof forms)[]).map((form) => {
          const parameters = { filter: forms[form] };
          const read = readSpelled(spelled[form](given), { parameters, operators, answer }, table);
          expect([form, read.problems]).toEqual([form, []]);
          return read.query.filter && printExpression(read.query.filter);
        });
        expect(texts[0]).toEqual(expect.any(String));
        expect(new Set(texts).size).toBe(1);
      }),
    );
  });

  it.each([
    [[{ c: 'toll', o: 'equals', v: null }], 'toll IS NULL'],
    [[{ c: 'toll', o: 'differs', v: null }], 'toll IS NOT NULL'],
    [{ c: 'toll', v: 4 }, 'toll = 4'],
    [{ c: 'clear', v: true }, 'clear = TRUE'],
    [
      {
        j: 'or',
        m: [
          { c: 'toll', v: 4 },
          {
            m: [
              { c: 'note', v: 'a' },
              { c: 'toll', o: 'lt', v: 9 },
            ],
          },
        ],
      },
      "toll = 4 OR note = 'a' AND toll < 9",
    ],
    [{ j: 'or', m: [] }, undefined],
    [[], undefined],
  ])('as JSON may be within others, or of null: %j', (sent, ours) => {
    const parameters = { filter: forms.json };
    expect(request([['w', JSON.stringify(sent)]], parameters, { operators }).filter).toBe(ours);
  });

  it('of an emptied field is none, and a list may stand in one text', () => {
    expect(request([['w', '']], { filter: forms.json })).toEqual({});
    const pairs = [['w[status][in]', 'passed,disputed']] as const;
    expect(request(pairs, { filter: forms.brackets }, { operators }).filter).toBe(
      "status IN ('passed', 'disputed')",
    );
  });

  it.each([
    ['brackets', [['w[toll][lt]', 'much']], 'type-mismatch', 'w[toll][lt]'],
    ['brackets', [['w[clear]', 'yes']], 'type-mismatch', 'w[clear]'],
    ['brackets', [['w[day][between]', '2024-01-01']], 'wrong-argument-count', 'w[day][between]'],
    ['brackets', [['w', 'x']], 'unexpected-token', 'w'],
    ['list', [['w[0][x]', 'x']], 'unexpected-token', 'w[0][x]'],
    [
      'list',
      [
        ['w[0][c]', 'tol'],
        ['w[0][v]', '1'],
      ],
      'unknown-column',
      'w[0]',
    ],
    ['json', [['w', '{"c":"toll","v":4,"z":1}']], 'unexpected-token', 'w'],
    ['json', [['w', '{"j":"xor","m":[]}']], 'unexpected-token', 'w'],
    ['json', [['w', '7']], 'unexpected-token', 'w'],
    ['json', [['w', '['.repeat(200)]], 'nested-too-deep', 'w'],
  ] as const)('that is none is told where it stands: %s %j', (form, pairs, code, parameter) => {
    const spelling = { parameters: { filter: forms[form] }, operators, answer };
    expect(readSpelled(pairs, spelling, table).problems).toMatchObject([{ code, parameter }]);
  });
});

describe('names', () => {
  // Words of ours that mean something else there.
  const twisted: Spelling = {
    parameters: { search: 'limit', limit: 'size', columns: 'sort', sort: { name: 'columns' } },
    answer,
  };

  it('may be ours with another meaning', () => {
    const pairs = [
      ['limit', 'heron'],
      ['size', '5'],
      ['sort', 'id,toll'],
      ['columns', '-toll'],
    ] as const;
    const { query } = readSpelled(pairs, twisted, table);
    expect(Object.fromEntries(printParameters(query))).toEqual({
      columns: 'id,toll',
      search: 'heron',
      sort: '-toll',
      limit: '5',
    });
  });

  it('are reported as they are there, with places where the text is the same', () => {
    const { problems } = readSpelled([['size', 'x']], twisted, table);
    expect(problems).toMatchObject([{ parameter: 'size', position: 0, length: 1 }]);
    const found = spelledProblems(
      [
        { code: 'unknown-column', parameter: 'columns', position: 3, length: 2, message: '' },
        { code: 'unknown-column', parameter: 'sort', position: 1, length: 2, message: '' },
        { code: 'type-mismatch', parameter: 'filter', position: 0, length: 0, message: '' },
      ],
      { ...twisted, parameters: { ...twisted.parameters, filter: forms.brackets } },
    );
    expect(found).toEqual([
      { code: 'unknown-column', parameter: 'sort', position: 3, length: 2, message: '' },
      { code: 'unknown-column', parameter: 'columns', message: '' },
      { code: 'type-mismatch', parameter: 'w', message: '' },
    ]);
  });

  it('are each sent once, and known, or ignored on purpose', () => {
    const spelling = { ...twisted, ignored: ['_'] };
    const pairs = [
      ['size', '1'],
      ['size', '2'],
      ['_', '9'],
      ['_', '8'],
      ['siz', '1'],
    ] as const;
    expect(readSpelled(pairs, spelling, table).problems).toMatchObject([
      { code: 'repeated-parameter', parameter: 'size' },
      { code: 'unknown-parameter', parameter: 'siz', hint: 'Did you mean size?' },
    ]);
  });

  it('reach related columns', () => {
    const locks = plainTable('locks', [
      plainColumn('id', { kind: 'integer', bits: 32 }),
      plainColumn('name', { kind: 'text' }),
    ]);
    const lock = {
      name: 'lock',
      kind: 'one',
      table: 'locks',
      columns: ['lock_id'],
      references: ['id'],
    } as const;
    const related = { table: { ...passages, relationships: [lock] }, tables: () => locks };
    const spelling = { parameters: { filter: forms.brackets, sort: { name: 's' } }, answer };
    const pairs = [
      ['w[lock.name][begins]', 'Heron'],
      ['s', 'lock.name'],
    ] as const;
    const { query, problems } = readSpelled(pairs, spelling, related);
    expect(problems).toEqual([]);
    expect(Object.fromEntries(printParameters(query))).toEqual({
      filter: "CASEI(lock.name) LIKE CASEI('Heron%')",
      sort: 'lock.name',
    });
  });
});

describe('a spelling', () => {
  it.each([
    [{ parameters: { search: 'q', limit: 'q' } }, ['parameters', 'limit'], 'also the name'],
    [
      { parameters: { search: 'q', filter: { name: 'q', form: 'brackets' } } },
      ['parameters', 'filter'],
      'also the name',
    ],
    [{ parameters: { search: 'q' }, ignored: ['q'] }, ['ignored'], 'also the name'],
    [
      { parameters: { sort: { name: 's', direction: 'd', between: ':' } } },
      ['parameters', 'sort'],
      'name one',
    ],
    [
      { parameters: { filter: { ...forms.json, value: 'c' } } },
      ['parameters', 'filter'],
      'the same name',
    ],
    [
      { parameters: { filter: { ...forms.json, and: 'or' } } },
      ['parameters', 'filter'],
      'the same word',
    ],
    [{ parameters: {}, answer: { rows: 'a', total: 'a' } }, ['answer', 'rows'], 'in its place'],
  ] as const)('that cannot be is told: %j', (given, path, message) => {
    const [first] = spellingErrors({ answer, ...given });
    expect(first).toEqual({ path, message: expect.stringContaining(message) });
  });
});
