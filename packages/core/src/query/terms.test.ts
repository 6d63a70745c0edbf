import { parseParameters, printParameters, groupsPart, rowsPart } from './index.ts';

const printed = (parameters: Record<string, string>): Record<string, string> =>
  Object.fromEntries(printParameters(parseParameters(parameters).query));

describe('groups, paths and aggregates as parameters', () => {
  it.each([
    [{ group: 'status' }, { group: 'status' }],
    [
      { group: " lock.canal.name , MONTH( passed_at,'Europe/Paris') " },
      { group: "lock.canal.name,month(passed_at, 'Europe/Paris')" },
    ],
    [{ group: 'bin(toll,50),"odd name"' }, { group: 'bin(toll, 50),"odd name"' }],
    [{ aggregate: 'COUNT(),Sum(toll * 2)' }, { aggregate: 'count(),sum(toll * 2)' }],
    [{ path: ' [ "a,b" , null,1.50, true ] ' }, { path: '["a,b",null,1.50,true]' }],
    [{ path: '[]' }, { path: '[]' }],
    [{ group: '', path: '', aggregate: ' ' }, {}],
    [
      { sort: '-Sum( toll ),percentile(toll,90),-passed_at' },
      { sort: '-sum(toll),percentile(toll, 90),-passed_at' },
    ],
    [{ sort: "-bin(day,'P1M'),note" }, { sort: "-bin(day, 'P1M'),note" }],
  ])('%j are read and written', (given, expected) => {
    const { problems } = parseParameters(given);
    expect(problems).toEqual([]);
    expect(printed(given)).toEqual(expected);
    expect(printed(expected)).toEqual(expected);
  });

  it.each([
    [{ group: 'status,,toll' }, 'group', 7],
    [{ group: 'bin(toll' }, 'group', 8],
    [{ aggregate: 'sum(toll) avg(toll)' }, 'aggregate', 10],
    [{ path: '["a"' }, 'path', 4],
    [{ path: '"a"' }, 'path', 0],
    [{ path: '[["a"]]' }, 'path', 1],
    [{ sort: 'toll,,sum(toll)' }, 'sort', 5],
  ])('%j have a problem at its place', (given, parameter, position) => {
    const { problems } = parseParameters(given);
    expect(problems).toMatchObject([{ parameter, position }]);
  });

  it('split a query into the part for the groups and the part for the rows', () => {
    const { query } = parseParameters({
      filter: 'toll > 1',
      group: 'status,day',
      aggregate: 'sum(toll)',
      sort: '-sum(toll),day,-passed_at',
      columns: 'id',
      limit: '5',
    });
    const text = (part: typeof query): Record<string, string> =>
      Object.fromEntries(printParameters(part));
    expect(text(rowsPart(query))).toEqual({
      columns: 'id',
      filter: 'toll > 1',
      sort: '-passed_at',
      limit: '5',
    });
    expect(text(groupsPart(query))).toEqual({
      filter: 'toll > 1',
      group: 'status,day',
      aggregate: 'sum(toll)',
      sort: '-sum(toll),day',
    });
  });
});
