import fc from 'fast-check';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { overLowmere } from '../testing/lowmere.ts';
import { rowsPath, startService } from '../testing/service.ts';

const lowmere = overLowmere();

async function counted(table: string, filter: string): Promise<number> {
  const { status, body } = await lowmere.service.get(rowsPath(table, { filter, limit: '1' }));
  expect([status, body.errors]).toEqual([200, undefined]);
  return body.window.total;
}

async function expected(statement: string): Promise<number> {
  const { rows } = await lowmere.client.query<{ n: number }>(statement);
  return rows[0]?.n ?? -1;
}

describe('the filter language means what PostgreSQL computes', () => {
  it.each([
    [
      'year(passed_at) = 2020 AND month(passed_at) = 7',
      "date_trunc('month', passed_at) = '2020-07-01Z'",
    ],
    [
      'weekday(passed_at) = 7 AND hour(passed_at) < 9',
      'extract(isodow from passed_at) = 7 and extract(hour from passed_at) < 9',
    ],
    ['quarter(passed_at) = 3 AND week(passed_at) = 30', 'extract(week from passed_at) = 30'],
    ['toll * 2 + wait_minutes > 300', 'toll * 2 + wait_minutes > 300'],
    ['wait_minutes / 0 = 1 OR wait_minutes % 7 = 3', 'wait_minutes % 7 = 3'],
    ['wait_minutes DIV 10 = 4', 'wait_minutes between 40 and 49'],
    ['-wait_minutes < -60', 'wait_minutes > 60'],
    ['draught_m ^ 2 > 4', 'draught_m > 2'],
    // As answers write them.
    ["toll = '4.00' OR id = '17'", 'toll = 4 or id = 17'],
    [
      "passed_at > '2024-02-29T10:15:00Z' AND passed_at < '2024-03-15'",
      "passed_at > '2024-02-29 10:15Z' and passed_at < '2024-03-15Z'",
    ],
    ['round(toll) = 100', 'toll >= 99.5 and toll < 100.5'],
    ['abs(wait_minutes - 30) < 2', 'wait_minutes in (29, 30, 31)'],
    ["starts(note, 'Toll') OR ends(note, 'sank')", "note like 'Toll%' or note like '%sank'"],
    ["contains(CASEI(note), CASEI('10% GRANTED'))", "note ilike '%10\\% granted%'"],
    [
      "ACCENTI(CASEI(note)) LIKE ACCENTI(CASEI('%senal%'))",
      "note like 'Señal%' or note like '%Señal%'",
    ],
    ['length(note) > 500 AND lower(note) <> upper(note)', 'length(note) > 500'],
    [
      "T_DURING(passed_at, INTERVAL('2020-01-01', '2020-02-01'))",
      "passed_at > '2020-01-01Z' and passed_at < '2020-02-01Z'",
    ],
    ["T_AFTER(passed_at, DATE('2024-01-01'))", "passed_at > '2024-01-01Z'"],
    [
      "T_INTERSECTS(passed_at, INTERVAL('..', '2017-01-01T00:00:00Z'))",
      "passed_at <= '2017-01-01Z'",
    ],
    [
      "passed_at > ago('P3000D') AND passed_at < now()",
      "passed_at > now() - interval '3000 days' and passed_at < now()",
    ],
    [
      "lock.canal.name = 'Wend Cut'",
      "lock_id in (select l.id from locks l join canals c on c.id = l.canal_id where c.name = 'Wend Cut')",
    ],
    ['keeper.name IS NULL', 'keeper_id is null'],
    [
      "boat.owner.town = 'Ostle' AND boat.hull = 'narrow'",
      "boat_id in (select b.id from boats b join owners o on o.id = b.owner_id where o.town = 'Ostle' and b.hull = 'narrow')",
    ],
  ])('%s', async (filter, sql) => {
    const wanted = await expected(`select count(*)::int as n from passages where ${sql}`);
    expect(wanted).toBeGreaterThan(0);
    expect(await counted('passages', filter)).toBe(wanted);
  });

  it.each([
    ['boats', "A_CONTAINS(crew, ('Ada'))", "crew @> '{Ada}'"],
    ['boats', "A_OVERLAPS(crew, ('Ada', 'Zoë')) AND NOT A_EQUALS(crew, ())", "crew && '{Ada,Zoë}'"],
    ['boats', "A_CONTAINEDBY(crew, ('Ada', 'Bram', 'Rosa'))", "crew <@ '{Ada,Bram,Rosa}'"],
    [
      'boats',
      'HAS(passages, toll > 183)',
      'exists (select 1 from passages p where p.boat_id = boats.id and toll > 183)',
    ],
    ['boats', 'NOT HAS(passages)', 'id not in (select boat_id from passages)'],
    [
      'boats',
      'COUNT(passages, toll > 100) > 20',
      '(select count(*) from passages p where p.boat_id = boats.id and toll > 100) > 20',
    ],
    [
      'canals',
      "HAS(locks, HAS(passages, boat.hull = 'tug' AND status = 'disputed'))",
      "id in (select l.canal_id from locks l join passages p on p.lock_id = l.id join boats b on b.id = p.boat_id where b.hull = 'tug' and p.status = 'disputed')",
    ],
    [
      'owners',
      'COUNT(boats, HAS(passages, lock.canal.tidal)) = 2',
      '(select count(*) from boats b where b.owner_id = owners.id and exists (select from passages p join locks l on l.id = p.lock_id join canals c on c.id = l.canal_id where p.boat_id = b.id and c.tidal)) = 2',
    ],
  ])('%s where %s', async (table, filter, sql) => {
    const wanted = await expected(`select count(*)::int as n from ${table} where ${sql}`);
    expect(await counted(table, filter)).toBe(wanted);
  });

  it('shows and sorts by related columns, keeping rows without a parent, each key joined once', async () => {
    const parameters = {
      columns: 'id,keeper.name,lock.canal.name',
      sort: '-keeper.name,lock.canal.name',
      filter: 'lock.canal.tidal AND keeper.retired IS NULL',
      limit: '200',
    };
    const { status, body } = await lowmere.service.get(rowsPath('passages', parameters));
    expect(status).toBe(200);
    const { rows } = await lowmere.client.query({
      text: `select p.id::text, k.name, c.name from passages p left join keepers k on k.id = p.keeper_id
             join locks l on l.id = p.lock_id join canals c on c.id = l.canal_id
             where c.tidal and p.keeper_id is null order by k.name desc nulls last, c.name, p.id limit 200`,
      rowMode: 'array',
    });
    expect(body.rows.map((row: object) => Object.values(row))).toEqual(rows);
    expect(body.columns).toEqual(['id', 'keeper.name', 'lock.canal.name']);
    expect(rows.length).toBeGreaterThan(10);
  });

  it.each([
    ["lock.canl.name = 'x'", 'unknown-column', 'lock.canl.name'],
    ["lock.canal.nam = 'x'", 'unknown-column', 'lock.canal.nam'],
    ['HAS(pasages)', 'unknown-relationship', 'pasages'],
    ['HAS(passages, tol > 1)', 'unknown-column', 'tol'],
    ['HAS(3)', 'type-mismatch', '3'],
    ["COUNT(passages) = 'x'", 'type-mismatch', "'x'"],
    ['year(toll) = 1', 'type-mismatch', 'toll'],
    ['note + 1 = 2', 'type-mismatch', 'note'],
    ["ago('7 days') < now()", 'invalid-value', "'7 days'"],
    ['T_AFTER(passed_at, 3)', 'type-mismatch', '3'],
    ['round(toll, 99) = 1', 'invalid-value', '99'],
    ["A_CONTAINS(note, ('x'))", 'type-mismatch', 'note'],
    ['HAS(passages) = TRUE', 'not-a-value', 'HAS(passages)'],
  ])('refuses %s as %s', async (filter, code, at) => {
    const table =
      filter.includes('asages') || filter.includes('assages') || filter.includes('HAS(3')
        ? 'locks'
        : 'passages';
    const { body } = await lowmere.service.get(rowsPath(table, { filter }));
    const problem = body.errors[0];
    expect([
      problem.code,
      filter.slice(problem.position, problem.position + problem.length),
    ]).toEqual([code, at]);
  });

  it('suggests along the path, and describes the relationships', async () => {
    const { body } = await lowmere.service.get(
      rowsPath('passages', { filter: "lock.canal.nam = 'x'" }),
    );
    expect(body.errors[0].hint).toBe('Did you mean lock.canal.name?');
    const { body: description } = await lowmere.service.get('/api/tables/locks');
    expect(description.relationships).toEqual([
      { name: 'canal', kind: 'one', table: 'canals', columns: ['canal_id'], references: ['id'] },
      { name: 'keepers', kind: 'many', table: 'keepers', columns: ['id'], references: ['lock_id'] },
      {
        name: 'passages',
        kind: 'many',
        table: 'passages',
        columns: ['id'],
        references: ['lock_id'],
      },
    ]);
  });
});

describe('limits', () => {
  it('are set by the configuration and reported where they are reached', async () => {
    const strict = await startService(
      testDatabases().lowmere,
      'limits: { characters: 100, depth: 2, members: 3 }',
    );
    try {
      for (const [filter, message] of [
        ['x'.repeat(101), 'This parameter is longer than 100 characters.'],
        ['(((id = 1)))', 'The filter is nested more than 2 levels deep.'],
        ['id IN (1, 2, 3, 4)', 'A list has at most 3 members.'],
      ] as const) {
        const { body } = await strict.get(rowsPath('passages', { filter }));
        expect(body.errors[0].message).toBe(message);
      }
    } finally {
      await strict.close();
    }
  });
});

describe('any query', () => {
  it('is answered or refused, never a failure of the service', async () => {
    const text = fc.oneof(
      fc.string({ unit: 'binary' }),
      fc
        .array(
          fc.constantFrom(
            ...`toll note id = > 'x' 3 AND OR NOT ( ) LIKE '%' NULL year( lock.name passed_at DATE('2024-01-01') / 0 ^ 999999 * 1e300`.split(
              ' ',
            ),
          ),
          { maxLength: 12 },
        )
        .map((all) => all.join(' ')),
      fc.constantFrom(
        'id',
        '-toll',
        '1',
        'none',
        'lock.canal.name',
        'toll ^ 99999 > 1',
        'speed',
        'round(toll, 9) = 1 / 3',
      ),
    );
    const names = [
      'columns',
      'filter',
      'search',
      'sort',
      'nulls',
      'limit',
      'page',
      'offset',
      'after',
      'before',
      'total',
      'shape',
      'explain',
      'filter-lang',
      'other',
    ];
    await fc.assert(
      fc.asyncProperty(
        fc.dictionary(fc.constantFrom(...names), text, { maxKeys: 4 }),
        async (parameters) => {
          const { status } = await lowmere.service.get(rowsPath('passages', parameters));
          expect(status).toBeLessThan(500);
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe('a question in a body', () => {
  const request = async (
    body: string,
    path = '/api/tables/passages/query',
  ): Promise<{ status: number; body: any }> => {
    const response = await fetch(lowmere.service.url + path, { method: 'POST', body });
    return { status: response.status, body: await response.json() };
  };

  it('is the same as in the URL, in text or as CQL2 JSON', async () => {
    const url = await lowmere.service.get(
      rowsPath('passages', {
        filter: 'toll > 180',
        sort: '-toll,id',
        limit: '3',
        columns: 'id,toll',
      }),
    );
    const rest = { sort: ['-toll', 'id'], limit: 3, columns: ['id', 'toll'] };
    const json = { op: '>', args: [{ property: 'toll' }, 180] };
    for (const filter of ['toll > 180', json]) {
      const { body } = await request(JSON.stringify({ ...rest, filter }));
      // A count that was made for the first of them may be reported to the others, with its time.
      const { countedAt: _countedAt, ...window } = body.window;
      expect({ ...body, window }).toEqual(url.body);
    }
    const spelled = await lowmere.service.get(
      rowsPath('passages', {
        'filter-lang': 'cql2-json',
        filter: JSON.stringify(json),
        limit: '1',
      }),
    );
    expect(spelled.body.window.total).toBe(url.body.window.total);
  });

  it('may be longer than a URL', async () => {
    const filter = `id IN (${Array.from({ length: 9000 }, (_, n) => n + 1).join(', ')})`;
    expect((await request(JSON.stringify({ filter, limit: 1 }))).body.window.total).toBe(9000);
  });

  it.each([
    ['{', 400, 'malformed-body'],
    ['[]', 400, 'malformed-body'],
    ['{"limt": 3}', 400, 'unknown-parameter'],
    ['{"limit": "x"}', 400, 'not-a-whole-number'],
    ['{"limit": {}}', 400, 'malformed-body'],
    ['{"filter": {"op": "=", "args": [{"property": "tol"}, 1]}}', 400, 'unknown-column'],
    [`{"filter": "${'x'.repeat(300_000)}"}`, 413, 'parameter-too-long'],
  ])('is refused: %.60s answers %i %s', async (body, status, code) => {
    const answer = await request(body);
    expect([answer.status, answer.body.errors[0].code]).toEqual([status, code]);
  });

  it('is refused where it is too large', async () => {
    const answer = await request(`{"filter": "${'x'.repeat(2_000_000)}"}`);
    expect([answer.status, answer.body.type]).toEqual([413, 'urn:ephoros:problem:too-large']);
  });
});
