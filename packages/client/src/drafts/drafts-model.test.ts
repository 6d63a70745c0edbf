import { printAnswer, type Row } from '@ephoros/core/answer';
import type { Change, ChangesAnswer } from '@ephoros/core/change';
import { plainColumn, type TableDescription } from '@ephoros/core/schema';
import fc from 'fast-check';
import { plainTable } from '../../../core/src/testing/tables.ts';
import { ServiceError } from '../service-error.ts';
import { Drafts, type RowDraft } from './index.ts';

/** Sequences that are played; `EPHOROS_ROUNDS` plays others. */
const rounds = Number(process.env.EPHOROS_ROUNDS ?? 2_000);

jest.setTimeout(60_000 + rounds * 100);

const writing = { add: true, change: true } as const;
const table: TableDescription = plainTable(
  'berths',
  [
    plainColumn('id', { kind: 'integer', bits: 32 }, { nullable: false }),
    plainColumn('a', { kind: 'text' }, { writing }),
    plainColumn('b', { kind: 'text' }, { writing }),
  ],
  { changes: { add: true, change: true, remove: true } },
);

type Rows = ReadonlyMap<string, Row>;

/** How a request fares: answered, or lost on its way there or back. */
type Fate = 'answered' | 'lost before' | 'lost behind' | 'refused';

/** A service that saves each request once, and knows the keys of those that it saved. */
class Service {
  rows: Rows = new Map(
    ['1', '2', '3'].map((id) => [id, { id: Number(id), a: `x${id}`, b: `y${id}` }]),
  );
  readonly answers = new Map<string, ChangesAnswer>();
  readonly withdrawn = new Set<string>();
  /** Values that were added, each of which is typed once, or stood in one row that was removed. */
  readonly added: unknown[] = [];
  private last = 100;

  save(key: string, changes: readonly Change[], isRefused: boolean): ChangesAnswer {
    const known = this.answers.get(key);
    if (known !== undefined) return known;
    if (this.withdrawn.has(key)) {
      const problems = [{ code: 'withdrawn-key', message: 'Withdrawn.' } as const];
      throw new ServiceError('refused', 'Withdrawn.', { status: 422, problems });
    }
    if (isRefused) {
      const problems = [{ code: 'value-refused', message: 'No.', change: 0 } as const];
      throw new ServiceError('refused', 'No.', { status: 422, problems });
    }
    const rows = new Map(this.rows);
    const outcomes = changes.map((change): ChangesAnswer['outcomes'][number] => {
      if (change.kind === 'set') throw new Error('no drafts make such a change');
      if (change.kind === 'add') {
        const id = (this.last += 1);
        const row = { id, a: null, b: null, ...(change.values as Row) };
        rows.set(String(id), row);
        return { kind: 'done', key: [String(id)], row };
      }
      const [id = ''] = change.key;
      const now = rows.get(id) ?? null;
      const columns = Object.entries(change.was ?? {}).flatMap(([name, value]) =>
        now?.[name] === value ? [] : [name],
      );
      if (now === null || columns.length > 0) return { kind: 'conflict', columns, now };
      const row = change.kind === 'remove' ? null : { ...now, ...(change.values as Row) };
      if (row === null) rows.delete(id);
      else rows.set(id, row);
      return { kind: 'done', key: [id], row };
    });
    if (outcomes.some(({ kind }) => kind === 'conflict')) {
      const held = outcomes.map((one) =>
        one.kind === 'conflict' ? one : { kind: 'held' as const },
      );
      throw new ServiceError('refused', 'changed', { status: 409, outcomes: held });
    }
    this.rows = rows;
    for (const change of changes) if (change.kind === 'add') this.added.push(change.values.a);
    const answer = { id: key, outcomes };
    this.answers.set(key, answer);
    return answer;
  }

  withdraw(key: string): ChangesAnswer | null {
    const saved = this.answers.get(key);
    if (saved !== undefined) return saved;
    this.withdrawn.add(key);
    return null;
  }

  /** Somebody else writes. */
  write(id: string, column: 'a' | 'b', value: string): void {
    const row = this.rows.get(id);
    if (row !== undefined) this.rows = new Map([...this.rows, [id, { ...row, [column]: value }]]);
  }
}

/** The storage of a browser, which all its pages share. */
class Storage {
  readonly texts = new Map<string, string>();
  readonly listeners = new Map<string, () => void>();
  isFull = false;

  of(page: string) {
    return {
      read: (): ReadonlyMap<string, string> => new Map(this.texts),
      write: (name: string, text: string | undefined): void => {
        if (text === undefined) this.texts.delete(name);
        else if (this.isFull) throw new Error('QuotaExceededError');
        else this.texts.set(name, text);
        for (const [other, listener] of this.listeners) if (other !== page) listener();
      },
      subscribe: (listener: () => void): (() => void) => {
        this.listeners.set(page, listener);
        return () => this.listeners.delete(page);
      },
    };
  }
}

interface Waiting {
  readonly settle: (fate: Fate) => void;
}

/** A page of the browser: its drafts, its timers, and its requests that are under way. */
class Page {
  drafts: Drafts;
  private close: () => void;
  readonly timers: (() => void)[] = [];
  readonly requests: Waiting[] = [];
  private readonly name: string;
  private readonly world: World;

  constructor(name: string, world: World) {
    this.name = name;
    this.world = world;
    [this.drafts, this.close] = this.load();
  }

  private load(): [Drafts, () => void] {
    const { world, name } = this;
    const drafts: Drafts = new Drafts({
      table,
      page: name,
      store: world.storage.of(name),
      newKey: () => `key ${(world.keys += 1)}`,
      later: (work) => {
        this.timers.push(work);
        return () => this.timers.splice(this.timers.indexOf(work) >>> 0, 1);
      },
      save: (changes, { idempotencyKey = '' }) => {
        // What is sent is what the cells show: nothing of it was discarded.
        for (const change of changes) world.holdWanted(drafts, change);
        return this.request((isRefused) => world.service.save(idempotencyKey, changes, isRefused));
      },
      withdraw: (key) => this.request(() => world.service.withdraw(key)),
    });
    return [drafts, drafts.open()];
  }

  private request<Answer>(work: (isRefused: boolean) => Answer): Promise<Answer> {
    return new Promise((resolve, reject) => {
      const lost = new ServiceError('unavailable', 'The connection broke.', { status: 503 });
      const settle = (fate: Fate): void => {
        if (fate === 'lost before') {
          reject(lost);
          return;
        }
        try {
          const answer = work(fate === 'refused');
          if (fate === 'lost behind') reject(lost);
          else resolve(answer);
        } catch (thrown) {
          if (fate === 'lost behind') reject(lost);
          else reject(thrown instanceof Error ? thrown : lost);
        }
      };
      this.requests.push({ settle });
    });
  }

  /** Loads the page again; its requests are lost to it, whether they arrive or not. */
  reload(): void {
    this.close();
    const { requests } = this;
    this.timers.length = 0;
    for (const { settle } of requests.splice(0)) if (this.world.arrives()) settle('lost behind');
    [this.drafts, this.close] = this.load();
  }
}

class World {
  readonly service = new Service();
  readonly storage = new Storage();
  keys = 0;
  typed = 0;
  private arrival = 0;
  readonly pages: readonly Page[] = [new Page('one', this), new Page('two', this)];
  readonly faults: string[] = [];
  /** What was typed into a cell last, as long as nothing else was done that decides it. */
  readonly wanted = new Map<string, unknown>();

  /** Every other lost request has arrived. */
  arrives(): boolean {
    this.arrival += 1;
    return this.arrival % 2 === 0;
  }

  holdWanted(drafts: Drafts, change: Change): void {
    if (change.kind === 'set') return;
    const { rows } = drafts.state();
    if (change.kind === 'add') {
      const isThere = rows.some(
        ({ kind, values }) => kind === 'added' && values.a === change.values.a,
      );
      if (!isThere)
        this.faults.push(`a new row was sent that was discarded: ${JSON.stringify(change)}`);
      return;
    }
    const draft = drafts.of(change.key[0] ?? '');
    if (change.kind === 'remove') {
      if (draft?.kind !== 'struck') this.faults.push('a removal was sent that was taken back');
      return;
    }
    for (const [name, value] of Object.entries(change.values)) {
      if (draft?.values[name] === value) continue;
      this.faults.push(
        `${name} = ${JSON.stringify(value)} was sent, and is not what the cell shows`,
      );
    }
  }

  async rest(): Promise<void> {
    for (let turn = 0; turn < 30; turn += 1) await Promise.resolve();
  }

  /** Everything arrives and is answered, until nothing is under way. */
  async settle(): Promise<void> {
    for (let turn = 0; turn < 60; turn += 1) {
      await this.rest();
      const waiting = this.pages.flatMap((page) => page.requests.splice(0));
      for (const { settle } of waiting) settle('answered');
      const timers = waiting.length > 0 ? [] : this.pages.flatMap((page) => page.timers.splice(0));
      for (const work of timers) work();
      await this.rest();
      if (waiting.length + timers.length > 0) continue;
      if (this.pages.every(({ requests, timers: own }) => requests.length + own.length === 0))
        return;
    }
    this.faults.push('requests never come to an end');
  }
}

type Step =
  | { readonly kind: 'type' | 'type back'; readonly row: number; readonly column: 'a' | 'b' }
  | { readonly kind: 'strike' | 'drop' | 'save row'; readonly row: number }
  | { readonly kind: 'add' | 'undo' | 'redo' | 'drop all' | 'save' | 'reload' | 'timer' }
  | { readonly kind: 'answer'; readonly fate: Fate }
  | { readonly kind: 'somebody else'; readonly row: number; readonly column: 'a' | 'b' }
  | { readonly kind: 'resolve'; readonly whose: 'mine' | 'theirs' }
  | { readonly kind: 'storage'; readonly isFull: boolean };

const row = fc.integer({ min: 0, max: 2 });
const column = fc.constantFrom('a' as const, 'b' as const);
const step: fc.Arbitrary<{ readonly page: number; readonly step: Step }> = fc.record({
  page: fc.integer({ min: 0, max: 1 }),
  step: fc.oneof<fc.MaybeWeightedArbitrary<Step>[]>(
    { weight: 6, arbitrary: fc.record({ kind: fc.constantFrom('type' as const), row, column }) },
    {
      weight: 3,
      arbitrary: fc.record({ kind: fc.constantFrom('type back' as const), row, column }),
    },
    {
      weight: 3,
      arbitrary: fc.record({
        kind: fc.constantFrom('strike' as const, 'drop' as const, 'save row' as const),
        row,
      }),
    },
    {
      weight: 6,
      arbitrary: fc.record({
        kind: fc.constantFrom(
          'add' as const,
          'undo' as const,
          'redo' as const,
          'drop all' as const,
          'save' as const,
          'save' as const,
          'reload' as const,
          'timer' as const,
        ),
      }),
    },
    {
      weight: 6,
      arbitrary: fc.record({
        kind: fc.constant('answer' as const),
        fate: fc.constantFrom<Fate[]>('answered', 'lost before', 'lost behind', 'refused'),
      }),
    },
    {
      weight: 1,
      arbitrary: fc.record({ kind: fc.constant('somebody else' as const), row, column }),
    },
    {
      weight: 1,
      arbitrary: fc.record({
        kind: fc.constant('resolve' as const),
        whose: fc.constantFrom('mine' as const, 'theirs' as const),
      }),
    },
    {
      weight: 1,
      arbitrary: fc.record({ kind: fc.constant('storage' as const), isFull: fc.boolean() }),
    },
  ),
});

/** The row as a page reads it: of what it shows the drafts are made. */
function readRow(world: World, index: number): Row | undefined {
  return world.service.rows.get(String(index + 1));
}

/** Steps after which a cell need not have what was typed into it last. */
const deciding: ReadonlySet<Step['kind']> = new Set([
  'strike',
  'drop',
  'drop all',
  'undo',
  'redo',
  'somebody else',
  'resolve',
  'storage',
]);

function play(world: World, at: number, one: Step): void {
  const page = world.pages[at];
  if (page === undefined) return;
  const { drafts } = page;
  if (deciding.has(one.kind)) world.wanted.clear();
  switch (one.kind) {
    case 'type':
    case 'type back': {
      const read = readRow(world, one.row);
      if (read === undefined) return;
      const value =
        one.kind === 'type' ? `v${(world.typed += 1)}` : drafts.of(read)?.observed[one.column];
      if (value === undefined) return;
      const isStruck = drafts.of(read)?.kind === 'struck';
      drafts.edit([{ row: read, column: one.column, value }]);
      // Nothing that is typed is lost.
      const shown = drafts.shown(read)[one.column];
      const isBack = one.kind === 'type back' && shown === read[one.column];
      const cell = `${one.row + 1}.${one.column}`;
      // Pages do not know of each other what the storage has no room for.
      const isApart = world.pages.some(({ drafts: other }) => other.state().storage === 'full');
      if (isBack || isApart) world.wanted.delete(cell);
      if (!isStruck && shown === value && !isApart) world.wanted.set(cell, value);
      if (!isStruck && shown !== value && !isBack) {
        world.faults.push(
          `typed ${JSON.stringify(value)}, the cell shows ${JSON.stringify(shown)}`,
        );
      }
      return;
    }
    case 'strike':
    case 'drop':
    case 'save row': {
      const read = readRow(world, one.row);
      if (read === undefined) return;
      if (one.kind === 'strike') drafts.strike([read]);
      else if (one.kind === 'save row') void drafts.save([read]);
      else {
        drafts.drop([read]);
        if (drafts.of(read) !== undefined) world.faults.push('a draft is there that was dropped');
      }
      return;
    }
    case 'add':
      drafts.add({ a: `n${(world.typed += 1)}` });
      return;
    case 'undo':
      drafts.undo();
      return;
    case 'redo':
      drafts.redo();
      return;
    case 'drop all': {
      const { rows, fromOtherPages } = drafts.state();
      drafts.drop();
      // What was typed in the other page is not dropped with it.
      const left = rows.length > fromOtherPages ? fromOtherPages : 0;
      if (drafts.state().rows.length !== left)
        world.faults.push('rows of the other page were dropped');
      return;
    }
    case 'save':
      void drafts.save();
      return;
    case 'reload': {
      const before = drafts.state();
      page.reload();
      const after = page.drafts.state();
      // What the storage has no room for goes with the page, as the page has stated.
      if (before.storage === 'full') world.wanted.clear();
      else {
        const [shown, now] = [before, after].map(({ rows }) =>
          JSON.stringify(rows.map(({ id, kind, values }) => [id, kind, values])),
        );
        if (shown !== now) world.faults.push(`a reload makes ${String(now)} of ${String(shown)}`);
      }
      return;
    }
    case 'timer':
      page.timers.shift()?.();
      return;
    case 'answer':
      page.requests.shift()?.settle(one.fate);
      return;
    case 'somebody else':
      world.service.write(String(one.row + 1), one.column, `o${(world.typed += 1)}`);
      return;
    case 'resolve': {
      const [id] = [...drafts.state().conflicts.keys()];
      if (id !== undefined) drafts.resolve(id, one.whose);
      return;
    }
    case 'storage':
      world.storage.isFull = one.isFull;
      return;
    default:
      throw new Error(`unknown step ${JSON.stringify(one satisfies never)}`);
  }
}

/** Holds rows against what was drafted of them when they were saved. */
function holdSaved(
  world: World,
  drafted: readonly RowDraft[],
  conflicts: ReadonlyMap<string, unknown>,
): void {
  for (const { id, kind, values } of drafted) {
    if (conflicts.has(id)) continue;
    const now = world.service.rows.get(id);
    if (kind === 'struck' && now !== undefined) world.faults.push(`row ${id} is still there`);
    if (kind !== 'changed') continue;
    for (const [name, value] of Object.entries(values)) {
      if (now !== undefined && now[name] !== value) {
        world.faults.push(
          `${id}.${name} showed ${printAnswer(value)} and is ${printAnswer(now[name])}`,
        );
      }
    }
  }
}

/** Plays steps, and has all be saved in the end; what went wrong. */
async function played(
  steps: readonly { readonly page: number; readonly step: Step }[],
): Promise<readonly string[]> {
  const world = new World();
  for (const { page, step: one } of steps) {
    play(world, page, one);
    await world.rest();
  }
  await world.settle();
  const [first, second] = world.pages;
  if (first === undefined || second === undefined) return [];
  // What a page shows is what is saved, conflicts decided in its favour.
  for (const page of [first, second]) {
    for (let turn = 0; turn < 6 && page.drafts.state().rows.length > 0; turn += 1) {
      const { conflicts, rows: drafted } = page.drafts.state();
      for (const [id, { now }] of conflicts) {
        page.drafts.resolve(id, now === null ? 'theirs' : 'mine');
        for (const name of ['a', 'b']) world.wanted.delete(`${id}.${name}`);
      }
      void page.drafts.save();
      await world.settle();
      if (page.drafts.state().rows.length === 0) holdSaved(world, drafted, conflicts);
    }
    if (page.drafts.state().rows.length > 0) world.faults.push('what is drafted cannot be saved');
  }
  for (const [cell, value] of world.wanted) {
    const [id = '', name = ''] = cell.split('.');
    const { rows } = world.service;
    const now = rows.get(id)?.[name];
    // A row that was removed while its removal was taken back is there again as a new one.
    const isAgain = !rows.has(id) && [...rows.values()].some((one) => one[name] === value);
    if (now !== value && !isAgain) {
      world.faults.push(`${cell} was to be ${printAnswer(value)} and is ${printAnswer(now)}`);
    }
  }
  const { added } = world.service;
  if (new Set(added).size !== added.length) {
    world.faults.push(`a new row was saved twice: ${JSON.stringify(added)}`);
  }
  return world.faults;
}

it('loses nothing that is typed, and sends nothing that is discarded, whatever happens', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 40 }), async (steps) => {
      expect(await played(steps)).toEqual([]);
    }),
    { numRuns: rounds },
  );
});

// Found by random sequences.
it.each<[string, readonly [page: number, step: Step][]]>([
  [
    'a new row that another page sends again while the storage is full is saved once',
    [
      [0, { kind: 'add' }],
      [0, { kind: 'save' }],
      [0, { kind: 'save' }],
      [0, { kind: 'storage', isFull: true }],
      [1, { kind: 'save' }],
      [0, { kind: 'answer', fate: 'answered' }],
    ],
  ],
  [
    'a new row that is refused here while another page sends it, with a full storage, is saved once',
    [
      [0, { kind: 'add' }],
      [0, { kind: 'save' }],
      [0, { kind: 'storage', isFull: true }],
      [1, { kind: 'timer' }],
      [0, { kind: 'answer', fate: 'refused' }],
    ],
  ],
  [
    'a new row that another page has begun to send is not sent once more',
    [
      [0, { kind: 'type', row: 0, column: 'a' }],
      [0, { kind: 'save' }],
      [0, { kind: 'add' }],
      [1, { kind: 'save' }],
      [0, { kind: 'save' }],
      [0, { kind: 'answer', fate: 'lost before' }],
    ],
  ],
  [
    'a page that has gone sends nothing again',
    [
      [0, { kind: 'add' }],
      [0, { kind: 'type', row: 2, column: 'a' }],
      [0, { kind: 'save' }],
      [0, { kind: 'reload' }],
      [0, { kind: 'type', row: 2, column: 'a' }],
      [1, { kind: 'save' }],
      [1, { kind: 'reload' }],
      [0, { kind: 'strike', row: 0 }],
    ],
  ],
  [
    'what is typed after an edit was discarded that was saved meanwhile is saved',
    [
      [0, { kind: 'type', row: 2, column: 'b' }],
      [0, { kind: 'save' }],
      [0, { kind: 'answer', fate: 'lost behind' }],
      [0, { kind: 'type back', row: 2, column: 'b' }],
      [0, { kind: 'type', row: 2, column: 'a' }],
      [0, { kind: 'type back', row: 2, column: 'b' }],
      [0, { kind: 'type', row: 0, column: 'a' }],
    ],
  ],
  [
    'two rows whose removal is dropped while it is sent are there again',
    [
      [0, { kind: 'strike', row: 0 }],
      [0, { kind: 'strike', row: 1 }],
      [0, { kind: 'save' }],
      [0, { kind: 'drop all' }],
    ],
  ],
])('%s', async (_name, steps) => {
  expect(await played(steps.map(([page, one]) => ({ page, step: one })))).toEqual([]);
});
