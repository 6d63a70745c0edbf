import { printParameters } from '../query/index.ts';
import {
  plainColumn,
  type Relationship,
  type TableDescription,
  type Tables,
} from '../schema/index.ts';
import { plainTable } from '../testing/tables.ts';
import {
  csdlJson,
  edmTypeOf,
  entityOf,
  optionsOf,
  printPageToken,
  printPlaced,
  readOptionNames,
  readQueryOptions,
  rowPrinter,
  selectedIn,
  type Entity,
  type Options,
  type QueryOptionTexts,
} from './index.ts';
import { columnsOf } from './rows.ts';

const whole = { kind: 'integer', bits: 32 } as const;
const way = (
  name: string,
  kind: Relationship['kind'],
  to: string,
  columns: string,
  references: string,
): Relationship => ({
  name,
  kind,
  table: to,
  columns: [columns],
  references: [references],
});

const described: Readonly<Record<string, TableDescription>> = {
  passages: plainTable(
    'passages',
    [
      plainColumn('id', whole, { nullable: false }),
      plainColumn('toll', { kind: 'numeric', precision: 8, scale: 2 }),
      plainColumn('odd name', { kind: 'text', maxLength: 9 }),
      plainColumn('marks', { kind: 'array', element: { kind: 'text' } }),
      plainColumn('about', { kind: 'json' }),
      plainColumn('lock_id', whole),
    ],
    {
      relationships: [
        way('lock', 'one', 'locks', 'lock_id', 'id'),
        way('bare', 'one', 'bare', 'lock_id', 'id'),
      ],
    },
  ),
  locks: plainTable(
    'locks',
    [
      plainColumn('id', whole, { nullable: false }),
      plainColumn('name', { kind: 'text' }),
      plainColumn('canal_id', whole),
    ],
    {
      relationships: [
        way('canal', 'one', 'canals', 'canal_id', 'id'),
        way('passages', 'many', 'passages', 'id', 'lock_id'),
      ],
    },
  ),
  canals: plainTable(
    'canals',
    [
      plainColumn('id', whole, { nullable: false }),
      plainColumn('name', { kind: 'text' }),
      plainColumn('locks', whole),
    ],
    {
      // A column keeps its name: there is no way `locks` next to it.
      relationships: [way('locks', 'many', 'locks', 'id', 'canal_id')],
    },
  ),
  bare: plainTable('bare', [plainColumn('id', whole)], { key: [] }),
};
const tables: Tables = (name) => described[name];

function entity(name: string): Entity {
  const found = described[name] && entityOf(described[name], tables);
  if (found === undefined) throw new Error(`there is no ${name}`);
  return found;
}

function request(options: Options, of = 'passages'): QueryOptionTexts {
  const { texts: query, problems } = readQueryOptions(options, entity(of), tables);
  expect(problems).toEqual([]);
  return query;
}

const texts = ({ query }: QueryOptionTexts): Record<string, string> => {
  const { columns: _columns, ...rest } = Object.fromEntries(printParameters(query));
  return rest;
};

describe('what of a row is answered', () => {
  it.each<[Options, string[], string]>([
    [{}, ['id', 'toll', 'odd name', 'marks', 'about', 'lock_id'], ''],
    [{ select: '*' }, ['id', 'toll', 'odd name', 'marks', 'about', 'lock_id'], ''],
    // In the order of the table, each once.
    [{ select: 'odd_x0020_name,id,id' }, ['id', 'odd name'], '(id,odd_x0020_name)'],
    [{ select: 'id,lock' }, ['id'], '(id)'],
    [
      { select: 'id', expand: 'lock($select=name)' },
      ['id', 'lock.id', 'lock.name'],
      '(id,lock(name))',
    ],
    [
      { select: 'id', expand: 'lock($expand=canal($select=name);$select=id)' },
      ['id', 'lock.id', 'lock.canal.id', 'lock.canal.name'],
      '(id,lock(id,canal(name)))',
    ],
    [{ select: 'id', expand: '*' }, ['id', 'lock.id', 'lock.name', 'lock.canal_id'], '(id,lock())'],
  ])('by %j', (options, columns, context) => {
    const { selection } = request(options);
    expect(columnsOf(selection)).toEqual(columns);
    expect(selectedIn(selection)).toBe(context);
  });

  it.each<[Options, string, string, number | undefined]>([
    [{ select: 'nothing' }, 'unknown-column', '$select', 0],
    [{ select: 'id,' }, 'unexpected-end', '$select', 3],
    [{ select: 'lock/name' }, 'not-implemented', '$select', 4],
    [{ expand: 'lock,lock' }, 'repeated-term', '$expand', 5],
    [{ expand: 'bare' }, 'unknown-column', '$expand', 0],
    [{ expand: 'lock($filter=id eq 1)' }, 'not-implemented', '$expand', 5],
    [{ expand: 'lock($expand=passages)' }, 'not-implemented', '$expand', 13],
    [{ expand: 'lock($select=id' }, 'unexpected-end', '$expand', 15],
    [{ expand: 'lock/$ref' }, 'not-implemented', '$expand', 4],
  ])('not by %j', (options, code, parameter, position) => {
    const { problems } = readQueryOptions(options, entity('passages'), tables);
    expect(problems).toMatchObject([{ code, parameter, position }]);
  });

  it('is written as an object in objects, null where a row refers to none', () => {
    const { selection } = request({
      select: 'id,toll',
      expand: 'lock($select=name;$expand=canal($select=name))',
    });
    const print = rowPrinter(selection, { ieee754Compatible: false });
    const columns = columnsOf(selection);
    const row = (values: Record<string, unknown>): unknown => {
      const inOrder = columns.map((name) => values[name] ?? null);
      return JSON.parse(print((place) => inOrder[place], '"@lead":1'));
    };
    const known = { id: 1, toll: '4.00', 'lock.id': 3, 'lock.name': null, 'lock.canal.id': null };
    expect(row(known)).toEqual({ '@lead': 1, id: 1, toll: 4, lock: { name: null, canal: null } });
    expect(row({ id: 2 })).toEqual({ '@lead': 1, id: 2, toll: null, lock: null });
  });
});

describe('what is made of rows', () => {
  it.each<[Options, Record<string, string>]>([
    [
      { apply: 'groupby((lock/canal/name,lock_id),aggregate(toll with sum as total,$count as n))' },
      { group: 'lock.canal.name,lock_id', aggregate: 'sum(toll),count()' },
    ],
    [
      { apply: 'filter(toll gt 4)/filter(lock_id eq 3)/aggregate(toll with average as mean)' },
      { filter: 'toll > 4 AND lock_id = 3', group: '', aggregate: 'avg(toll)' },
    ],
    [{ apply: 'filter(lock_id eq 3)', filter: 'id gt 1' }, { filter: 'lock_id = 3 AND id > 1' }],
    [
      { apply: 'groupby((odd_x0020_name))', orderby: 'odd_x0020_name desc' },
      { group: '"odd name"', aggregate: '', sort: '-"odd name"' },
    ],
    [
      { apply: 'aggregate(toll with sum as a,toll with sum as b,lock_id with countdistinct as c)' },
      { group: '', aggregate: 'sum(toll),distinct(lock_id)' },
    ],
    [
      {
        apply: 'groupby((lock_id),aggregate(toll with max as most))',
        orderby: 'most desc,lock_id',
      },
      { group: 'lock_id', aggregate: 'max(toll)', sort: '-max(toll),lock_id' },
    ],
  ])('is a grouping of ours: %j', (options, ours) => {
    expect(texts(request(options))).toEqual(ours);
  });

  it.each<[Options, string, string]>([
    [
      { apply: 'groupby((lock_id),aggregate(toll with sum as n,$count as n))' },
      'repeated-term',
      '$apply',
    ],
    [{ apply: 'groupby((lock_id,lock_id))' }, 'repeated-term', '$apply'],
    [{ apply: 'aggregate(toll with middle as m)' }, 'unknown-aggregate', '$apply'],
    [{ apply: 'aggregate(toll mul 2 with sum as m)' }, 'not-implemented', '$apply'],
    [{ apply: 'aggregate(toll with sum)' }, 'unexpected-token', '$apply'],
    [{ apply: 'groupby((rollup(lock_id)))' }, 'not-implemented', '$apply'],
    [{ apply: 'groupby((lock_id))/filter(lock_id eq 1)' }, 'not-implemented', '$apply'],
    [{ apply: 'topcount(3,toll)' }, 'not-implemented', '$apply'],
    [{ apply: 'groupby((lock_id))', filter: 'lock_id eq 1' }, 'not-implemented', '$filter'],
    [{ apply: 'groupby((lock_id))', select: 'lock_id' }, 'not-implemented', '$select'],
    [{ apply: 'groupby((lock_id))', orderby: 'toll' }, 'not-a-group-sort', '$orderby'],
    [{ apply: 'groupby((lock))' }, 'not-implemented', '$apply'],
  ])('is refused: %j', (options, code, parameter) => {
    const { problems } = readQueryOptions(options, entity('passages'), tables);
    expect(problems).toMatchObject([{ code, parameter }]);
  });

  it('stands in objects by its path', () => {
    const values = [
      { path: ['lock', 'canal', 'name'], value: 'Wend', type: edmTypeOf({ kind: 'text' }) },
      { path: ['lock', 'id'], value: 3, type: edmTypeOf(whole) },
      { path: ['total'], value: '12.50', type: edmTypeOf({ kind: 'numeric' }) },
    ];
    expect(printPlaced(values, { ieee754Compatible: false })).toBe(
      '{"lock":{"canal":{"name":"Wend"},"id":3},"total":12.50}',
    );
  });
});

describe('options', () => {
  it('go by their names in any letter case, each once, those of the standard apart', () => {
    const given = [
      ['$TOP', '1'],
      ['Filter', 'x'],
      ['$filter', 'y'],
      ['$compute', ''],
      ['fitler', ''],
    ] as const;
    const { options, problems } = readOptionNames(given, optionsOf.collection, 100);
    expect(options).toEqual({ top: '1', filter: 'x' });
    expect(problems.map(({ code, parameter }) => [code, parameter])).toEqual([
      ['repeated-parameter', '$filter'],
      ['not-implemented', '$compute'],
      ['unknown-parameter', 'fitler'],
    ]);
    const [refused] = readOptionNames([['$top', '1']], optionsOf.entity, 100).problems;
    expect(refused?.code).toBe('not-implemented');
  });

  it.each([
    [{ left: 7, after: 'WyItdG9s-_' }, '7.WyItdG9s-_'],
    [{ after: 'abc' }, '.abc'],
    [{ left: 0, skipped: 1_000 }, '0.~1000'],
    [{ skipped: 50 }, '.~50'],
  ])('lead to a page and back: %j is %s', (page, token) => {
    expect(printPageToken(page)).toBe(token);
    expect(request({ skiptoken: token }).page).toEqual(page);
  });

  it.each(['', '.', '7', '7.', 'x.abc', '7.~', '7.~x', '7.a b'])('lead nowhere by %j', (token) => {
    const { problems } = readQueryOptions({ skiptoken: token }, entity('passages'), tables);
    expect(problems).toMatchObject([{ code: 'malformed-cursor', parameter: '$skiptoken' }]);
  });

  it.each([
    ['heron gate', ['heron', 'gate']],
    ['heron AND "upper gate"', ['heron', 'upper gate']],
    ['"say \\"no\\"" and', ['say "no"', 'and']],
  ])('search for %s', (search, terms) => {
    expect(request({ search }).query.search).toEqual(terms);
  });

  it.each([
    ['heron OR gate', 'not-implemented', 6],
    ['NOT heron', 'not-implemented', 0],
    ['(heron)', 'not-implemented', 0],
    ['heron "upper', 'unclosed-quote', 6],
  ])('do not search for %s', (search, code, position) => {
    const { problems } = readQueryOptions({ search }, entity('passages'), tables);
    expect(problems).toMatchObject([{ code, parameter: '$search', position }]);
  });

  it.each<[Options, string]>([
    [{ orderby: 'toll add 1' }, 'not-implemented'],
    [{ orderby: 'length(odd_x0020_name)' }, 'not-implemented'],
    [{ orderby: 'lock' }, 'not-implemented'],
    [{ orderby: 'lock/passages/id' }, 'not-implemented'],
    [{ orderby: 'toll,' }, 'unexpected-end'],
    [{ orderby: 'toll desc asc' }, 'not-implemented'],
    [{ count: 'yes' }, 'not-one-of'],
    [{ top: '-1' }, 'not-a-whole-number'],
    [{ skip: '9007199254740993' }, 'not-a-whole-number'],
  ])('are refused: %j', (options, code) => {
    expect(readQueryOptions(options, entity('passages'), tables).problems).toMatchObject([
      { code },
    ]);
  });
});

describe('the model as JSON', () => {
  it('reports types, keys and the ways that there are', () => {
    const entities = ['passages', 'locks', 'canals'].map(entity);
    const model = csdlJson(entities, tables) as any;
    const { passages, locks, canals, Tables: sets } = model.Ephoros;
    expect(model.$EntityContainer).toBe('Ephoros.Tables');
    expect(passages).toMatchObject({
      $Kind: 'EntityType',
      $Key: ['id'],
      id: { $Type: 'Edm.Int32' },
      toll: { $Type: 'Edm.Decimal', $Nullable: true, $Precision: 8, $Scale: 2 },
      odd_x0020_name: { $Nullable: true, $MaxLength: 9 },
      marks: { $Collection: true, $Nullable: true },
      lock: { $Kind: 'NavigationProperty', $Type: 'Ephoros.locks', $Nullable: true },
    });
    // To a table without a key there is no way; and a column keeps its name.
    expect(passages.bare).toBeUndefined();
    expect(locks.passages).toMatchObject({ $Collection: true, $Type: 'Ephoros.passages' });
    expect(canals.locks).toMatchObject({ $Type: 'Edm.Int32' });
    expect(sets.locks.$NavigationPropertyBinding).toEqual({
      canal: 'canals',
      passages: 'passages',
    });
  });

  it.each([
    [{ kind: 'numeric' }, { name: 'Edm.Decimal', scale: 'variable' }],
    [
      { kind: 'numeric', precision: 3, scale: -2 },
      { precision: 5, scale: 0 },
    ],
    [
      { kind: 'numeric', precision: 2, scale: 4 },
      { precision: 4, scale: 4 },
    ],
    [{ kind: 'time', zone: true }, { name: 'Edm.String' }],
    [
      { kind: 'array', element: { kind: 'uuid' } },
      { name: 'Edm.Guid', isCollection: true },
    ],
  ] as const)('tells of %j what it may be', (type, facets) => {
    expect(edmTypeOf(type)).toMatchObject(facets);
  });
});
