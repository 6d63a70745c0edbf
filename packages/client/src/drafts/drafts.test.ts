import { plainColumn, type TableDescription } from '@ephoros/core/schema';
import type { Row } from '@ephoros/core/answer';
import { plainTable } from '../../../core/src/testing/tables.ts';
import { until } from '../../../core/src/testing/until.ts';
import { createLocalClient } from '../local/index.ts';
import { ServiceError } from '../service-error.ts';
import { remoteRows, type Change } from '../index.ts';
import { Drafts, draftedRows, type DraftsOptions } from './index.ts';

const writing = { add: true, change: true } as const;
const table: TableDescription = plainTable(
  'berths',
  [
    plainColumn('id', { kind: 'integer', bits: 32 }, { nullable: false }),
    plainColumn(
      'code',
      { kind: 'text', maxLength: 5 },
      { nullable: false, writing: { ...writing, required: true } },
    ),
    plainColumn('fee', { kind: 'numeric', precision: 8, scale: 2 }, { writing }),
    plainColumn('note', { kind: 'text' }, { writing }),
  ],
  {
    changes: {
      add: true,
      change: true,
      remove: true,
      rules: [{ rule: 'fee < 100 OR note IS NOT NULL', message: 'Dear berths say why.' }],
    },
  },
);

const rows: readonly Row[] = [1, 2, 3].map((id) => ({
  id,
  code: `B${id}`,
  fee: `${id}.00`,
  note: null,
}));
const [first, second, third] = rows as [Row, Row, Row];

/** What stores texts, as a browser does for all its pages. */
class Store {
  readonly texts = new Map<string, string>();
  private readonly listeners = new Set<() => void>();
  /** Texts that it has room for. */
  room = Infinity;
  read = (): ReadonlyMap<string, string> => this.texts;
  write = (name: string, text: string | undefined): void => {
    if (text === undefined) this.texts.delete(name);
    else if (this.texts.has(name) || this.texts.size < this.room) this.texts.set(name, text);
    else throw new Error('QuotaExceededError');
    for (const listener of this.listeners) listener();
  };
  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
}

interface Sent {
  readonly changes: readonly Change[];
  readonly key: string | undefined;
}

function drafting(
  answer: (sent: Sent, times: number) => object | Error = ({ changes }) => ({
    id: 's',
    outcomes: changes.map(() => ({ kind: 'done', key: ['1'], row: null })),
  }),
  more: Partial<DraftsOptions> = {},
) {
  const sent: Sent[] = [];
  const later: (() => void)[] = [];
  let keys = 0;
  const drafts = new Drafts({
    table,
    newKey: () => `key ${(keys += 1)}`,
    later: (work) => {
      later.push(work);
      return () => undefined;
    },
    save: async (changes, { idempotencyKey: key }) => {
      await Promise.resolve();
      sent.push({ changes, key });
      const given = answer({ changes, key }, sent.length);
      if (given instanceof Error) throw given;
      return given as never;
    },
    ...more,
  });
  return { drafts, sent, later, close: drafts.open() };
}

const away = new ServiceError('unavailable', 'The service is away.', { status: 503 });

describe('drafts', () => {
  it('lie over the rows, go back to nothing, and are done and undone step by step', () => {
    const { drafts } = drafting();
    drafts.edit([
      { row: first, column: 'fee', value: '9.00' },
      { row: second, column: 'note', value: 'new' },
    ]);
    drafts.edit([{ row: drafts.shown(first), column: 'note', value: 'a' }]);
    expect(drafts.shown(first)).toEqual({ ...first, fee: '9.00', note: 'a' });
    expect(drafts.shown(first)).toBe(drafts.shown(first));
    expect(drafts.state()).toMatchObject({ changes: 3, canUndo: true, canRedo: false });
    drafts.edit([{ row: first, column: 'fee', value: '1.00' }]);
    expect(drafts.of(first)?.values).toEqual({ note: 'a' });
    drafts.undo();
    drafts.undo();
    expect(drafts.shown(first)).toEqual({ ...first, fee: '9.00' });
    drafts.undo();
    expect(drafts.state()).toMatchObject({ changes: 0, canUndo: false, canRedo: true });
    expect(drafts.shown(second)).toBe(second);
    drafts.redo();
    expect(drafts.shown(second).note).toBe('new');
  });

  it('are new rows on top of all others, and struck rows that stay until that is saved', async () => {
    const { drafts } = drafting();
    const client = createLocalClient({ t: { rows: [...rows] } });
    const source = draftedRows(
      remoteRows({ query: {}, request: (query, signal) => client.rows('t', query, signal) }),
      drafts,
    );
    source.setVisibleRows(0, 10);
    await until(
      () => Promise.resolve(source.state().total),
      (total) => total === 3,
    );
    drafts.add({ code: 'N1' });
    drafts.add({ code: 'N2' });
    drafts.edit([{ row: first, column: 'note', value: 'x' }]);
    drafts.strike([second]);
    expect(source.state().total).toBe(5);
    expect([0, 1, 2, 3].map((position) => source.row(position))).toEqual([
      { code: 'N2' },
      { code: 'N1' },
      { ...first, note: 'x' },
      second,
    ]);
    const added = source.row(0);
    drafts.edit([{ row: added ?? '', column: 'fee', value: '5' }]);
    expect(source.row(0)).toEqual({ code: 'N2', fee: '5' });
    drafts.strike([second]);
    drafts.strike([source.row(1) ?? '']);
    expect(drafts.state().rows.map(({ kind }) => kind)).toEqual(['added', 'changed']);
  });

  it('are checked as they are made, by the whole row', () => {
    const { drafts } = drafting();
    drafts.edit([{ row: first, column: 'code', value: 'toolong' }]);
    drafts.edit([{ row: second, column: 'fee', value: '200.00' }]);
    drafts.add({ fee: 'x' });
    const reported = [...drafts.state().problems].map(([id, problems]) => [
      id,
      problems.map(({ code, column }) => `${column} ${code}`),
    ]);
    expect(reported).toEqual([
      ['new 1', ['fee invalid-value', 'code missing-value']],
      ['1', ['code text-too-long']],
      ['2', ['fee breaks-rule']],
    ]);
    drafts.edit([{ row: second, column: 'note', value: 'a view' }]);
    expect(drafts.state().problems.has('2')).toBe(false);
  });

  it('are sent with what was read, and not at all while something is wrong', async () => {
    const { drafts, sent } = drafting();
    drafts.edit([{ row: first, column: 'fee', value: 'x' }]);
    expect(await drafts.save()).toBe(false);
    expect(sent).toEqual([]);
    drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    drafts.strike([second]);
    drafts.add({ code: 'N' });
    expect(await drafts.save()).toBe(true);
    expect(sent).toEqual([
      {
        key: 'key 1',
        changes: [
          { kind: 'change', key: ['1'], was: { fee: '1.00' }, values: { fee: '7' } },
          { kind: 'remove', key: ['2'], was: second },
          { kind: 'add', values: { code: 'N' } },
        ],
      },
    ]);
    expect(drafts.state()).toMatchObject({ rows: [], changes: 0, status: 'ready', canUndo: false });
  });

  it('of some rows alone are saved where that is requested', async () => {
    const { drafts, sent } = drafting();
    drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    drafts.edit([{ row: second, column: 'fee', value: 'x' }]);
    expect(await drafts.save([first])).toBe(true);
    expect(sent[0]?.changes).toHaveLength(1);
    expect(drafts.state().rows.map(({ id }) => id)).toEqual(['2']);
  });

  it('that somebody else was quicker with are chosen from, cell by cell', async () => {
    const now = { ...first, fee: '5.00', note: 'theirs' };
    const conflict = new ServiceError('refused', 'changed', {
      status: 409,
      outcomes: [{ kind: 'conflict', columns: ['fee', 'note'], now }],
    });
    const { drafts, sent } = drafting((_sent, times) =>
      times === 1 ? conflict : { id: 's', outcomes: [{ kind: 'done', key: ['1'], row: now }] },
    );
    drafts.edit([
      { row: first, column: 'fee', value: '9.00' },
      { row: first, column: 'note', value: 'mine' },
    ]);
    expect(await drafts.save()).toBe(false);
    expect(drafts.state().conflicts.get('1')).toEqual({ columns: ['fee', 'note'], now });
    // Nothing is sent before that is settled.
    expect(await drafts.save()).toBe(false);
    expect(sent).toHaveLength(1);
    drafts.resolve('1', 'mine', 'fee');
    drafts.resolve('1', 'theirs', 'note');
    expect(drafts.state().conflicts.size).toBe(0);
    expect(await drafts.save()).toBe(true);
    expect(sent[1]?.changes).toEqual([
      { kind: 'change', key: ['1'], was: { fee: '5.00' }, values: { fee: '9.00' } },
    ]);
  });

  it('of a row that is gone can only be let go', async () => {
    const { drafts } = drafting(
      () =>
        new ServiceError('refused', 'gone', {
          status: 409,
          outcomes: [{ kind: 'conflict', columns: [], now: null }],
        }),
    );
    drafts.edit([{ row: first, column: 'fee', value: '9.00' }]);
    await drafts.save();
    drafts.resolve('1', 'theirs');
    expect(drafts.state().rows).toEqual([]);
  });

  it('that the database refuses have what it stated at their cells, until they are others', async () => {
    const problems = [
      { code: 'value-taken', message: 'Taken.', change: 1, column: 'code' } as const,
    ];
    const { drafts, sent } = drafting((_sent, times) =>
      times === 1
        ? new ServiceError('refused', 'Taken.', { status: 422, problems })
        : { id: 's', outcomes: [] },
    );
    drafts.edit([{ row: first, column: 'code', value: 'B9' }]);
    drafts.edit([{ row: third, column: 'code', value: 'B2' }]);
    expect(await drafts.save()).toBe(false);
    expect(drafts.state().problems.get('3')).toEqual(problems);
    expect(drafts.state().problems.has('1')).toBe(false);
    drafts.edit([{ row: third, column: 'code', value: 'B3x' }]);
    expect(drafts.state().problems.size).toBe(0);
    expect(await drafts.save()).toBe(true);
    expect(sent).toHaveLength(2);
  });

  it('are sent again under the same key while the service is away, and what is typed meanwhile stays', async () => {
    const saved = { ...first, fee: '7.00' };
    const { drafts, sent, later } = drafting((_sent, times) =>
      times < 3 ? away : { id: 's', outcomes: [{ kind: 'done', key: ['1'], row: saved }] },
    );
    drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    expect(await drafts.save()).toBe(false);
    expect(drafts.state()).toMatchObject({ status: 'waiting', error: away });
    drafts.edit([{ row: first, column: 'note', value: 'meanwhile' }]);
    later[0]?.();
    await until(
      () => Promise.resolve(sent.length),
      (count) => count === 2,
    );
    later[1]?.();
    await until(
      () => Promise.resolve(drafts.state().status),
      (status) => status === 'ready',
    );
    expect(sent.map(({ key }) => key)).toEqual(['key 1', 'key 1', 'key 1']);
    expect(drafts.shown(saved)).toEqual({ ...saved, note: 'meanwhile' });
    expect(await drafts.save()).toBe(true);
    expect(sent[3]).toEqual({
      key: 'key 2',
      changes: [{ kind: 'change', key: ['1'], was: { note: null }, values: { note: 'meanwhile' } }],
    });
  });

  it('survive the page, with what was on its way', async () => {
    const store = new Store();
    const before = drafting(() => away, { store });
    before.drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    before.drafts.add({ code: 'N' });
    await before.drafts.save();
    before.close();
    const after = drafting(undefined, { store });
    expect(after.drafts.state()).toMatchObject({ status: 'waiting', changes: 2 });
    after.later[0]?.();
    await until(
      () => Promise.resolve(after.drafts.state().changes),
      (changes) => changes === 0,
    );
    expect(after.sent).toEqual(before.sent);
    expect(store.texts.size).toBe(0);
    store.texts.set('row 1', '{"version":1,"state":{"kind":"draft"}}');
    store.texts.set('row 2', 'no JSON');
    expect(drafting(undefined, { store }).drafts.state().rows).toEqual([]);
  });

  it('of one page are those of another page of the same table', () => {
    const store = new Store();
    const [one, other] = [drafting(undefined, { store }), drafting(undefined, { store })];
    one.drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    expect(other.drafts.shown(first).fee).toBe('7');
    other.drafts.drop();
    expect(one.drafts.state().changes).toBe(0);
  });
});

/** A save that is answered when the test says so. */
function gated() {
  const waiting: ((answer: object | Error) => void)[] = [];
  const save = (): Promise<never> =>
    new Promise((resolve, reject) =>
      waiting.push((answer) => {
        if (answer instanceof Error) reject(answer);
        else resolve(answer as never);
      }),
    );
  return { save, waiting };
}

const done = (...saved: readonly (Row | null)[]): object => ({
  id: 's',
  outcomes: saved.map((row) => ({ kind: 'done', key: ['1'], row })),
});

describe('drafts that are discarded', () => {
  it.each<[string, (drafts: Drafts) => void]>([
    ['dropped', (drafts) => drafts.drop()],
    ['undone', (drafts) => drafts.undo()],
    ['typed back', (drafts) => drafts.edit([{ row: first, column: 'fee', value: '1.00' }])],
  ])('while the service is unavailable are never sent: %s', async (_how, discard) => {
    const withdrawn: string[] = [];
    const { drafts, sent, later } = drafting(() => away, {
      withdraw: (key) => {
        withdrawn.push(key);
        return Promise.resolve(null);
      },
    });
    drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    expect(await drafts.save()).toBe(false);
    discard(drafts);
    expect(drafts.state().changes).toBe(0);
    later.at(-1)?.();
    await until(
      () => Promise.resolve(drafts.state().status),
      (status) => status === 'ready',
    );
    expect([sent.length, withdrawn]).toEqual([1, ['key 1']]);
    expect(drafts.shown(first)).toBe(first);
  });

  it('leave the others of the same request to be sent, as another one', async () => {
    const { drafts, sent, later } = drafting((_sent, times) => (times === 1 ? away : done(null)), {
      withdraw: () => Promise.resolve(null),
    });
    drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    drafts.edit([{ row: second, column: 'fee', value: '8' }]);
    await drafts.save();
    drafts.drop([first]);
    later.at(-1)?.();
    await until(
      () => Promise.resolve(sent.length),
      (count) => count === 2,
    );
    expect(sent[1]).toMatchObject({ key: 'key 2', changes: [{ key: ['2'] }] });
  });

  it('are drafts of the old value where they were saved all the same', async () => {
    const saved = { ...first, fee: '7.00' };
    const { drafts, later } = drafting(() => away, {
      withdraw: () => Promise.resolve(done(saved) as never),
    });
    drafts.edit([{ row: first, column: 'fee', value: '7' }]);
    await drafts.save();
    drafts.drop();
    later.at(-1)?.();
    await until(
      () => Promise.resolve(drafts.shown(saved).fee),
      (fee) => fee === '1.00',
    );
    expect(drafts.changes()).toEqual([
      { kind: 'change', key: ['1'], was: { fee: '7.00' }, values: { fee: '1.00' } },
    ]);
  });
});

describe('drafts that are edited while they are sent', () => {
  it('are what was typed last, also where that is the old value', async () => {
    const { save, waiting } = gated();
    const { drafts } = drafting(undefined, { save });
    drafts.edit([{ row: first, column: 'note', value: 'SLOW' }]);
    const saving = drafts.save();
    await until(
      () => Promise.resolve(waiting.length),
      (count) => count === 1,
    );
    drafts.edit([{ row: first, column: 'note', value: null }]);
    const saved = { ...first, note: 'SLOW' };
    waiting[0]?.(done(saved));
    await saving;
    expect(drafts.shown(saved).note).toBeNull();
    expect(drafts.changes()).toEqual([
      { kind: 'change', key: ['1'], was: { note: 'SLOW' }, values: { note: null } },
    ]);
  });

  it('of a new row that was dropped are a row that is struck', async () => {
    const { save, waiting } = gated();
    const { drafts } = drafting(undefined, { save });
    const id = drafts.add({ code: 'N' });
    const saving = drafts.save();
    await until(
      () => Promise.resolve(waiting.length),
      (count) => count === 1,
    );
    drafts.drop([id]);
    waiting[0]?.(done({ ...first, code: 'N' }));
    await saving;
    expect(drafts.state().rows).toMatchObject([{ id: '1', kind: 'struck' }]);
  });
});

describe('two pages', () => {
  it('leave each other’s rows, steps and requests alone', async () => {
    const store = new Store();
    const { save, waiting } = gated();
    const one = drafting(undefined, { store, save, page: 'one' });
    const other = drafting(undefined, { store, page: 'other' });
    one.drafts.edit([{ row: first, column: 'note', value: 'one' }]);
    const saving = one.drafts.save();
    await until(
      () => Promise.resolve(waiting.length),
      (count) => count === 1,
    );
    other.drafts.edit([{ row: second, column: 'note', value: 'other' }]);
    waiting[0]?.(done({ ...first, note: 'one' }));
    await saving;
    expect(one.drafts.shown(second).note).toBe('other');
    expect(other.drafts.shown(second).note).toBe('other');
    expect([...store.texts.keys()]).toEqual(['row 2']);
    one.drafts.edit([{ row: third, column: 'note', value: 'again' }]);
    other.drafts.edit([{ row: second, column: 'fee', value: '8' }]);
    expect(one.drafts.state()).toMatchObject({ canUndo: true, fromOtherPages: 1 });
    // What the other page typed stays.
    one.drafts.drop();
    expect(one.drafts.state().rows.map(({ id }) => id)).toEqual(['2']);
    one.drafts.undo();
    expect(one.drafts.shown(third).note).toBe('again');
  });

  it('says why a request was refused where the service withdraws nothing', async () => {
    const reason = new ServiceError('refused', 'No.', {
      status: 422,
      problems: [{ code: 'value-refused', message: 'No.', change: 0 }],
    });
    const { drafts } = drafting(() => reason, {
      store: new Store(),
      withdraw: () => Promise.reject(new ServiceError('refused', 'No history.', { status: 404 })),
    });
    drafts.edit([{ row: first, column: 'fee', value: '7.00' }]);
    expect(await drafts.save()).toBe(false);
    const { problems } = drafts.state();
    expect(problems.get('1')?.map(({ message }) => message)).toEqual(['No.']);
  });

  it('send a new row once where one has the answer and the other sends it again', async () => {
    const store = new Store();
    const no = new ServiceError('refused', 'No.', {
      status: 422,
      problems: [{ code: 'value-refused', message: 'No.', change: 0 }],
    });
    const gate = gated();
    const withdrawn: string[] = [];
    const withdraw = (key: string): Promise<null> => {
      withdrawn.push(key);
      return Promise.resolve(null);
    };
    const one = drafting(undefined, { store, page: 'one', save: gate.save, withdraw });
    const other = drafting(() => no, { store, page: 'other', withdraw });
    one.drafts.add({ code: 'N' });
    const saving = one.drafts.save();
    await until(
      () => Promise.resolve(gate.waiting.length),
      (count) => count === 1,
    );
    // The same request under the same key: it is withdrawn once it is refused.
    expect(await other.drafts.save()).toBe(false);
    expect(withdrawn).toEqual(['key 1']);
    gate.waiting[0]?.(no);
    await saving;
    expect(one.drafts.state().rows).toHaveLength(1);
  });

  it('know that an older draft does not come back where the store is full', () => {
    const store = new Store();
    const before = drafting(undefined, { store, page: 'one' });
    before.drafts.edit([{ row: first, column: 'note', value: 'old' }]);
    store.write = (name, text) => {
      if (text !== undefined) throw new Error('QuotaExceededError');
      store.texts.delete(name);
    };
    before.drafts.edit([{ row: first, column: 'note', value: 'new' }]);
    expect(before.drafts.state().storage).toBe('full');
    expect(before.drafts.shown(first).note).toBe('new');
    expect(drafting(undefined, { store }).drafts.state().rows).toEqual([]);
  });
});

describe('local data', () => {
  it('takes change sets as a service does', async () => {
    const client = createLocalClient({
      t: { rows: [...rows], changes: { add: true, change: true, remove: true } },
    });
    const { outcomes } = await client.changes.save(
      [
        { kind: 'add', values: { code: 'N' } },
        { kind: 'change', key: ['1'], was: { code: 'B1' }, values: { code: 'C1' } },
        { kind: 'remove', key: ['2'] },
      ],
      { table: 't' },
    );
    expect(outcomes[0]).toMatchObject({ key: ['4'], row: { id: 4, code: 'N', fee: null } });
    expect((await client.rows('t')).rows.map(({ code }) => code)).toEqual(['C1', 'B3', 'N']);
    await expect(
      client.changes.save(
        [{ kind: 'change', key: ['1'], was: { code: 'B1' }, values: { code: 'x' } }],
        { table: 't' },
      ),
    ).rejects.toMatchObject({ status: 409, outcomes: [{ kind: 'conflict', columns: ['code'] }] });
    await expect(
      client.changes.save([{ kind: 'add', values: { id: 1, code: 'N' } }], { table: 't' }),
    ).rejects.toMatchObject({ status: 422, problems: [{ code: 'value-taken', change: 0 }] });
    const fixed = createLocalClient({ t: { rows: [...rows] } });
    await expect(
      fixed.changes.save([{ kind: 'remove', key: ['1'] }], { table: 't' }),
    ).rejects.toMatchObject({
      problems: [{ code: 'not-changeable' }],
    });
  });
});
