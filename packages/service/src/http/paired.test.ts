import fc from 'fast-check';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { idOf } from './running-query.ts';
import { Records, Tokens } from '../records/index.ts';
import { startService, type TestService } from '../testing/service.ts';

/*
 * Two databases that differ in what is hidden from a caller alone: the same questions, over every door, have the same
 * answers but for time. A door that is not in the list fails the test.
 */

/** Questions of each caller; `EPHOROS_QUESTIONS` asks others. */
const requests = Number(process.env.EPHOROS_QUESTIONS ?? 500);

jest.setTimeout(120_000 + requests * 200);

const tables = [
  'CREATE TABLE quays (id int PRIMARY KEY, name text NOT NULL UNIQUE, keeper text)',
  `CREATE TABLE berths (id int PRIMARY KEY, quay int NOT NULL REFERENCES quays, name text NOT NULL,
     fee numeric(8,2), note text)`,
  'CREATE INDEX ON berths (fee)',
  'CREATE INDEX ON berths (quay)',
  'CREATE TABLE ledgers (id int PRIMARY KEY, berth int REFERENCES berths ON DELETE CASCADE, sum text)',
  "INSERT INTO quays VALUES (1, 'North', 'Ann'), (2, 'South', 'Bob')",
  `INSERT INTO berths SELECT i, 1 + i % 2, 'Berth ' || i, i, 'n' || i FROM generate_series(1, 60) i`,
];

interface Pair {
  /** The roles of the caller, in addition to that of everybody. */
  readonly roles: string;
  readonly names: readonly string[];
  /** What is hidden from the caller, in either database. */
  readonly hidden: readonly [readonly string[], readonly string[]];
}

const hiddenRows = (from: number, count: number, seed: string): readonly string[] => [
  `INSERT INTO quays VALUES (3, 'Secret ${seed}', '${seed}')`,
  `INSERT INTO berths SELECT i, 3, '${seed} ' || i, i * ${count}, '${seed}' FROM generate_series(${from}, ${from + count}) i`,
  `INSERT INTO ledgers SELECT i, i, '${seed}' FROM generate_series(${from}, ${from + count}) i`,
];
const changed = (factor: number, seed: string): readonly string[] => [
  `UPDATE berths SET fee = id * ${factor} + 0.5, note = '${seed} ' || (id * ${factor}) % 7`,
  `UPDATE quays SET keeper = '${seed}'`,
];

const pairs: Readonly<Record<string, Pair>> = {
  rows: {
    roles: `
  seen: { tables: { quays: { rows: "id <> 3" }, berths: { rows: "quay <> 3", changes: true } }, exports: true }`,
    names: ['seen'],
    hidden: [hiddenRows(100, 5, 'alpha'), hiddenRows(70, 40, 'beta')],
  },
  columns: {
    roles: `
  seen: { tables: { quays: { hidden: [keeper] }, berths: { hidden: [fee, note], changes: true } }, exports: true }`,
    names: ['seen'],
    hidden: [changed(3, 'alpha'), changed(-11, 'beta')],
  },
  cells: {
    roles: `
  plain: { tables: { quays: { columns: [id, name] }, berths: { columns: [id, quay, name] } } }
  own: { tables: { berths: { rows: "quay = 1", changes: true } }, exports: true }`,
    names: ['plain', 'own'],
    hidden: [
      [`UPDATE berths SET fee = id * 5, note = 'alpha' WHERE quay <> 1`],
      [`UPDATE berths SET fee = NULL, note = 'beta ' || id WHERE quay <> 1`],
    ],
  },
};

/** A random request to one door. */
interface Requested {
  readonly method: string;
  readonly path: string;
  readonly body?: unknown;
}

const text = (values: readonly string[]): fc.Arbitrary<string> => fc.constantFrom(...values);
const column = text(['id', 'quay', 'name', 'fee', 'note', 'quay.name', 'keeper', 'secret']);
const value = fc.oneof(
  fc.integer({ min: -20, max: 130 }).map(String),
  text(["'Berth 3'", "'alpha'", "'beta 7'", "'n4'", "'Secret alpha'", '33.50', 'NULL']),
);
const condition: fc.Arbitrary<string> = fc.letrec<{ condition: string }>((tie) => ({
  condition: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc
      .tuple(column, text(['=', '<>', '<', '>=']), value)
      .map(([name, sign, one]) => `${name} ${sign} ${one}`),
    fc.tuple(column, value, value).map(([name, one, other]) => `${name} IN (${one}, ${other})`),
    column.map((name) => `${name} IS NULL`),
    column.map((name) => `HAS(berths, ${name} > 5)`),
    fc.tuple(column, text(['a%', '%t%', '%et%'])).map(([name, like]) => `${name} LIKE '${like}'`),
    fc
      .tuple(tie('condition'), text(['AND', 'OR']), tie('condition'))
      .map(([one, join, other]) => `(${one}) ${join} (${other})`),
    tie('condition').map((one) => `NOT (${one})`),
  ),
})).condition;
const table = text(['berths', 'berths', 'berths', 'quays', 'ledgers', 'nothing']);
const aggregate = text([
  'count()',
  'max(fee)',
  'sum(id)',
  'count(note)',
  'distinct(name)',
  'min(keeper)',
]);
const key = fc.integer({ min: 1, max: 115 }).map(String);
const matching = fc.record(
  { filter: condition, search: text(['berth', 'alpha', 'beta', 'n4', 'secret']) },
  { requiredKeys: [] },
);
const placed = fc.record(
  {
    filter: condition,
    sort: fc.tuple(text(['', '-']), column).map((parts) => parts.join('')),
    limit: fc.integer({ min: 0, max: 60 }).map(String),
    offset: fc.integer({ min: 0, max: 70 }).map(String),
    search: text(['berth', 'alpha']),
    columns: fc.uniqueArray(column, { minLength: 1, maxLength: 3 }).map((names) => names.join()),
    nulls: text(['first', 'last']),
  },
  { requiredKeys: [] },
);

type Parameters = Readonly<Record<string, string | undefined>>;

/** A GET, or the same as a POST where there is one. */
function asks(
  rest: string,
  parameters: fc.Arbitrary<Parameters>,
  postedTo?: string,
): fc.Arbitrary<Requested> {
  return fc.tuple(table, parameters, fc.boolean()).map(([name, given, isPosted]) => {
    const path = `/api/tables/${name}/`;
    return postedTo !== undefined && isPosted
      ? { method: 'POST', path: path + postedTo, body: given }
      : { method: 'GET', path: `${path}${rest}?${String(new URLSearchParams(defined(given)))}` };
  });
}

function defined(given: Parameters): Record<string, string> {
  return Object.fromEntries(
    Object.entries(given).flatMap(([name, one]) => (one === undefined ? [] : [[name, one]])),
  );
}

const get = (path: string): fc.Arbitrary<Requested> => fc.constant({ method: 'GET', path });
const rows = placed.map((given): Parameters => ({ ...given, total: 'exact' }));
const groups = fc.tuple(matching, column, aggregate).map(([given, group, made]): Parameters => ({
  ...given,
  group,
  aggregate: made,
  total: 'exact',
}));
const change = fc.oneof(
  fc.tuple(key, column, value).map(([one, name, given]) => ({
    kind: 'change',
    key: [one],
    was: {},
    values: { [name]: given.replaceAll("'", '') },
  })),
  key.map((one) => ({ kind: 'remove', key: [one], was: {} })),
  fc.tuple(key, text(['1', '2', '3'])).map(([one, quay]) => ({
    kind: 'add',
    values: { id: Number(one) + 200, quay, name: `Berth ${one}` },
  })),
  fc.tuple(condition, value).map(([filter, given]) => ({
    kind: 'set',
    filter,
    values: { name: given },
  })),
);
const tried = fc.array(change, { minLength: 1, maxLength: 3 }).map((changes): Requested => ({
  method: 'POST',
  path: '/api/tables/berths/changes?dryRun=true',
  body: { changes },
}));
/** A query that may go on, by its place. */
const running = (method: string): fc.Arbitrary<Requested> =>
  asks('rows', placed).map(({ path }) => {
    const id = idOf({ method: 'GET', url: path.slice('/api'.length) });
    return { method, path: `/api/queries/${id ?? ''}` };
  });
const unknownId = text(['x', 'AAAAAAAAAAAAAAAAAAAAAA']);

/** Every door of the service, by what its documentation calls it; what is not in there by its path. */
const doors: Readonly<Record<string, fc.Arbitrary<Requested>>> = {
  'get /tables': get('/api/tables'),
  'get /caller': get('/api/caller'),
  'get /simulation': get('/api/simulation'),
  'get /tables/{table}': table.map((name) => ({ method: 'GET', path: `/api/tables/${name}` })),
  'get /tables/{table}/live': table.map((name) => ({
    method: 'GET',
    path: `/api/tables/${name}/live`,
  })),
  'get /tables/{table}/rows': asks('rows', rows),
  'get /tables/{table}/mileposts': asks(
    'mileposts',
    placed.map(({ sort, filter }): Parameters => ({ sort, filter, ticks: '7' })),
  ),
  'post /tables/{table}/query': asks('rows', rows, 'query'),
  'get /tables/{table}/export': asks(
    'export',
    fc
      .tuple(placed, text(['csv', 'ndjson', 'md']))
      .map(([{ columns, filter, sort }, format]): Parameters => ({
        columns,
        filter,
        sort,
        format,
      })),
    'export',
  ),
  'get /exports/{ticket}': get('/api/exports/nothing'),
  'get /queries/{id}': running('GET'),
  'delete /queries/{id}': running('DELETE'),
  'get /tables/{table}/advice': asks('advice', placed, 'advice'),
  'get /tables/{table}/written': asks('written', matching, 'written'),
  'get /tables/{table}/groups': asks('groups', groups, 'groups'),
  'get /tables/{table}/aggregates': asks(
    'aggregates',
    fc
      .tuple(matching, aggregate)
      .map(([given, made]): Parameters => ({ ...given, aggregate: made })),
    'aggregates',
  ),
  'get /tables/{table}/values/{column}': column.chain((name) =>
    asks(
      `values/${name}`,
      matching.map((given): Parameters => ({ ...given, counts: 'true' })),
      `values/${name}`,
    ),
  ),
  'post /selections': fc
    .uniqueArray(key, { minLength: 1, maxLength: 9 })
    .map((keys) => ({ method: 'POST', path: '/api/selections', body: { table: 'berths', keys } })),
  'get /selections/{id}': unknownId.map((id) => ({ method: 'GET', path: `/api/selections/${id}` })),
  'patch /selections/{id}': unknownId.map((id) => ({
    method: 'PATCH',
    path: `/api/selections/${id}`,
    body: { add: ['1'], remove: [] },
  })),
  'delete /selections/{id}': unknownId.map((id) => ({
    method: 'DELETE',
    path: `/api/selections/${id}`,
  })),
  'get /views': get('/api/views'),
  'post /views': fc.constant({ method: 'POST', path: '/api/views', body: {} }),
  'get /views/{id}': unknownId.map((id) => ({ method: 'GET', path: `/api/views/${id}` })),
  'patch /views/{id}': unknownId.map((id) => ({
    method: 'PATCH',
    path: `/api/views/${id}`,
    body: {},
  })),
  'delete /views/{id}': unknownId.map((id) => ({ method: 'DELETE', path: `/api/views/${id}` })),
  'post /tables/{table}/changes': tried,
  'post /changes': tried.map(({ body }) => ({
    method: 'POST',
    path: '/api/changes?dryRun=true',
    body: {
      changes: (body as { changes: object[] }).changes.map((one) => ({ ...one, table: 'berths' })),
    },
  })),
  'delete /changes': fc.constant({ method: 'DELETE', path: '/api/changes' }),
  // {hidden} is a set of hidden rows, {seen} one that the caller sees all of.
  'post /changes/{id}/undo': text(['hidden', 'seen', 'none']).map((id) => ({
    method: 'POST',
    path: `/api/changes/{${id}}/undo?dryRun=true`,
    body: {},
  })),
  'get /tables/{table}/history': fc
    .tuple(table, fc.integer({ min: 1, max: 6 }))
    .map(([name, limit]) => ({
      method: 'GET',
      path: `/api/tables/${name}/history?limit=${limit}`,
    })),
  'get /tables/{table}/rows/{key}/history': key.map((one) => ({
    method: 'GET',
    path: `/api/tables/berths/rows/${one}/history?limit=1`,
  })),
  'get /tables/{table}/rows/{key}': fc
    .tuple(table, key)
    .map(([name, one]) => ({ method: 'GET', path: `/api/tables/${name}/rows/${one}` })),
  'get /openapi.json': get('/api/openapi.json'),
  explain: asks(
    'rows',
    rows.map((given): Parameters => ({ ...given, explain: 'true' })),
  ),
  odata: fc
    .tuple(
      table,
      text([
        '?$count=true&$top=9',
        '?$orderby=fee desc&$top=5',
        '?$filter=fee gt 7&$count=true',
        '(3)',
        '(101)',
        '(75)',
        '?$apply=groupby((quay),aggregate(id with max as most))',
        '/$count',
        '?$select=id,note',
      ]),
    )
    .map(([name, rest]) => ({ method: 'GET', path: `/odata/${name}${rest}` })),
  metadata: get('/odata/$metadata'),
  spelled: fc.tuple(column, value).map(([name, one]) => ({
    method: 'GET',
    path: `/old/berths?size=9&by=-${name}&where[${name}][more]=${encodeURIComponent(one)}`,
  })),
  metrics: get('/metrics'),
};

const configuration = (roles: string): string => `
odata: true
tables: { berths: { changes: { add: true, change: true, remove: true } } }
spelling:
  - at: /old/{table}
    parameters: { limit: size, sort: { name: by }, filter: { name: where, form: brackets } }
    answer: { rows: items, total: all }
signIn: [{ kind: tokens }]
roles:
  chief: { tables: all, changes: true }${roles}
`;

/** One of two services, with the caller. */
interface Side {
  readonly service: TestService;
  readonly as: Readonly<Record<string, string>>;
  /** Sets of changes by the names that questions have for them. */
  readonly sets: ReadonlyMap<string, string>;
  readonly close: () => Promise<void>;
}

async function side(name: string, pair: Pair, hidden: readonly string[]): Promise<Side> {
  const { url, drop } = await freshDatabase(name, [...tables, ...hidden, 'ANALYZE']);
  const service = await startService(url, configuration(pair.roles), {
    records: url,
    changes: url,
  });
  const records = new Records(url);
  const tokens = new Tokens(records);
  const token = async (one: string, roles: readonly string[]): Promise<Record<string, string>> => ({
    Authorization: `Bearer ${(await tokens.add({ name: one, roles })).text}`,
  });
  const as = await token('reader', pair.names);
  const chief = await token('chief', ['chief']);
  await records.close();
  const saved = async (changes: readonly object[]): Promise<string> => {
    const answer = await fetch(`${service.url}/api/tables/berths/changes`, {
      method: 'POST',
      headers: { ...chief, 'Content-Type': 'application/json' },
      body: JSON.stringify({ changes }),
    });
    const { id } = (await answer.json()) as { id: string };
    expect(answer.status).toBe(200);
    return id;
  };
  const rename = (one: number, to: string): object => ({
    kind: 'change',
    key: [String(one)],
    was: {},
    values: { name: to },
  });
  // What is visible is changed alike, what is hidden between that otherwise.
  const sets = new Map<string, string>([['none', 'AAAAAAAAAAAAAAAAAAAAAA']]);
  for (const at of [3, 5, 4, 7]) {
    sets.set('seen', await saved([rename(at, `Renamed ${at}`)]));
    for (const one of await secretChanges(url, name, at)) sets.set('hidden', await saved([one]));
  }
  return {
    service,
    as,
    sets,
    close: async () => {
      await service.close();
      await drop();
    },
  };
}

/** Changes that a caller must not notice: other ones, and another number of them, in either database. */
function secretChanges(_url: string, name: string, at: number): Promise<readonly object[]> {
  const isFirst = name.endsWith('a');
  const note = (key: number, value: string): object => ({
    kind: 'change',
    key: [String(key)],
    was: {},
    values: { note: value },
  });
  if (name.includes('rows')) {
    return Promise.resolve(
      isFirst ? [note(101, `a${at}`)] : [note(72, `b${at}`), note(73, `b${at}`), note(74, 'x')],
    );
  }
  // Of a quay whose cells are not shown: its berths have odd numbers.
  const key = name.includes('cells') ? 11 : 6;
  return Promise.resolve(
    isFirst ? [note(key, `a${at}`), note(key, `c${at}`)] : [note(key, `b${at}`)],
  );
}

/** What an answer comes to, without what is of the moment. */
async function answered({ service, as, sets }: Side, wanted: Requested): Promise<unknown> {
  const path = wanted.path.replace(/\{(\w+)\}/, (_all, name: string) => sets.get(name) ?? '');
  const controller = new AbortController();
  for (let tries = 0; ; tries += 1) {
    const response = await fetch(service.url + path, {
      method: wanted.method,
      headers: {
        ...as,
        ...(wanted.body === undefined ? {} : { 'Content-Type': 'application/json' }),
      },
      ...(wanted.body === undefined ? {} : { body: JSON.stringify(wanted.body) }),
      signal: controller.signal,
    });
    if (response.headers.get('content-type')?.startsWith('text/event-stream') === true) {
      const first = await response.body?.getReader().read();
      controller.abort();
      return [response.status, Buffer.from(first?.value ?? []).toString()];
    }
    const body = await response.text();
    const isReady = response.status !== 503 && !/"state":"(?:waiting|building)"/.test(body);
    // Marks of an empty result may wait for good.
    if (!isReady && tries < 200) {
      await new Promise((resolve) => setTimeout(resolve, 20));
      continue;
    }
    const headers = [
      'content-type',
      'ephoros-rows',
      'ephoros-rows-about',
      'allow',
      'link',
      'retry-after',
    ];
    return [
      response.status,
      ...headers.map((name) => response.headers.get(name)?.replaceAll(service.url, '')),
      ofNoMoment(body, service),
    ];
  }
}

function ofNoMoment(body: string, { url }: TestService): string {
  const plain = body
    .replaceAll(url, '')
    // When something was counted is in answers whose count took long, on a busy machine.
    .replaceAll(/,?"(?:requestId|asOf|countedAt|at|next|previous|mark|id|set)":"[^"]*"/g, '')
    .replaceAll(/urn:uuid:[\w-]+|\b[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}\b/g, '');
  // Of how much the planner knows nobody promises anything.
  return plain.replaceAll(/"estimatedRows":(?:\d+|null)/g, '');
}

describe.each(Object.entries(pairs))('a caller from whom %s are hidden', (name, pair) => {
  let sides: readonly [Side, Side];

  beforeAll(async () => {
    const [one, other] = pair.hidden;
    sides = [
      await side(`paired_${name}_a`, pair, one),
      await side(`paired_${name}_b`, pair, other),
    ];
  });

  afterAll(async () => {
    for (const one of sides) await one.close();
  });

  it('learns nothing of them over any door', async () => {
    const { body } = await sides[0].service.get('/api/openapi.json');
    const documented = Object.entries(body.paths as Record<string, object>).flatMap(
      ([path, methods]) => Object.keys(methods).map((method) => `${method} ${path}`),
    );
    // The same door by POST is tried with the one by GET.
    const known = (policy: string): boolean =>
      Object.hasOwn(doors, policy) || Object.hasOwn(doors, policy.replace(/^post /, 'get '));
    expect(documented.filter((route) => !known(route))).toEqual([]);
    const statuses = new Set<number>();
    const request = fc.oneof(...Object.values(doors));
    await fc.assert(
      fc.asyncProperty(request, async (wanted) => {
        const [one, other] = await Promise.all(sides.map((each) => answered(each, wanted)));
        statuses.add((one as [number])[0]);
        expect([wanted, one]).toEqual([wanted, other]);
      }),
      { numRuns: requests },
    );
    // They are answers and refusals, and not one refusal of all.
    expect([...statuses]).toEqual(expect.arrayContaining([200, 400, 404]));
  });

  it.each(Object.keys(doors))('learns nothing of them by %s', async (door) => {
    for (const options of fc.sample(doors[door] ?? fc.constant({ method: '', path: '' }), 8)) {
      const [one, other] = await Promise.all(sides.map((each) => answered(each, options)));
      expect([options, one]).toEqual([options, other]);
    }
  });
});
