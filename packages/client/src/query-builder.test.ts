import {
  chosenQuery,
  createClient,
  date,
  keyOfRow,
  nothingChosen,
  type ChosenRows,
  type Client,
} from './index.ts';

interface Tables {
  passages: {
    row: { id: string; toll: string | null; status: 'open' | 'closed'; passed_on: string };
    related: { 'lock.name': string | null };
    literals: {
      id: number | bigint;
      toll: number | bigint;
      status: 'open' | 'closed';
      passed_on: never;
      'lock.name': string;
    };
  };
}

/** A client that records the addresses that it requests. */
function options(): { client: Client<Tables>; requests: URL[] } {
  const requests: URL[] = [];
  const client = createClient<Tables>({
    url: 'http://host/records',
    fetch: (address) => {
      requests.push(new URL(address as string));
      const answer = { columns: ['id', 'lock.name'], rows: [['7', 'Heron']], window: {} };
      return Promise.resolve(Response.json(answer));
    },
  });
  return { client, requests };
}

describe('a question that is put together', () => {
  it('takes null for what is missing', async () => {
    const { client, requests } = options();
    await client
      .table('passages')
      .where((is) =>
        is.any(
          is.equals('toll', null),
          is.differs('status', null),
          is.oneOf('status', ['open', null]),
          is.oneOf('toll', [null]),
          is.oneOf('toll', []),
        ),
      )
      .rows();
    expect(requests[0]?.searchParams.get('filter')).toBe(
      "toll IS NULL OR status IS NOT NULL OR (status IN ('open') OR status IS NULL) OR toll IS NULL OR FALSE",
    );
  });

  it('says in the URL what its steps stated', async () => {
    const { client, requests: given } = options();
    const { rows } = await client
      .table('passages')
      .columns('id', 'lock.name')
      .where((is) => is.above('toll', 100))
      .where((is) => is.any(is.equals('status', 'open'), is.missing('lock.name')))
      .search('heron "north lock"')
      .sort('-toll', 'lock.name')
      .nulls('first')
      .limit(20)
      .page(3)
      .total('none')
      .rows();
    // Typed by the columns that were named.
    const name: string | null = rows[0]?.['lock.name'] ?? null;
    expect(name).toBe('Heron');
    expect(given[0]?.pathname).toBe('/records/tables/passages/rows');
    expect(Object.fromEntries(given[0]?.searchParams ?? [])).toEqual({
      columns: 'id,lock.name',
      filter: "toll > 100 AND (status = 'open' OR lock.name IS NULL)",
      search: 'heron "north lock"',
      sort: '-toll,lock.name',
      nulls: 'first',
      limit: '20',
      page: '3',
      total: 'none',
      shape: 'arrays',
    });
  });

  it('asks for groups by functions, and sorts them by aggregates', async () => {
    const { client, requests: requested } = options();
    const grouped = client
      .table('passages')
      .where((is) => is.atLeast('passed_on', date('2024-02-29')))
      .group('lock.name', "bin(passed_on, 'P1M')")
      .aggregate('count()', 'sum(toll)', 'percentile(toll, 90)')
      .sort('-sum(toll)');
    await grouped.groups();
    expect(Object.fromEntries(requested[0]?.searchParams ?? [])).toEqual({
      filter: "passed_on >= DATE('2024-02-29')",
      group: "lock.name,bin(passed_on, 'P1M')",
      aggregate: 'count(),sum(toll),percentile(toll, 90)',
      sort: '-sum(toll)',
    });
  });

  it('asks for aggregates of some of the rows as they are written', () => {
    const path = options()
      .client.table('passages')
      .group('status')
      .aggregate(
        "count(status = 'open')",
        "sum(toll, lock.name LIKE 'H%, O%')",
        'percentile(toll, 90)',
      )
      .url();
    expect(new URL(path).searchParams.get('aggregate')).toBe(
      "count(status = 'open'),sum(toll, lock.name LIKE 'H%, O%'),percentile(toll, 90)",
    );
  });

  it('is answered in the types of what it names', async () => {
    const answers = [
      { aggregates: [], values: { 'count()': 3, 'sum(toll)': '12.00', 'max(status)': 'open' } },
      { groups: [{ value: 'Heron', count: 3, aggregates: { 'sum(toll)': null } }], window: {} },
      { values: [{ value: 'open', count: 2, filter: "status = 'open'" }], window: {} },
    ];
    const asked: URL[] = [];
    const client = createClient<Tables>({
      url: 'http://host/records',
      fetch: (address) => {
        asked.push(new URL(address as string));
        return Promise.resolve(Response.json(answers[asked.length - 1]));
      },
    });
    const passages = client.table('passages').where((is) => is.above('toll', 1));
    const { values } = await passages.aggregate('count()', 'sum(toll)', 'max(status)').aggregates();
    const made: [number, string | null, 'open' | 'closed' | null] = [
      values['count()'],
      values['sum(toll)'],
      values['max(status)'],
    ];
    expect(made).toEqual([3, '12.00', 'open']);
    const { groups } = await passages.group('lock.name').aggregate('sum(toll)').groups();
    const lines: [string | null, string | null][] = groups.map(({ value, aggregates }) => [
      value,
      aggregates['sum(toll)'],
    ]);
    expect(lines).toEqual([['Heron', null]]);
    // @ts-expect-error not requested
    expect(groups[0]?.aggregates['count()']).toBeUndefined();
    const status = await passages.values('status', { containing: 'o' });
    const held: readonly ('open' | 'closed')[] = status.values.map(({ value }) => value);
    expect(held).toEqual(['open']);
    expect(asked.map(({ pathname }) => pathname.split('/').slice(4).join('/'))).toEqual([
      'aggregates',
      'groups',
      'values/status',
    ]);
    expect(Object.fromEntries(asked[2]?.searchParams ?? [])).toEqual({
      filter: 'toll > 1',
      containing: 'o',
    });
  });

  it('asks for chosen rows, by their keys or as all that match except some', () => {
    const passages = options()
      .client.table('passages')
      .where((is) => is.above('toll', 1));
    const filterOf = (chosen: ChosenRows): string | null =>
      new URL(passages.matching(chosenQuery(chosen)).url()).searchParams.get('filter');
    expect(filterOf({ kind: 'keys', keys: ['17', "a'b,c"] })).toBe(
      "toll > 1 AND SELECTED('17', 'a''b,c')",
    );
    expect(filterOf({ kind: 'matching', filter: 'toll < 9', except: ['3'] })).toBe(
      "(toll > 1) AND ((toll < 9) AND (NOT SELECTED('3')))",
    );
    expect(filterOf({ kind: 'matching', except: [] })).toBe('toll > 1');
    expect(filterOf(nothingChosen)).toBe('toll > 1 AND SELECTED()');
    const all = { kind: 'matching', search: ['heron'], except: [] } as const;
    expect(new URL(passages.matching(chosenQuery(all)).url()).searchParams.get('search')).toBe(
      'heron',
    );
    expect(keyOfRow({ id: 'a/b', n: [1] }, ['id', 'n'])).toBe('a%2Fb,%5B1%5D');
    expect(keyOfRow({ id: null }, ['id'])).toBeUndefined();
  });

  it('joins conditions that are text with those that are not', () => {
    const begun = options().client.table('passages').filter('toll > 1 OR toll < 0');
    const both = begun.where((is) => is.equals('status', 'open'));
    expect(new URL(both.url()).searchParams.get('filter')).toBe(
      "(toll > 1 OR toll < 0) AND (status = 'open')",
    );
    // The question that it was begun from is what it was.
    expect(begun.query.filter).toBe('toll > 1 OR toll < 0');
  });

  it('does not compile with names and values that there are not', () => {
    const { client } = options();
    const passages = client.table('passages');
    // @ts-expect-error no such table
    client.table('passage');
    // @ts-expect-error no such column
    passages.columns('tol');
    // @ts-expect-error no such column
    passages.sort('-tol');
    // @ts-expect-error no such value
    passages.where((is) => is.equals('status', 'opened'));
    // @ts-expect-error a number is wanted
    passages.where((is) => is.above('toll', '100'));
    // @ts-expect-error no such column
    passages.aggregate('sum(tol)');
    // @ts-expect-error no such column
    passages.sort('-sum(tol)');
    // @ts-expect-error no such column
    passages.group('month(passed_om)');
    // @ts-expect-error no such column
    expect(() => passages.values('tol')).not.toThrow();
    expect(passages.table).toBe('passages');
  });
});
