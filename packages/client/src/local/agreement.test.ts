import fc from 'fast-check';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { startService, type TestService } from '../../../service/src/testing/service.ts';
import { parseParameters } from '@ephoros/core/query';
import { until } from '../../../core/src/testing/until.ts';
import {
  createClient,
  outlineSource,
  ServiceError,
  type Client,
  type Row,
  type Value,
  type WrittenQuery,
} from '../index.ts';
import { createLocalClient, cacheSmallResults } from './index.ts';

const pick = (texts: readonly string[]): fc.Arbitrary<string> => fc.constantFrom(...texts);

const requests = fc.record(
  {
    filter: pick([
      'rise_m > 2.5',
      "name LIKE 'S%' OR canal_id = 2",
      "CASEI(name) LIKE CASEI('%lock%')",
      'automatic AND rise_m <> 3.47',
      'position_km < 20 AND canal_id IN (1, 2, 3)',
      'nonsense > 1',
      "name = 'x",
    ]),
    search: pick(['lock', 'upper lock', '"r l"', 'zzz']),
    sort: pick(['name', '-canal_id,name', 'automatic', '-position_km', 'nonsense']),
    nulls: pick(['first', 'last']),
    limit: pick(['1', '7', '100', '0', 'x']),
    offset: pick(['0', '3', '40', '500']),
    columns: pick(['id,name', 'name,canal_id,id']),
  },
  { requiredKeys: [] },
);

const groupings = fc.record(
  {
    group: pick(['canal_id', 'initial(name)', 'automatic,canal_id', 'bin(position_km, 5)', 'name']),
    filter: pick(['position_km > 9', "name LIKE '%e%'"]),
    aggregate: pick([
      'count(),avg(position_km)',
      'min(name),distinct(canal_id)',
      'median(position_km)',
    ]),
    sort: pick(['-count()', 'canal_id']),
    limit: pick(['2', '50']),
  },
  { requiredKeys: ['group'] },
);

/** What an answer says, without how it was come by; of a refusal its problems. */
async function textOf(pending: Promise<object>): Promise<unknown> {
  try {
    const text = JSON.stringify(await pending, (name, value: unknown) =>
      ['links', 'kept', 'countedAt', 'asOf'].includes(name) ? undefined : value,
    );
    return JSON.parse(text);
  } catch (thrown) {
    if (thrown instanceof ServiceError) return { refused: thrown.problems };
    throw thrown;
  }
}

/** A query as its parameters say it, errors and all. */
function queryOf(parameters: Partial<Record<string, string>>): WrittenQuery | undefined {
  const { query, problems } = parseParameters({
    ...parameters,
    filter: undefined as unknown as string,
  });
  if (problems.length > 0) return undefined;
  return parameters.filter === undefined ? query : { ...query, filter: parameters.filter };
}

/** The lines of an outline with all its groups open, each row with the values of those around it. */
async function unfolded(
  client: Client,
  table: string,
  query: WrittenQuery,
): Promise<{ readonly in: Value[]; readonly row?: Row; readonly count?: number }[]> {
  const outline = outlineSource({
    fetchGroups: (wanted, signal) => client.groups(table, wanted, signal),
    fetchRows: (given, signal) => client.rows(table, given, signal),
    query,
    settle: 0,
  });
  try {
    const read = async (): Promise<number> => {
      outline.setVisibleRows(0, 10_000);
      const state = await until(
        () => Promise.resolve(outline.state()),
        ({ status }) => status === 'ready' || status === 'failed',
      );
      expect(state.error).toBeUndefined();
      return state.total ?? 0;
    };
    await read();
    for (let level = 0; level < (query.group?.length ?? 0); level += 1) await outline.openLevel();
    const around: Value[] = [];
    return Array.from({ length: await read() }, (_, position) => {
      const line = outline.row(position);
      if (line?.kind === 'row') return { row: line.row, in: [...around] };
      if (line?.kind !== 'group') throw new Error(`a line is ${line?.kind ?? 'not there'}`);
      around.splice(line.depth, around.length, line.line.value);
      return { in: [...around], count: line.line.count };
    });
  } finally {
    outline.close();
  }
}

describe('rows at hand', () => {
  let service: TestService;
  let remote: Client;

  /** A client whose requests are counted, and that says when none is under way any more. */
  function watched(onRequest: () => void): { client: Client; settled: () => Promise<void> } {
    let underWay = 0;
    const client = createClient({
      url: `${service.url}/api`,
      fetch: async (...request) => {
        onRequest();
        underWay += 1;
        try {
          const response = await fetch(...request);
          const text = await response.text();
          return new Response(text, response);
        } finally {
          underWay -= 1;
        }
      },
    });
    const settled = async (): Promise<void> => {
      // Between two requests of one piece of work nothing but promises passes.
      for (let quiet = 0; quiet < 5; quiet += 1) {
        await new Promise((resolve) => setTimeout(resolve, 1));
        if (underWay > 0) quiet = 0;
      }
    };
    return { client, settled };
  }

  /** The locks of the service as a client of their own. */
  async function atHand(): Promise<Client> {
    const { columns, key } = await remote.describe('locks');
    const { rows } = await remote.rows('locks', { limit: 1000 });
    const types = Object.fromEntries(
      columns.map(({ name, type, format }) => [name, { type, ...(format && { format }) }]),
    );
    return createLocalClient({ locks: { rows, key, columns: types } });
  }

  beforeAll(async () => {
    service = await startService(testDatabases().lowmere, 'tables: { locks: { search: [name] } }');
    remote = createClient({ url: `${service.url}/api` });
  });

  afterAll(() => service.close());

  it('answer and refuse as the service does about the same rows', async () => {
    const local = await atHand();
    const both = async (send: (client: Client) => Promise<object>): Promise<void> => {
      expect(await textOf(send(local))).toEqual(await textOf(send(remote)));
    };
    await fc.assert(
      fc.asyncProperty(requests, groupings, async (rowsAsked, groupsAsked) => {
        const [query, grouping] = [queryOf(rowsAsked), queryOf(groupsAsked)];
        if (query !== undefined) {
          await both((client) => client.rows('locks', query));
          await both((client) => client.values('locks', 'canal_id', query, { bins: 4 }));
          const { next } = await remote.rows('locks', query).catch(() => ({ next: null }));
          if (next !== null) {
            const place = { kind: 'after', token: next } as const;
            await both((client) => client.rows('locks', { ...query, place }));
          }
        }
        if (grouping !== undefined) {
          await both((client) => client.groups('locks', grouping));
          const { group: _group, sort: _sort, ...whole } = grouping;
          await both((client) => client.aggregates('locks', whole));
        }
      }),
      { numRuns: Number(process.env.RUNS ?? 40) },
    );
    await both((client) => client.row('locks', [3]));
  });

  it('stand in an outline under the groups that they are of, filtered and searched', async () => {
    const query = queryOf({
      columns: 'id,name,canal_id',
      group: 'canal_id,initial(name)',
      filter: 'position_km > 9',
      search: 'lock',
      sort: 'canal_id,id',
    });
    if (query === undefined) throw new Error('the query is a sound one');
    const local = await atHand();
    const { group: _group, ...flat } = query;
    const theirs = await remote.rows('locks', { ...flat, limit: 1000 });
    expect(theirs.rows.length).toBeGreaterThan(5);
    for (const client of [remote, local]) {
      const lines = await unfolded(client, 'locks', query);
      const found = lines.flatMap(({ row, in: groups }) =>
        row === undefined ? [] : [{ row, in: groups }],
      );
      const byId = (one: Row, other: Row): number => Number(one.id) - Number(other.id);
      expect(found.map(({ row }) => row).sort(byId)).toEqual([...theirs.rows].sort(byId));
      for (const { row, in: groups } of found) {
        const name = typeof row.name === 'string' ? row.name : '';
        expect(groups).toEqual([row.canal_id, name.charAt(0).toUpperCase()]);
      }
    }
  });

  it('stand in an outline as the service has it', async () => {
    const local = await atHand();
    const narrowed = fc.record({ search: pick(['lock', 'r']) }, { requiredKeys: [] });
    await fc.assert(
      fc.asyncProperty(groupings, narrowed, async ({ limit: _limit, ...grouping }, more) => {
        const query = queryOf({ columns: 'id,name', ...grouping, ...more });
        if (query === undefined) return;
        if (JSON.stringify(await textOf(remote.groups('locks', query))).includes('refused')) return;
        expect(await unfolded(local, 'locks', query)).toEqual(
          await unfolded(remote, 'locks', query),
        );
      }),
      { numRuns: Number(process.env.RUNS ?? 15) },
    );
  });

  it('are stored of small results, and answer what narrows them as the service does', async () => {
    let startedAt = 0;
    const { client: counting, settled } = watched(() => (startedAt += 1));
    const keeping = cacheSmallResults(counting, { maxRows: 500 });
    expect(keeping.cached('locks')).toEqual({ where: 'service', maxRows: 500 });
    const named = queryOf({ columns: 'id,name,canal.name' });
    await keeping.rows('locks', named);
    await settled();
    expect(keeping.cached('locks')).toMatchObject({ where: 'memory', maxRows: 500 });
    const before = startedAt;
    let refused = 0;
    await fc.assert(
      fc.asyncProperty(requests, groupings, async (rowsAsked, groupsAsked) => {
        for (const [parameters, fetchAnswer] of [
          [rowsAsked, (client: Client, query: WrittenQuery) => client.rows('locks', query)],
          [
            { ...rowsAsked, columns: 'canal.name,id', sort: '-canal.name' },
            (client: Client, query: WrittenQuery) => client.rows('locks', query),
          ],
          [groupsAsked, (client: Client, query: WrittenQuery) => client.groups('locks', query)],
        ] as const) {
          const query = queryOf(parameters);
          if (query === undefined) continue;
          const theirs = await textOf(fetchAnswer(remote, query));
          expect(await textOf(fetchAnswer(keeping, query))).toEqual(theirs);
          if ('refused' in (theirs as object)) refused += 1;
        }
      }),
      { numRuns: 30 },
    );
    // Nothing was requested of the service but its own words of refusal.
    expect(startedAt - before).toBe(refused);

    const place = queryOf({ filter: "lock.canal.name = 'Wend Cut'", columns: 'id,status' });
    await keeping.rows('passages', place);
    await settled();
    expect(keeping.cached('passages', place).where).toBe('service');

    keeping.setMaxRows(10);
    expect(keeping.cached('locks').where).toBe('service');
  });

  it('are not fetched again and again where they turn out to be larger', async () => {
    let requested = 0;
    const { client: observed, settled } = watched(() => undefined);
    const lying = {
      ...observed,
      rows: async (...request: Parameters<Client['rows']>) => {
        requested += 1;
        const answer = await observed.rows(...request);
        // As a planner does that has read too little of the table.
        const window = { ...answer.window, total: 5, totalKind: 'estimate' as const };
        return { ...answer, window };
      },
    };
    const keeping = cacheSmallResults(lying, { maxRows: 20 });
    for (let turn = 0; turn < 5; turn += 1) {
      await keeping.rows('locks', { limit: 5 });
      await settled();
    }
    // Once for each question, and once to see.
    expect(requested).toBe(6);
    expect(keeping.cached('locks').where).toBe('service');
  });

  it('are requested again after their time, and when they are forgotten', async () => {
    let now = 0;
    const { client: visible, settled } = watched(() => undefined);
    const keeping = cacheSmallResults(visible, { keepFor: 1_000, now: () => now });
    const keep = async (): Promise<void> => {
      await keeping.rows('canals');
      await settled();
    };
    await keep();
    expect((await keeping.rows('canals')).window.kept).toBe(true);
    now = 2_000;
    expect((await keeping.rows('canals')).window.kept).toBeUndefined();
    await keep();
    keeping.forget('canals');
    expect(keeping.cached('canals').where).toBe('service');
    // What is on its way when it is forgotten is not stored either.
    await keeping.rows('canals');
    keeping.forget();
    await settled();
    expect(keeping.cached('canals').where).toBe('service');
    await keep();
    expect(keeping.cached('canals').where).toBe('memory');
  });
});
