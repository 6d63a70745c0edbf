import { editedHarbour, mistakesIn, type EditedHarbour } from '../testing/editing.ts';

let harbour: EditedHarbour;

beforeAll(async () => {
  harbour = await editedHarbour('changes');
});
afterAll(() => harbour.close());

const berths = '/tables/berths/changes';
const change = (id: number | string, values: object, was: object = {}) => ({
  kind: 'change',
  key: [String(id)],
  was,
  values,
});
const row = async (table: string, key: string): Promise<any> =>
  (await harbour.service.get(`/api/tables/${table}/rows/${key}`)).body.row;

describe('a set of changes', () => {
  it('adds, changes and removes rows of several tables, and shows what they are then', async () => {
    const answer = await harbour.post('/changes', {
      changes: [
        { kind: 'add', table: 'berths', values: { code: 'NEW', quay_id: { ref: 'q' } } },
        { kind: 'add', table: 'quays', ref: 'q', values: { name: 'East' } },
        { table: 'berths', ...change(20, { fee: '7.50', sizes: [1, null, 3] }, { fee: '20.00' }) },
        { kind: 'remove', table: 'berths', key: ['19'], was: { code: 'B19' } },
      ],
    });
    expect(answer.status).toBe(200);
    const [added, quay, changed, removed] = answer.body.outcomes;
    expect(quay).toMatchObject({ kind: 'done', key: ['3'], row: { id: 3, name: 'East' } });
    expect(added).toMatchObject({ row: { quay_id: 3, fee: '4.00', double_fee: '8.00' } });
    expect(added.row).not.toHaveProperty('secret');
    expect(changed).toMatchObject({ key: ['20'], row: { fee: '7.50', sizes: [1, null, 3] } });
    expect(removed).toEqual({ kind: 'done', key: ['19'], row: null });
    expect(await row('berths', '20')).toMatchObject({ fee: '7.50' });
    expect((await harbour.service.get('/api/tables/berths/rows/19')).status).toBe(404);
  });

  it('is saved where what was read still stands, cell by cell', async () => {
    await harbour.sql(`update berths set note = 'theirs' where id = 1`);
    const other = await harbour.post(berths, {
      changes: [change(1, { fee: '9.00' }, { fee: '1.00' })],
    });
    expect(other.status).toBe(200);
    expect(other.body.outcomes[0].row).toMatchObject({ fee: '9.00', note: 'theirs' });
    const same = await harbour.post(berths, {
      changes: [
        change(2, { fee: '3.00' }),
        change(1, { note: 'mine', fee: '1.00' }, { note: 'note 1', fee: '9.00' }),
      ],
    });
    expect(same.status).toBe(409);
    expect(same.body.outcomes).toEqual([
      { kind: 'held' },
      {
        kind: 'conflict',
        columns: ['note'],
        now: expect.objectContaining({ note: 'theirs', fee: '9.00' }),
      },
    ]);
    expect(await row('berths', '2')).toMatchObject({ fee: '2.00' });
  });

  it.each([
    ['nick', 'Nick', "'NICK'"],
    ['note', 'note 3', "'note 3 '"],
    ['extras', null, `'{"a":1}'`],
    ['fee', '3', '3.01'],
    ['sizes', null, "'{}'"],
  ])('compares %s exactly, in its own type', async (column, before, other) => {
    const post = () =>
      harbour.post(`${berths}?dryRun=true`, {
        changes: [change(3, { state: 'taken' }, { [column]: before })],
      });
    expect((await post()).status).toBe(200);
    await harbour.sql(`update berths set ${column} = ${other} where id = 3`);
    expect((await post()).body.outcomes[0]).toMatchObject({ kind: 'conflict', columns: [column] });
  });

  it('is only tried in a dry run', async () => {
    const answer = await harbour.post(`${berths}?dryRun=true`, {
      changes: [{ kind: 'remove', key: ['4'] }, change(5, { fee: 1 })],
    });
    expect(answer.body).toMatchObject({
      id: null,
      outcomes: [{ kind: 'done' }, { row: { fee: '1.00' } }],
    });
    expect(await row('berths', '4')).toMatchObject({ code: 'B4' });
  });

  it('saves what can be saved where that is requested', async () => {
    const answer = await harbour.post(`${berths}?mode=each`, {
      changes: [
        change(5, { fee: '50.00' }),
        change(5000, { fee: '1.00' }),
        change(6, { fee: '-1.00' }),
        change(7, { fee: 'x' }),
        change(8, { state: 'closed', note: null }),
        change(9, { fee: '2000.00', quay_id: 2 }),
        change(10, { fee: '10.50' }, { fee: '10.00' }),
      ],
    });
    expect(answer.status).toBe(200);
    expect(answer.body.outcomes.map(({ kind }: any) => kind)).toEqual([
      'done',
      'conflict',
      'refused',
      'refused',
      'refused',
      'refused',
      'done',
    ]);
    expect(await row('berths', '5')).toMatchObject({ fee: '50.00' });
    expect(await row('berths', '6')).toMatchObject({ fee: '6.00' });
    expect(await row('berths', '9')).toMatchObject({ fee: '9.00' });
  });

  it('gives the same values to all rows that match, as many as given', async () => {
    const set = (count: number) => ({
      changes: [
        { kind: 'set', filter: "SELECTED('11','12') OR id = 13", count, values: { note: 'all' } },
      ],
    });
    const wrong = await harbour.post(berths, set(2));
    expect(wrong.status).toBe(409);
    expect(wrong.body.outcomes).toEqual([{ kind: 'conflict', count: 3 }]);
    const right = await harbour.post(berths, set(3));
    expect(right.body.outcomes).toEqual([{ kind: 'done', count: 3 }]);
    expect(await row('berths', '12')).toMatchObject({ note: 'all' });
    const { body } = await harbour.service.get('/api/tables/berths/rows/12/history');
    expect(body.entries[0]).toMatchObject({ before: { note: 'note 12' }, after: { note: 'all' } });
  });
});

describe('errors', () => {
  it('of all changes are reported at once, each with its change and column', async () => {
    const answer = await harbour.post(berths, {
      changes: [
        change(1, {
          fee: '4.005',
          code: 'toolong',
          state: 'fre',
          opened: '2024-02-31',
          seen: 'now',
        }),
        change(1, { note: 7, extras: { ok: true }, sizes: ['a'] }),
        change('x', { note: '' }),
        change(2, {}),
        change(3, { id: 5, double_fee: '1', secret: 'x', fe: 1 }),
        { kind: 'add', values: { fee: null, code: 'lower', note: 'a\u0000b' } },
        { kind: 'add', values: { state: null } },
        { kind: 'add', values: { code: 'A', quay_id: { ref: 'nobody' } } },
        change(4, { fee: '1000000.00' }),
        change(14, { state: 'closed', note: null }),
      ],
    });
    expect(answer.status).toBe(422);
    expect(answer.headers.get('content-type')).toContain('application/problem+json');
    expect(mistakesIn(answer)).toEqual([
      '0 fee too-many-decimals',
      '0 code text-too-long',
      '0 state unknown-enum-value',
      '0 opened invalid-value',
      '0 seen invalid-value',
      '1 duplicate-row',
      '1 note type-mismatch',
      '1 sizes invalid-value',
      '2 invalid-value',
      '3 nothing-to-change',
      '4 id column-not-writable',
      '4 double_fee column-not-writable',
      '4 secret unknown-column',
      '4 fe unknown-column',
      '5 code pattern-mismatch',
      '5 note forbidden-character',
      '6 state missing-value',
      '6 code missing-value',
      '7 quay_id unknown-ref',
      '8 fee number-out-of-range',
      '9 state breaks-rule',
    ]);
  });

  it('that only the database sees come back at their change, in people’s words', async () => {
    const answer = await harbour.post('/changes', {
      changes: [
        { kind: 'add', table: 'quays', values: { name: 'North' } },
        { kind: 'add', table: 'quays', values: { name: 'Fine' } },
        { kind: 'change', table: 'berths', key: ['15'], values: { fee: '-1.00' } },
        { kind: 'change', table: 'berths', key: ['16'], values: { quay_id: 99 } },
        { kind: 'remove', table: 'berths', key: ['1'] },
        { kind: 'add', table: 'remarks', values: { id: 2, text: 'no' } },
        { kind: 'add', table: 'remarks', values: { id: 3, text: 'skip' } },
        { kind: 'add', table: 'stays', values: { berth_id: '2', boat: 'B', during: '[5,x' } },
      ],
    });
    expect(mistakesIn(answer)).toEqual([
      '0 name value-taken',
      '2 fee constraint-broken',
      '3 quay_id unknown-reference',
      '4 still-referenced',
      '5 refused-by-trigger',
      '6 skipped-by-trigger',
      '7 during value-refused',
    ]);
    const result = answer.body.errors.map(({ message }: any) => message);
    expect(result[0]).toBe('Two quays of one name.');
    expect(result[3]).toBe('Rows of Stays still reference this row.');
    expect(result[4]).toBe('Nobody says no here.');
    expect(JSON.stringify(answer.body)).not.toMatch(/select|insert into|violates|\[5,x/i);
    const { body } = await harbour.service.get("/api/tables/quays/rows?filter=name='Fine'");
    expect(body.rows).toEqual([]);
  });

  it('that show with all changes made name the change that made them', async () => {
    const answer = await harbour.post(berths, {
      changes: [change(16, { note: 'fine' }), change(15, { fee: '1000.00', quay_id: 2 })],
    });
    expect(mistakesIn(answer)).toEqual(['1 breaks-rule']);
    expect(answer.body.errors[0].message).toBe('South is cheap.');
    expect(answer.body.outcomes[0]).toEqual({ kind: 'held' });
  });

  it.each<[string, unknown, string]>([
    ['/tables/loose/changes', { changes: [{ kind: 'add', values: { text: 'x' } }] }, '0 no-key'],
    ['/tables/seen/changes', { changes: [{ kind: 'remove', key: ['1'] }] }, '0 no-key'],
    ['/changes', { changes: [{ kind: 'remove', table: 'bertsh', key: ['1'] }] }, '0 unknown-table'],
    [berths, { changes: [{ kind: 'remove', table: 'quays', key: ['1'] }] }, '0 unknown-table'],
    [berths, { changes: [] }, 'malformed-body'],
    [berths, { changes: [{ kind: 'drop', key: ['1'] }] }, '0 malformed-body'],
    [berths, { changes: [{ kind: 'remove', key: [] }] }, '0 malformed-body'],
    [berths, { changes: [{ kind: 'remove', key: ['1', '2'] }] }, '0 malformed-key'],
    [berths, '[1', 'malformed-body'],
    [berths, '{"changes":[],"changes":[]}', 'repeated-member'],
    [
      '/tables/stays/changes',
      { changes: [{ kind: 'set', filter: 'boat =', values: { boat: 'x' } }] },
      '0 unexpected-end',
    ],
  ])('to %s: %j is %s', async (path, body, error) => {
    const answer = await harbour.post(path, body);
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    expect(mistakesIn(answer)).toEqual([error]);
  });

  it('of more changes than a set may have are one error', async () => {
    const changes = Array.from({ length: 100_001 }, (_, id) => ({
      kind: 'remove',
      key: [String(id)],
    }));
    const answer = await harbour.post(berths, { changes });
    expect([answer.status, ...mistakesIn(answer)]).toEqual([413, 'too-many-changes']);
  });
});

describe('a request with an Idempotency-Key', () => {
  it('is saved once, and answered the same', async () => {
    const body = { changes: [{ kind: 'add', values: { code: 'ONCE' } }] };
    const headers = { 'Idempotency-Key': 'one' };
    const answers = await Promise.all([1, 2, 3, 4].map(() => harbour.post(berths, body, headers)));
    const later = await harbour.post(berths, body, headers);
    expect(
      new Set([...answers, later].map((one) => JSON.stringify([one.status, one.body]))).size,
    ).toBe(1);
    const { body: found } = await harbour.service.get("/api/tables/berths/rows?filter=code='ONCE'");
    expect(found.rows).toHaveLength(1);
    const other = await harbour.post(berths, { changes: [change(1, { fee: '5' })] }, headers);
    expect(mistakesIn(other)).toEqual(['key-of-another-set']);
    const numbers = [0, 1].map((last) =>
      harbour.post(
        berths,
        `{"changes":[{"kind":"change","key":["1"],"values":{"extras":900719925474099${2 + last}}}]}`,
        { 'Idempotency-Key': 'digits' },
      ),
    );
    const reported = (await Promise.all(numbers)).map(({ status }) => status).sort();
    expect(reported).toEqual([200, 422]);
    const empty = await harbour.post(berths, body, { 'Idempotency-Key': '""' });
    expect(mistakesIn(empty)).toEqual(['malformed-idempotency-key']);
  });

  it('is made where the first try was refused, and what was in its way is gone', async () => {
    const headers = { 'Idempotency-Key': 'two' };
    const body = { changes: [change(17, { fee: '1.00' }, { note: 'other' })] };
    expect((await harbour.post(berths, body, headers)).status).toBe(409);
    await harbour.sql(`update berths set note = 'other' where id = 17`);
    expect((await harbour.post(berths, body, headers)).status).toBe(200);
  });
});

describe('the history of a row', () => {
  it('shows what was changed, and a set is taken back by one of its own', async () => {
    const first = await harbour.post(berths, {
      changes: [change(18, { fee: '1.00', note: 'a' }), { kind: 'remove', key: ['17'] }],
    });
    const path = '/api/tables/berths/rows/18/history';
    const { body } = await harbour.service.get(path);
    expect(body.entries).toMatchObject([
      {
        set: first.body.id,
        who: null,
        kind: 'change',
        key: ['18'],
        columns: ['fee', 'note'],
        before: { fee: '18.00', note: 'note 18' },
        after: { fee: '1.00', note: 'a' },
        undone: false,
      },
    ]);
    const undone = await harbour.post(`/changes/${first.body.id}/undo`, {});
    expect(undone.status).toBe(200);
    // With its own number and what is hidden.
    expect(await row('berths', '17')).toMatchObject({ id: '17', code: 'B17' });
    expect(await row('berths', '18')).toMatchObject({ fee: '18.00', note: 'note 18' });
    const { body: after } = await harbour.service.get(path);
    expect(after.entries[0]).toMatchObject({ undoes: first.body.id });
    expect(after.entries[1]).toMatchObject({ undone: true });
    expect(mistakesIn(await harbour.post(`/changes/${first.body.id}/undo`, {}))).toEqual([
      'already-undone',
    ]);
    const again = await harbour.post(`/changes/${undone.body.id}/undo`, {});
    expect(again.status).toBe(200);
    expect(await row('berths', '18')).toMatchObject({ note: 'a' });
  });

  it('keeps an undo from taking what somebody else has written since', async () => {
    const { body } = await harbour.post(berths, { changes: [change(14, { note: 'first' })] });
    await harbour.sql(`update berths set note = 'second' where id = 14`);
    const undo = await harbour.post(`/changes/${body.id}/undo`, {});
    expect(undo.status).toBe(409);
    expect(undo.body.outcomes[0]).toMatchObject({ columns: ['note'], now: { note: 'second' } });
  });

  it('goes on page by page', async () => {
    for (const note of ['1', '2', '3'])
      await harbour.post(berths, { changes: [change(13, { note })] });
    const first = await harbour.service.get('/api/tables/berths/history?limit=2');
    expect(first.body.entries.map(({ after }: any) => after.note)).toEqual(['3', '2']);
    const next = await harbour.service.get(
      `/api/tables/berths/history?limit=1&after=${first.body.next}`,
    );
    expect(next.body.entries.map(({ after }: any) => after.note)).toEqual(['1']);
    expect((await harbour.service.get('/api/tables/berths/history?after=x')).status).toBe(400);
    expect((await harbour.service.get('/api/tables/berths/rows/x/history')).status).toBe(400);
    expect(mistakesIn(await harbour.post('/changes/unknown/undo', {}))).toEqual([
      'unknown-change-set',
    ]);
  });
});
