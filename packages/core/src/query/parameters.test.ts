import fc from 'fast-check';
import { expressions, withoutPlaces } from '../testing/expressions.ts';
import { parseParameters, printParameters, unknownParameter, type Query } from './index.ts';

const span = { start: 0, end: 0 };
const names = fc
  .uniqueArray(fc.constantFrom('id', 'toll', 'lock.name', 'Étang', 'odd name'), { minLength: 1 })
  .map((all) => all.map((name) => ({ name, span })));

const queries: fc.Arbitrary<Query> = fc.record(
  {
    columns: names,
    filter: expressions,
    sort: names.map((all) => all.map((column, index) => ({ column, descending: index % 2 === 0 }))),
    search: fc.array(
      fc.constantFrom('heron', 'north lock', '50%', 'a"b', 'Étang', '"', 'x y "z"'),
      { minLength: 1, maxLength: 4 },
    ),
    nulls: fc.constantFrom('first', 'last'),
    limit: fc.integer({ min: 1, max: 1_000_000 }),
    place: fc.oneof(
      fc.record({ kind: fc.constant('page' as const), page: fc.integer({ min: 1 }) }),
      fc.record({ kind: fc.constant('offset' as const), offset: fc.nat() }),
    ),
    total: fc.constantFrom('exact', 'estimate', 'none'),
    shape: fc.constantFrom('objects', 'arrays'),
  },
  { requiredKeys: [] },
);

describe('the URL parameters of a query', () => {
  it('come back as the same query after printing and reading', () => {
    fc.assert(
      fc.property(queries, (query) => {
        const { query: again, problems } = parseParameters(
          Object.fromEntries(printParameters(query)),
        );
        expect(problems).toEqual([]);
        expect(withoutPlaces(again)).toEqual(withoutPlaces(query));
      }),
      { numRuns: 1000 },
    );
  });

  it('leave out what is at its default', () => {
    expect(printParameters({})).toEqual([]);
    expect(parseParameters({ filter: '  ' }).query).toEqual({});
  });

  it.each([
    [{ limit: '0' }, 'not-a-whole-number'],
    [{ limit: '-1' }, 'not-a-whole-number'],
    [{ limit: '1e3' }, 'not-a-whole-number'],
    [{ offset: '99999999999999999999' }, 'not-a-whole-number'],
    [{ page: '' }, 'not-a-whole-number'],
    [{ nulls: 'frist' }, 'not-one-of'],
    [{ columns: 'id,,toll' }, 'empty-list-item'],
    [{ columns: '' }, 'empty-list-item'],
    [{ sort: '-' }, 'empty-list-item'],
    [{ filter: "note = '\0'" }, 'forbidden-character'],
    [{ filter: "note = '\uD800'" }, 'forbidden-character'],
  ])('refuse %j as %s', (parameters, code) => {
    expect(parseParameters(parameters).problems).toMatchObject([{ code }]);
  });

  it('place names without the blanks around them', () => {
    const { query } = parseParameters({ sort: ' toll , -id' });
    expect(query.sort).toEqual([
      { column: { name: 'toll', span: { start: 1, end: 5 } }, descending: false },
      { column: { name: 'id', span: { start: 9, end: 11 } }, descending: true },
    ]);
  });

  it('suggest the name that was meant', () => {
    expect(unknownParameter('fliter', ['filter', 'sort']).hint).toBe('Did you mean filter?');
    expect(unknownParameter('xyz', ['filter', 'sort']).hint).toBe(
      'Known parameters: filter, sort.',
    );
  });
});
