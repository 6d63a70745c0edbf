import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { Records, Tokens } from '../records/index.ts';
import { sendTo } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

/* Roles × claims × tables: what of each is visible, and may be done. */

let service: TestService;
let records: Records;
let drop: () => Promise<void>;

beforeAll(async () => {
  const made = await freshDatabase('role_matrix', [
    'CREATE TABLE quays (id int PRIMARY KEY, name text)',
    'CREATE TABLE berths (id int PRIMARY KEY, quay int REFERENCES quays, name text, fee int DEFAULT 7)',
    'CREATE TABLE ledgers (id int PRIMARY KEY)',
    "INSERT INTO quays SELECT i, 'Quay ' || i FROM generate_series(1, 3) i",
    "INSERT INTO berths SELECT i, 1 + (i - 1) % 3, 'Berth ' || i, i FROM generate_series(1, 6) i",
    'INSERT INTO ledgers VALUES (1)',
  ]);
  ({ drop } = made);
  service = await startService(
    made.url,
    `tables:
  berths: { changes: { add: true, change: true, remove: true } }
  quays: { changes: { change: true } }
signIn: [{ kind: tokens }]
roles:
  own: { tables: { berths: { rows: "quay = {claims.quay}", changes: true } } }
  several: { tables: { berths: { rows: "quay IN {claims.quays}" } } }
  named: { tables: { berths: { rows: "name = {caller}", changes: { change: [name] } } } }
  narrow: { tables: { berths: { columns: [id, name] } } }
  quays: { tables: { quays: { rows: "id <> 3", changes: true } } }
  off: { tables: { berths: false, quays: true } }
  moves: { tables: { berths: true }, changes: true }
  reads: { tables: all }
  all: { tables: all, changes: true }
`,
    { records: made.url, changes: made.url },
  );
  records = new Records(made.url);
});

afterAll(async () => {
  await service.close();
  await records.close();
  await drop();
});

interface Seen {
  /** Ids of berths, or the status where there is no such table. */
  readonly berths: readonly number[] | number;
  readonly quays?: readonly number[] | number;
  readonly ledgers?: readonly number[] | number;
  /** Columns of berths. */
  readonly columns?: readonly string[];
  /** Berths whose names the caller may change. */
  readonly changes?: readonly number[];
  readonly adds?: boolean;
  readonly removes?: readonly number[];
}

const all = [1, 2, 3, 4, 5, 6];
const everything = ['id', 'quay', 'name', 'fee'];
const nothing = { berths: 404, quays: 404, ledgers: 404 } as const;

const matrix: readonly (readonly [
  roles: readonly string[],
  claims: Readonly<Record<string, unknown>>,
  seen: Seen,
])[] = [
  [[], {}, nothing],
  [['unheard of'], { quay: 1 }, nothing],
  // A part goes by a claim: without it there is no such table.
  [['own'], { quay: 1 }, { berths: [1, 4], changes: [1, 4], adds: true, removes: [1, 4] }],
  [['own'], { quay: '2' }, { berths: [2, 5], changes: [2, 5], adds: true, removes: [2, 5] }],
  // Nor may they add a row that they would not see.
  [['own'], { quay: 9 }, { berths: [] }],
  [['own'], {}, nothing],
  [['own'], { quay: null }, nothing],
  [['own'], { quay: [] }, nothing],
  [['own'], { quay: {} }, nothing],
  [['own'], { quay: 'all' }, { berths: 403, quays: 403, ledgers: 403 }],
  [['several'], { quays: [1, 2] }, { berths: [1, 2, 4, 5] }],
  // One value stands for no list.
  [['several'], { quays: 3 }, { berths: 403, quays: 403, ledgers: 403 }],
  // An empty list is no quay, and not all of them.
  [['several'], { quays: [] }, nothing],
  [['several'], { quays: [null] }, nothing],
  [['several'], {}, nothing],
  // With another name they would not see it any more.
  [['named'], {}, { berths: [2] }],
  [['narrow'], {}, { berths: all, columns: ['id', 'name'] }],
  [['off'], {}, { berths: 404, quays: [1, 2, 3] }],
  [['reads'], {}, { berths: all, quays: [1, 2, 3], ledgers: [1] }],
  [
    ['all'],
    {},
    { berths: all, quays: [1, 2, 3], ledgers: [1], changes: all, adds: true, removes: all },
  ],
  // Several roles add up, in whichever order they come.
  [
    ['own', 'several'],
    { quay: 1, quays: [2] },
    { berths: [1, 2, 4, 5], changes: [1, 4], adds: true, removes: [1, 4] },
  ],
  [
    ['several', 'own'],
    { quay: 1, quays: [] },
    { berths: [1, 4], changes: [1, 4], adds: true, removes: [1, 4] },
  ],
  // What one role shows of a table is not lost by what another one narrows, nor a whole role next to a part.
  [
    ['narrow', 'own'],
    { quay: 1 },
    { berths: all, columns: everything, changes: [1, 4], adds: true, removes: [1, 4] },
  ],
  [
    ['reads', 'own'],
    { quay: 1 },
    { berths: all, quays: [1, 2, 3], ledgers: [1], changes: [1, 4], adds: true, removes: [1, 4] },
  ],
  [['own', 'reads'], {}, { berths: all, quays: [1, 2, 3], ledgers: [1] }],
  [
    ['own', 'all'],
    { quay: 1 },
    { berths: all, quays: [1, 2, 3], ledgers: [1], changes: all, adds: true, removes: all },
  ],
  [
    ['all', 'off'],
    {},
    { berths: all, quays: [1, 2, 3], ledgers: [1], changes: all, adds: true, removes: all },
  ],
  [['quays', 'reads'], {}, { berths: all, quays: [1, 2, 3], ledgers: [1] }],
  [
    ['quays', 'own'],
    { quay: 1 },
    { berths: [1, 4], quays: [1, 2], changes: [1, 4], adds: true, removes: [1, 4] },
  ],
];

/** What somebody with some roles and claims sees, and may do. */
async function visibleTo(roles: readonly string[], claims: Readonly<Record<string, unknown>>) {
  const { text } = await new Tokens(records).add({ name: 'Berth 2', roles, claims });
  const headers = { Authorization: `Bearer ${text}` };
  const ids = async (table: string): Promise<readonly number[] | number> => {
    const { status, body } = await service.get(
      `/api/tables/${table}/rows?sort=id&limit=50&total=exact`,
      headers,
    );
    if (status !== 200) return status;
    const shown = body.rows.map(({ id }: any) => id as number);
    expect([table, body.window.total]).toEqual([table, shown.length]);
    return shown as readonly number[];
  };
  const tried = async (change: object): Promise<boolean> => {
    const path = `${service.url}/api/tables/berths/changes?dryRun=true`;
    return (await sendTo('POST', path, { changes: [change] }, { headers })).status === 200;
  };
  const among = async (change: (id: number) => object): Promise<readonly number[]> => {
    const may = await Promise.all(all.map((id) => tried(change(id))));
    return all.filter((_id, at) => may[at] === true);
  };
  const key = (id: number) => ({ key: [String(id)], was: {} });
  const { body } = await service.get('/api/tables/berths', headers);
  const quay = Array.isArray(claims.quays) ? 1 : (claims.quay ?? 1);
  return {
    berths: await ids('berths'),
    quays: await ids('quays'),
    ledgers: await ids('ledgers'),
    columns: (body.columns ?? []).map(({ name }: any) => name as string) as readonly string[],
    changes: await among((id) => ({ kind: 'change', ...key(id), values: { name: 'x' } })),
    adds: await tried({
      kind: 'add',
      values: { id: 100, quay: quay === 9 ? null : Number(quay), name: 'x' },
    }),
    removes: await among((id) => ({ kind: 'remove', ...key(id) })),
  };
}

it.each(matrix)('the roles %j with the claims %j', async (roles, claims, wanted) => {
  const observed = await visibleTo(roles, claims);
  const isVisible = Array.isArray(wanted.berths);
  expect(observed).toEqual({
    quays: 404,
    ledgers: 404,
    columns: isVisible ? everything : [],
    changes: [],
    removes: [],
    adds: false,
    ...wanted,
  });
});

it('refers to no row that the caller does not see, by any change', async () => {
  const { text } = await new Tokens(records).add({ name: 'ann', roles: ['quays', 'moves'] });
  const tried = async (change: object): Promise<unknown> => {
    const { status, body } = await sendTo(
      'POST',
      `${service.url}/api/tables/berths/changes?dryRun=true`,
      { changes: [change] },
      { headers: { Authorization: `Bearer ${text}` } },
    );
    const { errors, outcomes } = body as { errors?: { code: string }[]; outcomes?: object[] };
    return [status, errors?.map(({ code }) => code), JSON.stringify(outcomes)];
  };
  const changes: ((quay: number) => object)[] = [
    (quay) => ({ kind: 'change', key: ['1'], was: {}, values: { quay } }),
    (quay) => ({ kind: 'add', values: { id: 100, quay, name: 'x' } }),
    (quay) => ({ kind: 'set', filter: 'id < 3', values: { quay } }),
  ];
  for (const change of changes) {
    expect(await tried(change(2))).toEqual([200, undefined, expect.anything()]);
    // A hidden quay is as one that there never was.
    const hidden = await tried(change(3));
    expect(hidden).toEqual([422, ['unknown-reference'], expect.anything()]);
    expect(hidden).toEqual(await tried(change(999)));
  }
});
