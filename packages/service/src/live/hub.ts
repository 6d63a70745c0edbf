import type { LiveChanges, LiveGrade } from '@ephoros/core/answer';
import type { CheckedQuery } from '@ephoros/core/check';
import type { ColumnDescription } from '@ephoros/core/schema';
import { compileHeldRows, tablesWithTriggers, type Statement } from '@ephoros/core/sql';
import type { Catalog } from '../catalog/index.ts';
import { valueEncoder } from '../encode/index.ts';
import { writtenTo } from '../positions/index.ts';
import type { Database } from '../run/index.ts';
import { Listening } from './listening.ts';
import type { Notice } from './notice.ts';

/** What is told to whoever watches. */
export interface Watcher {
  readonly grade: (grade: LiveGrade) => void;
  readonly changed: (changes: LiveChanges) => void;
  readonly written: () => void;
  /** Nothing more is told. */
  readonly end: () => void;
}

/** What the hub needs of an engine. */
export interface Surroundings {
  readonly database: Database;
  /** Where triggers are heard; undefined where there is a pool only. */
  readonly url: string | undefined;
  readonly mark: (written: Statement) => Promise<string | undefined>;
}

/** Those who watch the same question as the same callers see it: it is asked once for all of them. */
interface Group {
  readonly query: CheckedQuery;
  readonly catalog: Catalog;
  readonly place: string;
  readonly watchers: Set<Watcher>;
  grade: LiveGrade;
  mark: string | undefined;
}

type Deed = Notice['did'];

/** Ms within which what was said is told together. */
const together = 400;
/** Ms between two looks at the counters, and at which tables have triggers. */
const looks = 1_000;
/** Questions about what was written at the same time. */
const atOnce = 4;
/** Rows of one table that are told at once; more are "something was written". */
const mostKeys = 1_000;

/** Tells watchers what others write, of what each of them may see and asks for. */
export class LiveHub {
  private readonly around: Surroundings;
  private readonly listening: Listening | undefined;
  private readonly groups = new Map<string, Group>();
  /** By table, the rows that were written and not told yet; undefined where they are too many. */
  private readonly pending = new Map<string, Map<string, Deed> | undefined>();
  private timer: NodeJS.Timeout | undefined;
  private looking: NodeJS.Timeout | undefined;
  private triggers: ReadonlySet<string> = new Set();
  private closed = false;

  constructor(around: Surroundings) {
    this.around = around;
    this.listening =
      around.url === undefined
        ? undefined
        : new Listening(around.url, {
            notice: (notice) => this.note(notice),
            gap: () => this.tellWritten(this.groups.values()),
          });
  }

  /** How many watch. */
  get watching(): number {
    return [...this.groups.values()].reduce((sum, { watchers }) => sum + watchers.size, 0);
  }

  /** Watches a question as a caller sees it, until what is given is called. @throws Failure */
  async watch(query: CheckedQuery, catalog: Catalog, watcher: Watcher): Promise<() => void> {
    const { name } = query.table;
    const { schema, name: own } = catalog.locate(name);
    const key = groupKey(query, catalog);
    const group: Group = this.groups.get(key) ?? {
      ...{ query, catalog, watchers: new Set<Watcher>(), grade: 'counters', mark: undefined },
      place: `${schema}.${own}`,
    };
    this.groups.set(key, group);
    await this.listening?.begin();
    await this.look([group]);
    // Meanwhile the last one may have left, and another have come.
    const shared = this.groups.get(key) ?? group;
    this.groups.set(key, shared);
    shared.watchers.add(watcher);
    void this.listening?.begin();
    watcher.grade(shared.grade);
    this.lookLater();
    return () => {
      shared.watchers.delete(watcher);
      if (shared.watchers.size === 0 && this.groups.get(key) === shared) this.groups.delete(key);
      if (this.groups.size === 0) void this.rest();
    };
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const { watchers } of this.groups.values()) for (const one of watchers) one.end();
    this.groups.clear();
    await this.rest();
  }

  private async rest(): Promise<void> {
    clearTimeout(this.timer);
    clearTimeout(this.looking);
    this.timer = undefined;
    this.looking = undefined;
    this.pending.clear();
    await this.listening?.end();
  }

  private note({ table, did, keys }: Notice): void {
    if (this.groups.size === 0) return;
    const known = this.pending.has(table) ? this.pending.get(table) : new Map<string, Deed>();
    if (known !== undefined && keys !== undefined) {
      for (const one of keys)
        known.set(JSON.stringify(one), joined(known.get(JSON.stringify(one)), did));
    }
    const isTooMany = known === undefined || keys === undefined || known.size > mostKeys;
    this.pending.set(table, isTooMany ? undefined : known);
    this.timer ??= setTimeout(() => void this.tell(), together);
  }

  private async tell(): Promise<void> {
    const all = new Map(this.pending);
    this.pending.clear();
    this.timer = undefined;
    for (const [table, deeds] of all) {
      const groups = [...this.groups.values()].filter(({ place }) => place === table);
      if (deeds === undefined) this.tellWritten(groups);
      else await eachOf(groups, (group) => this.tellRows(group, deeds));
    }
  }

  private async tellRows(group: Group, deeds: ReadonlyMap<string, Deed>): Promise<void> {
    const { query, catalog, watchers } = group;
    const { table } = query;
    const columns = table.key.flatMap(
      (name) => table.columns.find((column) => column.name === name) ?? [],
    );
    if (columns.length === 0) {
      this.tellWritten([group]);
      return;
    }
    const keys = [...deeds.keys()].map((text) => JSON.parse(text) as readonly string[]);
    const { locate } = catalog;
    const asking = { table: table.name };
    try {
      const { database } = this.around;
      const [matching, visible] = await Promise.all([
        database.run(compileHeldRows(table, columns, keys, [], locate, query), asking),
        database.run(compileHeldRows(table, columns, keys, [], locate), asking),
      ]);
      const those = numbersIn(matching.rows);
      const seen = numbersIn(visible.rows);
      // Of rows that a caller may not see nothing is told, not even that they are gone.
      const isWhole = locate(table.name).only === undefined;
      const changes: { -readonly [Part in keyof LiveChanges]: string[][] } = {
        added: [],
        changed: [],
        removed: [],
      };
      const address = addressOf(columns);
      for (const [index, written] of keys.entries()) {
        const text = JSON.stringify(written);
        const key = address(written);
        const did = deeds.get(text);
        if (those.has(index)) changes[did === 'add' ? 'added' : 'changed'].push(key);
        // A new row that is none of the question never was.
        else if (did !== 'add' && (seen.has(index) || isWhole)) changes.removed.push(key);
      }
      if (Object.values(changes).every((part) => part.length === 0)) return;
      for (const watcher of watchers) watcher.changed(changes);
    } catch {
      // The question cannot be asked at the moment: whoever watches asks for themselves.
      this.tellWritten([group]);
    }
  }

  private tellWritten(groups: Iterable<Group>): void {
    for (const { watchers } of groups) for (const watcher of watchers) watcher.written();
  }

  private lookLater(): void {
    if (this.closed || this.looking !== undefined) return;
    this.looking = setTimeout(() => {
      this.looking = undefined;
      void this.look([...this.groups.values()]).then(() => {
        if (this.groups.size > 0) this.lookLater();
      });
    }, looks);
    this.looking.unref();
  }

  /** Which groups are told of keys, and whether anything was written to what the others read. */
  private async look(groups: readonly Group[]): Promise<void> {
    await this.readTriggers();
    for (const group of groups) {
      const isHeard = this.listening?.isOn === true && this.triggers.has(group.place);
      const grade = isHeard ? 'keys' : 'counters';
      if (grade !== group.grade) {
        group.grade = grade;
        for (const watcher of group.watchers) watcher.grade(grade);
      }
      if (grade === 'keys') continue;
      const written = writtenTo(group.query, group.catalog.locate);
      const mark = await this.around.mark(written).catch(() => undefined);
      const before = group.mark;
      group.mark = mark ?? before;
      if (before !== undefined && mark !== undefined && mark !== before) this.tellWritten([group]);
    }
  }

  private async readTriggers(): Promise<void> {
    if (this.listening === undefined) return;
    try {
      const { rows } = await this.around.database.run(tablesWithTriggers);
      this.triggers = new Set(rows.map(([place]) => place ?? ''));
    } catch {
      // As it was known last.
    }
  }
}

/** Does something with all, so many at once. */
async function eachOf<Item>(
  items: readonly Item[],
  work: (item: Item) => Promise<void>,
): Promise<void> {
  const left = items.values();
  const one = async (): Promise<void> => {
    for (const item of left) await work(item);
  };
  await Promise.all(Array.from({ length: atOnce }, one));
}

/** A key as answers and addresses have it, from PostgreSQL's text of its parts. */
function addressOf(columns: readonly ColumnDescription[]): (key: readonly string[]) => string[] {
  const encoders = columns.map(({ type }) =>
    // As a text these are words, and not the letters of an answer.
    type.kind === 'boolean' ? JSON.stringify : valueEncoder(type),
  );
  return (key) => key.map((text, at) => String(JSON.parse(encoders[at]?.(text) ?? '""')));
}

/** Rows by their numbers, from 0. */
function numbersIn(rows: readonly (readonly (string | null)[])[]): ReadonlySet<number> {
  return new Set(rows.map(([place]) => Number(place) - 1));
}

/** The same for questions that have the same rows, as the same callers see them. */
function groupKey(query: CheckedQuery, { locate }: Catalog): string {
  const { table } = query;
  const columns = table.columns.filter(({ name }) => table.key.includes(name));
  const { text, parameters } = compileHeldRows(table, columns, [], [], locate, query);
  return JSON.stringify([table.name, text, parameters, locate(table.name).only === undefined]);
}

/** What has become of a row to which two things were done. */
function joined(before: Deed | undefined, now: Deed): Deed {
  return before === 'add' && now === 'change' ? 'add' : now;
}
