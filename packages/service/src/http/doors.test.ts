import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { Records, Tokens } from '../records/index.ts';
import { sendTo } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

/*
 * Every door against every kind of restriction. What a caller is answered must be what a service answers that has
 * nothing else in its database; and of what is hidden, which has marks in it, no answer and no header may tell.
 */

const tables = `
  CREATE TABLE quays (id int PRIMARY KEY, name text NOT NULL UNIQUE, keeper text);
  CREATE TABLE berths (
    id int PRIMARY KEY, quay int NOT NULL REFERENCES quays, name text NOT NULL, fee numeric(8,2), note text);
  CREATE INDEX ON berths (fee); CREATE INDEX ON berths (quay); CREATE INDEX ON berths (name)`;
const statements = [
  ...tables.split(';'),
  'CREATE TABLE ledgers_hid (id int PRIMARY KEY, berth int REFERENCES berths, sum text)',
  `INSERT INTO quays VALUES (1, 'North', 'Ann'), (2, 'South', 'Bob'), (3, 'Hidquay', 'Hidkeeper')`,
  `INSERT INTO berths SELECT i, 1 + i % 3, CASE i % 3 WHEN 2 THEN 'Hidberth ' ELSE 'Berth ' END || i,
     CASE i % 3 WHEN 2 THEN 777700 + i ELSE i END, CASE i % 3 WHEN 2 THEN 'Hidnote ' ELSE 'n' END || i
   FROM generate_series(1, 60) i`,
  `INSERT INTO ledgers_hid SELECT i, i, 'Hidsum' FROM generate_series(1, 9) i`,
  'ANALYZE',
];

/** What hidden things have in common, in any case of letters; and values that stand in hidden rows alone. */
const marks = /hid(?:berth|quay|keeper|note|sum)|ledgers_hid|7777\d\d/i;

interface Restriction {
  readonly role: string;
  /** What of the whole database is taken away to have the one that the caller may as well be requesting. */
  readonly without: readonly string[];
  /** Columns of berths that there are not. */
  readonly hidden?: readonly string[];
  /** Something that is not there for the caller, which names of the configuration must not suggest either. */
  readonly secret?: string;
}

const ownRows = `id <> 3`;
const restrictions: Readonly<Record<string, Restriction>> = {
  'some rows': {
    role: `tables: { quays: { rows: "${ownRows}" }, berths: { rows: "quay <> {claims.not}", changes: true } }`,
    without: ['DELETE FROM berths WHERE quay = 3', 'DELETE FROM quays WHERE id = 3'],
  },
  'some columns': {
    role: `tables: { quays: { rows: "${ownRows}", hidden: [keeper] }, berths: { rows: "quay <> 3", hidden: [fee, note], changes: true } }`,
    without: [
      'DELETE FROM berths WHERE quay = 3',
      'DELETE FROM quays WHERE id = 3',
      'ALTER TABLE berths DROP fee, DROP note',
      'ALTER TABLE quays DROP keeper',
    ],
    hidden: ['fee', 'note'],
    secret: 'fee',
  },
  'one table': {
    role: 'tables: { berths: { rows: "quay <> 3", changes: true } }',
    without: [
      'DELETE FROM berths WHERE quay = 3',
      'ALTER TABLE berths DROP CONSTRAINT berths_quay_fkey',
      'DROP TABLE quays',
    ],
    secret: 'quays',
  },
};

/** Columns that are shown of some rows alone: two roles of which each shows something else. */
const addedUp = `
  plain: { tables: { quays: { rows: "${ownRows}" }, berths: { rows: "quay <> 3", columns: [id, quay, name] } } }
  own: { tables: { berths: { rows: "quay = 1", changes: true } } }`;
const partly: Restriction = {
  role: '',
  without: [
    'DELETE FROM berths WHERE quay = 3',
    'DELETE FROM quays WHERE id = 3',
    'UPDATE berths SET fee = NULL, note = NULL WHERE quay <> 1',
  ],
};

const odata =
  'odata: true\ntables: { berths: { changes: { add: true, change: true, remove: true } } }\n';
const spelled = `
spelling:
  - at: /old/{table}
    parameters: { limit: size, sort: { name: by }, filter: { name: where, form: brackets } }
    answer: { rows: items, total: all }
`;

let full: string;
let service: TestService;
let records: Records;
const reduced = new Map<string, TestService>();
const drops: (() => Promise<void>)[] = [];
const callers = new Map<string, string>();

beforeAll(async () => {
  const made = await freshDatabase('doors_whole', statements);
  full = made.url;
  drops.push(made.drop);
  records = new Records(full);
  const tokens = new Tokens(records);
  const roles = Object.entries(restrictions)
    .map(([name, { role }]) => `  ${name.replace(' ', '_')}: { ${role} }`)
    .join('\n');
  service = await startService(
    full,
    `${odata}${spelled}signIn: [{ kind: tokens }]\nroles:\n${roles}${addedUp}\n  chief: { tables: all, changes: true, exports: true, explanations: true, views: true }\n`,
    { records: full, changes: full },
  );
  const all = { ...restrictions, partly };
  for (const [name, { without }] of Object.entries(all)) {
    const own = name === 'partly' ? ['plain', 'own'] : [name.replace(' ', '_')];
    const { text } = await tokens.add({ name, roles: own, claims: { not: 3 } });
    callers.set(name, text);
    const database = await freshDatabase(`doors_${own.join('_')}`, [
      ...statements.slice(0, -1),
      'DROP TABLE ledgers_hid',
      ...without,
      'ANALYZE',
    ]);
    drops.push(database.drop);
    reduced.set(name, await startService(database.url, `${odata}${spelled}`));
  }
  callers.set('chief', (await tokens.add({ name: 'chief', roles: ['chief'] })).text);
});

afterAll(async () => {
  await Promise.all([service, ...reduced.values()].map((one) => one.close()));
  await records.close();
  for (const drop of drops) await drop();
});

const as = (name: string): Record<string, string> => ({
  Authorization: `Bearer ${callers.get(name) ?? ''}`,
});

/** Questions whose answer is the same as where there is nothing else. */
const doors = (hidden: readonly string[]): readonly string[] => {
  const money = hidden.includes('fee') ? 'id' : 'fee';
  const text = hidden.includes('note') ? 'name' : 'note';
  const api = '/api/tables/berths';
  return [
    `${api}/rows?total=exact&limit=100`,
    `${api}/rows?total=exact&sort=-${money}&limit=7&offset=20`,
    `${api}/rows?total=exact&sort=${money},name&limit=5&nulls=first`,
    `${api}/rows?total=exact&filter=${money} > 5 OR ${text} LIKE '%25n%25'`,
    `${api}/rows?total=exact&filter=${money} > 7000&limit=5`,
    `${api}/rows?total=exact&search=hidberth`,
    `${api}/rows?total=exact&search=777702`,
    `${api}/rows?after=key:20&limit=5`,
    `${api}/rows?after=key:21&limit=5&sort=-${money}`,
    `${api}/rows/2`,
    `${api}/rows/3`,
    `${api}/groups?group=quay&aggregate=count(),max(${money}),count(${money})`,
    `${api}/groups?group=${text}&limit=100`,
    `${api}/values/${money}?limit=100`,
    `${api}/values/${text}?containing=hid`,
    `${api}/values/id?bins=10`,
    `${api}/aggregates?aggregate=count(),max(${money}),min(${money}),sum(id),distinct(${text})`,
    `${api}/mileposts?sort=-${money}&ticks=10`,
    `/odata/berths?$count=true&$top=100`,
    `/odata/berths?$orderby=${money} desc&$top=3&$filter=${money} ge 3`,
    `/odata/berths(3)`,
    `/odata/berths(2)`,
    `/odata/berths?$apply=groupby((quay),aggregate(id with max as most))`,
    `/odata/$metadata`,
    `/odata/`,
    `/old/berths?size=5&by=-${money}`,
    `/old/berths?where[${money}][more]=7000`,
    `/api/tables/quays/rows`,
    `/api/tables/quays/rows?filter=HAS(berths, ${money} > 7000)`,
    `/api/tables/quays/rows?columns=id,name&sort=-name`,
    `/api/tables/quays`,
    `/odata/quays?$count=true`,
    `/api/tables/ledgers_hid/rows`,
    `/api/tables/ledgers_hid`,
    `/odata/ledgers_hid`,
    `/api/tables`,
    `/api/views`,
  ];
};

/** An answer once nothing is being made any more. */
async function whole(
  from: TestService,
  policy: string,
  headers: Record<string, string> = {},
): Promise<{ status: number; headers: Headers; body: any }> {
  for (;;) {
    const answer = await from.get(policy, headers);
    if (!policy.includes('/mileposts') || answer.body.state === 'ready') return answer;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

/** Without what depends on the moment, on the request, or on how much the planner knows. */
function comparable(body: unknown, own: string): unknown {
  const text = JSON.stringify(body, (name, value: unknown) =>
    /requestId$|^(?:estimatedRows|asOf|countedAt|counting|mark|passed|indexed|nullable|format|comment)$/.test(
      name,
    )
      ? undefined
      : value,
  );
  // Who may change something is reported in the description; the other service lets nobody.
  return JSON.parse(text.replaceAll(own, ''), (name, value: unknown) =>
    name === 'changes' || name === 'writing' ? undefined : value,
  );
}

function refuseMarks(
  what: string,
  answer: { status: number; headers: Headers; body: unknown },
): void {
  // Random numbers and the time may have any digits.
  const headers = [...answer.headers].filter(
    ([name]) => !['x-request-id', 'etag', 'date'].includes(name),
  );
  const body = JSON.stringify(answer.body, (name, value: unknown) =>
    /requestId$|^(?:id|set|mark)$/.test(name) ? undefined : value,
  );
  const message = `${body} ${JSON.stringify(headers)}`;
  // The query itself may be repeated in the answer.
  const path = decodeURIComponent(what);
  const found = marks.exec(message)?.[0];
  if (found !== undefined && !path.toLowerCase().includes(found.toLowerCase())) {
    throw new Error(`${what} tells ${found}: ${message.slice(0, 600)}`);
  }
}

const every = [...Object.entries(restrictions), ['partly', partly] as const];

describe.each(every)('a caller who sees %s', (name, { hidden = [], secret }) => {
  it('is answered as if there were nothing else', async () => {
    const other = reduced.get(name);
    if (other === undefined) throw new Error('no service');
    for (const policy of doors(hidden)) {
      // Somebody who sees all has requested the same before: nothing of that is remembered for others.
      await service.get(policy, as('chief'));
      const ours = await whole(service, policy, as(name));
      const theirs = await whole(other, policy);
      refuseMarks(policy, ours);
      if (policy === '/api/views') continue;
      if (policy.includes('/mileposts')) {
        expect(ours.body.ticks).toEqual(theirs.body.ticks);
        continue;
      }
      expect({
        door: policy,
        status: ours.status,
        body: comparable(ours.body, service.url),
      }).toEqual({
        door: policy,
        status: theirs.status,
        body: comparable(theirs.body, other.url),
      });
    }
  });

  it('learns nothing of the rest from errors, hints, tags, timings and explanations', async () => {
    const money = hidden.includes('fee') ? 'id' : 'fee';
    const api = '/api/tables/berths';
    const rows = `${api}/rows?filter=${money} >= 0&limit=100`;
    const theirs = await service.get(rows, as('chief'));
    const ours = await service.get(rows, as(name));
    expect(ours.headers.get('etag')).not.toBe(theirs.headers.get('etag'));
    expect(ours.headers.get('server-timing')).toBeNull();
    for (const route of [
      `${api}/rows?columns=feee,not,keepr`,
      `${api}/rows?filter=feee > 1 AND nott = 'x' AND ledgers_hidd.sum = 'x'`,
      `${api}/rows?filter=HAS(ledgers_hid)`,
      `${api}/rows?filter=quay_ref.keeper = 'x'`,
      `${api}/rows?filter=1 / (id - 5) > 0`,
      `${api}/values/not`,
      '/api/tables/ledgers_hi/rows',
      '/api/tables/quay/rows',
      '/odata/ledgers_hi',
      `/odata/berths?$filter=feee gt 1`,
      `/old/berths?where[feee][more]=1`,
      `${api}/rows?explain=true`,
      `${api}/advice?sort=-${money}`,
      `${api}/written`,
      `${api}/export?format=csv`,
      `${api}/history`,
      `${api}/rows/2/history`,
      '/api/openapi.json',
    ]) {
      const answer = await service.get(route, as(name));
      refuseMarks(route, answer);
      if (secret !== undefined && answer.status >= 400) {
        const hints = JSON.stringify((answer.body as { errors?: unknown }).errors ?? '');
        expect([route, hints.includes(`"${secret}"`) || hints.includes(` ${secret}?`)]).toEqual([
          route,
          false,
        ]);
      }
    }
    for (const door of [`${api}/rows?explain=true`, `${api}/advice`, `${api}/export?format=csv`]) {
      expect([door, (await service.get(door, as(name))).status]).not.toEqual([door, 200]);
    }
  });

  it('changes and selects nothing of the rest', async () => {
    const send = (path: string, body: unknown): ReturnType<typeof sendTo> =>
      sendTo('POST', service.url + path, body, { headers: as(name) });
    // Row 2 is of a hidden quay, row 1 not of the first one.
    for (const change of [
      { kind: 'change', key: ['2'], was: { name: 'Hidberth 2' }, values: { name: 'x' } },
      { kind: 'change', key: ['2'], was: {}, values: { note: 'x' } },
      { kind: 'remove', key: ['2'], was: {} },
      { kind: 'change', key: ['3'], was: {}, values: { quay: 3 } },
      { kind: 'set', filter: 'id = 2', values: { name: 'x' } },
      ...(name === 'partly'
        ? [
            { kind: 'change', key: ['1'], was: { fee: '1.00' }, values: { name: 'x' } },
            { kind: 'change', key: ['1'], was: {}, values: { fee: '3.00' } },
            { kind: 'set', filter: 'id = 1', values: { name: 'x' } },
          ]
        : []),
      ...hidden.map((column) => ({
        kind: 'change',
        key: ['3'],
        was: {},
        values: { [column]: null },
      })),
    ]) {
      const answer = await send('/api/tables/berths/changes', { changes: [change] });
      const [outcome] = (answer.body as { outcomes?: any[] }).outcomes ?? [];
      if (change.kind === 'set') expect([change, outcome?.count ?? 0]).toEqual([change, 0]);
      else expect([change, answer.status >= 400]).toEqual([change, true]);
      refuseMarks(JSON.stringify(change), answer);
    }
    const selected = await send('/api/selections', { table: 'berths', keys: [['2'], ['3']] });
    expect(selected.status).toBe(201);
    refuseMarks('a selection', selected);
    const { id } = selected.body as { id: string };
    const read = await service.get(
      `/api/tables/berths/rows?total=exact&filter=SELECTED('@${id}')`,
      as(name),
    );
    refuseMarks(`@${id}`, read);
    for (const [method, path] of [
      ['GET', '/api/views'],
      ['POST', '/api/views'],
    ] as const) {
      const answer = await sendTo(method, service.url + path, method === 'POST' ? {} : undefined, {
        headers: as(name),
      });
      expect([method, path, answer.status]).toEqual([method, path, 403]);
    }
  });
});

describe('a change that is only tried', () => {
  it('is counted and written down as reading is', async () => {
    const own = await startService(
      full,
      `tables: { berths: { changes: { change: true } } }
signIn: [{ kind: tokens }]
rates: { rows: 30, seconds: 600 }
roles: { chief: { tables: all, changes: true } }`,
      { records: full, changes: full },
    );
    try {
      const changes = Array.from({ length: 20 }, (_, at) => ({
        kind: 'change',
        key: [String(3 * (at + 1))],
        was: { name: 'another' },
        values: { name: 'x' },
      }));
      const path = `${own.url}/api/tables/berths/changes?dryRun=true`;
      const send = (): ReturnType<typeof sendTo> =>
        sendTo('POST', path, { changes }, { headers: as('chief') });
      expect((await send()).status).toBe(409);
      expect((await send()).status).toBe(409);
      expect((await send()).status).toBe(429);
      const lines = own.log
        .map((line) => JSON.parse(line) as Record<string, unknown>)
        .filter(({ audit }) => audit === 'change');
      expect(lines[0]).toMatchObject({ tables: ['berths'], changes: 20, dryRun: true, rows: 20 });
      expect(lines[0]?.databaseMs).toBeGreaterThan(0);
    } finally {
      await own.close();
    }
  });

  it('does not name what refers to a row, nor a constraint on what is hidden', async () => {
    const client = new pg.Client({ connectionString: full });
    await client.connect();
    await client.query('ALTER TABLE berths ADD CONSTRAINT hidnote_says CHECK (note <> name)');
    await client.end();
    const tried = (name: string, change: object): ReturnType<typeof sendTo> =>
      sendTo(
        'POST',
        `${service.url}/api/tables/berths/changes?dryRun=true`,
        { changes: [change] },
        { headers: as(name) },
      );
    const removed = await tried('some rows', { kind: 'remove', key: ['3'], was: {} });
    expect([removed.status, JSON.stringify(removed.body)]).toEqual([
      422,
      expect.stringContaining('another table'),
    ]);
    refuseMarks('a removal', removed);
    const broken = await tried('some columns', {
      kind: 'change',
      key: ['6'],
      was: {},
      values: { name: 'n6' },
    });
    expect(broken.status).toBe(422);
    expect(JSON.stringify(broken.body)).toContain('check');
  });
});

describe('the history and undo of what is hidden', () => {
  const send = (path: string, body: unknown, name = 'chief'): ReturnType<typeof sendTo> =>
    sendTo('POST', service.url + path, body, { headers: as(name) });
  const changed = async (changes: readonly unknown[], name = 'chief'): Promise<string> => {
    const answer = await send('/api/tables/berths/changes', { changes }, name);
    expect(answer.status).toBe(200);
    return (answer.body as { id: string }).id;
  };
  const note = (key: string, text: string): object => ({
    kind: 'change',
    key: [key],
    was: {},
    values: { note: text },
  });

  it('have no place, no page and no set for it', async () => {
    await changed([note('10', 'seen first')]);
    const sets = [
      await changed([note('11', 'Hidnote one')]),
      await changed([note('14', 'Hidnote two')]),
      await changed([note('12', 'seen'), note('14', 'Hidnote three')]),
    ];
    await changed([note('10', 'seen last')]);
    const page = (after: string | null): Promise<any> =>
      service
        .get(
          `/api/tables/berths/history?limit=1${after === null ? '' : `&after=${after}`}`,
          as('some rows'),
        )
        .then(({ body }) => body);
    // Every page is full, and its cursor is that of a row that is shown.
    const visible: string[] = [];
    let next: string | null = null;
    do {
      const { entries, next: further } = await page(next);
      expect(entries).toHaveLength(1);
      visible.push(entries[0].after.note);
      next = further as string | null;
      const place = Buffer.from(next ?? '', 'base64url').toString();
      if (next !== null) expect(place).toContain(entries[0].set);
    } while (next !== null && visible.length < 3);
    expect(visible).toEqual(['seen last', 'seen', 'seen first']);
    // A hidden row is as one that there never was.
    for (const key of ['11', '999']) {
      const { status, body } = await service.get(
        `/api/tables/berths/rows/${key}/history?limit=1`,
        as('some rows'),
      );
      expect([key, status, body.entries, body.next]).toEqual([key, 200, [], null]);
    }
    const unknown = await send('/api/changes/none/undo?dryRun=true', {}, 'some rows');
    expect(unknown.status).toBe(404);
    const { requestId: _own, ...reported } = unknown.body as Record<string, unknown>;
    for (const id of sets) {
      for (const dryRun of ['true', 'false']) {
        const answer = await send(`/api/changes/${id}/undo?dryRun=${dryRun}`, {}, 'some rows');
        const { requestId: _other, ...same } = answer.body as Record<string, unknown>;
        expect([id, answer.status, same]).toEqual([id, 404, reported]);
      }
    }
  });

  it('are not there for anyone who does not see all columns of a set', async () => {
    const id = await changed([
      { kind: 'change', key: ['10'], was: {}, values: { name: 'Berth x', note: 'other' } },
    ]);
    expect((await send(`/api/changes/${id}/undo?dryRun=true`, {}, 'some columns')).status).toBe(
      404,
    );
    expect((await send(`/api/changes/${id}/undo`, {}, 'some rows')).status).toBe(200);
  });

  it('are there for what a caller changed themselves', async () => {
    const name = 'some columns';
    const id = await changed(
      [{ kind: 'change', key: ['16'], was: {}, values: { name: 'Berth own' } }],
      name,
    );
    expect((await send(`/api/changes/${id}/undo`, {}, name)).status).toBe(200);
    const removed = await changed([{ kind: 'remove', key: ['60'], was: {} }], name);
    expect((await send(`/api/changes/${removed}/undo`, {}, name)).status).toBe(200);
  });

  it('are undone by those who may change the row, and not by all who see it', async () => {
    // Of row 10 the caller sees three columns, and changes none; row 3 is their own.
    const id = await changed([
      { kind: 'change', key: ['10'], was: {}, values: { name: 'Berth seen' } },
    ]);
    for (const dryRun of ['true', 'false']) {
      const answer = await send(`/api/changes/${id}/undo?dryRun=${dryRun}`, {}, 'partly');
      expect([dryRun, answer.status]).toEqual([dryRun, 422]);
      expect(JSON.stringify(answer.body)).not.toMatch(/fee|note/);
    }
    const own = await changed([
      { kind: 'change', key: ['3'], was: {}, values: { name: 'Berth own' } },
    ]);
    expect((await send(`/api/changes/${own}/undo`, {}, 'partly')).status).toBe(200);
  });

  it('show nothing of another row that had the key before', async () => {
    await changed([note('17', 'Hidnote before')]);
    await changed([{ kind: 'remove', key: ['17'], was: {} }]);
    const client = new pg.Client({ connectionString: full });
    await client.connect();
    await client.query("INSERT INTO berths VALUES (17, 1, 'Berth 17', 17, 'n17')");
    await client.end();
    await changed([note('17', 'since')]);
    const path = '/api/tables/berths/rows/17/history';
    const observed = await service.get(path, as('some rows'));
    expect(observed.body.entries.map(({ after }: any) => after.note)).toEqual(['since']);
    expect((await service.get(path, as('chief'))).body.entries).toHaveLength(3);
  });
});

describe('a caller who sees some columns of some rows', () => {
  it('changes the rows whose values are shown', async () => {
    const answer = await sendTo(
      'POST',
      `${service.url}/api/tables/berths/changes?dryRun=true`,
      { changes: [{ kind: 'change', key: ['3'], was: { fee: '3.00' }, values: { fee: '4.00' } }] },
      { headers: as('partly') },
    );
    expect(answer.status).toBe(200);
    const description = await service.get('/api/tables/berths', as('partly'));
    const writable = description.body.columns.filter(
      ({ writing }: any) => writing?.change === true,
    );
    expect(writable.map(({ name }: any) => name)).toContain('fee');
  });

  it('reads in the history nothing of values that are not shown', async () => {
    const save = async (values: object): Promise<void> => {
      const body = { changes: [{ kind: 'change', key: ['4'], was: {}, values }] };
      const path = `${service.url}/api/tables/berths/changes`;
      expect((await sendTo('POST', path, body, { headers: as('chief') })).status).toBe(200);
    };
    await save({ note: 'Hidnote', name: 'Berth four' });
    await save({ note: 'n4', name: 'Berth 4' });
    const all = await service.get('/api/tables/berths/rows/4/history', as('chief'));
    expect(JSON.stringify(all.body)).toContain('Hidnote');
    const some = await service.get('/api/tables/berths/rows/4/history', as('partly'));
    expect(some.body.entries).toHaveLength(2);
    refuseMarks('a history', some);
    const rows = await service.get('/api/tables/berths/history', as('one table'));
    refuseMarks('a history', {
      ...rows,
      body: rows.body.entries.filter(({ key }: any) => key[0] !== '4'),
    });
  });
});
