import type { LiveChanges, LiveGrade } from '@ephoros/core/answer';
import type { CheckedQuery } from '@ephoros/core/check';
import type { ColumnDescription } from '@ephoros/core/schema';
import { tablesInLog, tablesWithTriggers, type Statement } from '@ephoros/core/sql';
import type { Catalog } from '../catalog/index.ts';
import { writtenMeanwhile, writtenTo } from '../positions/index.ts';
import type { Database } from '../run/index.ts';
import { following, type Logged, type LoggedRow } from './following.ts';
import { HeldOpen } from './held-open.ts';
import { listening } from './listening.ts';
import type { Notice } from './notice.ts';
import { Pending, type RowEvents } from './pending.ts';
import { compileMatchTest, changesFor, keyOf, type Seen } from './notifications.ts';

/** What a watcher is notified of. */
export interface Watcher {
  readonly grade: (grade: LiveGrade) => void;
  readonly changed: (changes: LiveChanges) => void;
  readonly written: () => void;
  /** Nothing more is reported. */
  readonly end: () => void;
}

/** What the hub needs of an engine. */
export interface Surroundings {
  readonly database: Database;
  /** Where triggers are heard, and the log is followed; undefined where there is a pool only. */
  readonly url: string | undefined;
  readonly mark: (written: Statement) => Promise<string | undefined>;
}

/** Those who watch the same question as the same callers see it: it is sent once for all of them. */
interface Group extends Seen {
  readonly place: string;
  readonly key: readonly ColumnDescription[];
  readonly watchers: Set<Watcher>;
  /** What says whether anything was written to its tables, and to those next to its own; undefined where there are none. */
  readonly written: Statement;
  readonly visibleQuery: Statement | undefined;
  grade: LiveGrade;
  mark: string | undefined;
}

/** A source that reports written rows: a connection, and the tables that it reports. */
interface Source {
  readonly grade: LiveGrade;
  readonly connection: HeldOpen;
  /** Which tables there are, as the database says it. */
  readonly wanted: Statement;
  tables: ReadonlySet<string>;
}

/** Ms within which what was stated is reported together. */
const together = 400;
/** Ms between two looks at the counters, and at which tables the sources tell of. */
const looks = 1_000;
/** Questions about what was written at the same time. */
const atOnce = 4;

/** Notifies watchers of what others write: of each what it may see and asks for. */
export class LiveHub {
  private readonly around: Surroundings;
  /** The best first. */
  private readonly sources: readonly Source[];
  private readonly groups = new Map<string, Group>();
  /** The groups by the place of their table. */
  private readonly places = new Map<string, readonly Group[]>();
  private readonly pending = new Pending();
  private timer: NodeJS.Timeout | undefined;
  private scan: NodeJS.Timeout | undefined;
  private closed = false;

  constructor(around: Surroundings) {
    this.around = around;
    this.sources = around.url === undefined ? [] : this.sourcesAt(around.url);
  }

  /** How many watch. */
  get watching(): number {
    return [...this.groups.values()].reduce((sum, { watchers }) => sum + watchers.size, 0);
  }

  /** Watches a question as a caller sees it, until what is given is called. @throws Failure */
  async watch(query: CheckedQuery, catalog: Catalog, watcher: Watcher): Promise<() => void> {
    const { schema, name } = catalog.locate(query.table.name);
    const key = groupKey({ query, catalog });
    const group: Group = this.groups.get(key) ?? {
      ...{ query, catalog, watchers: new Set<Watcher>(), grade: 'counters', mark: undefined },
      place: `${schema}.${name}`,
      key: keyOf({ query, catalog }),
      written: writtenTo(query, catalog.locate),
      visibleQuery: writtenMeanwhile(query, catalog.locate),
    };
    this.groups.set(key, group);
    this.arrange();
    await this.check([group]);
    // Meanwhile the last one may have left, and another have come.
    const shared = this.groups.get(key) ?? group;
    this.groups.set(key, shared);
    this.arrange();
    shared.watchers.add(watcher);
    watcher.grade(shared.grade);
    this.checkLater();
    return () => {
      shared.watchers.delete(watcher);
      if (shared.watchers.size === 0 && this.groups.get(key) === shared) this.groups.delete(key);
      this.arrange();
      if (this.groups.size === 0) void this.rest();
    };
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const { watchers } of this.groups.values()) for (const one of watchers) one.end();
    this.groups.clear();
    this.arrange();
    await this.rest();
  }

  private sourcesAt(url: string): readonly Source[] {
    const gap = (): void => this.notifyWritten(this.groups.values());
    const log: Source = {
      grade: 'log',
      connection: new HeldOpen(
        following(url, (logged) => this.noteLogged(logged)),
        gap,
      ),
      wanted: tablesInLog,
      tables: new Set(),
    };
    const triggers: Source = {
      grade: 'triggers',
      connection: new HeldOpen(
        // What the log reports as well is reported from there: it knows how a row was before.
        listening(url, (notice) => {
          if (!notifies(log, notice.table)) this.noteTrigger(notice);
        }),
        gap,
      ),
      wanted: tablesWithTriggers,
      tables: new Set(),
    };
    return [log, triggers];
  }

  private async rest(): Promise<void> {
    clearTimeout(this.timer);
    clearTimeout(this.scan);
    this.timer = undefined;
    this.scan = undefined;
    this.pending.take();
    await Promise.all(this.sources.map(({ connection }) => connection.end()));
  }

  private noteTrigger({ table, did, keys }: Notice): void {
    if (!this.places.has(table)) return;
    if (keys === undefined) this.pending.addAny(table);
    for (const key of keys ?? []) this.pending.add(table, key, did);
    this.notifyLater();
  }

  private noteLogged(logged: Logged): void {
    const { table, did, now, before, whole } = logged;
    // Callers who do not see the key are not notified of single rows.
    const group = this.places.get(table)?.find((one) => one.key.length > 0);
    if (group === undefined) return;
    const key = now && keyIn(group.key, now);
    const past = before && keyIn(group.key, before);
    const isMoved =
      key !== undefined && past !== undefined && JSON.stringify(key) !== JSON.stringify(past);
    if (did === 'empty' || (key ?? past) === undefined || (now && !key)) this.pending.addAny(table);
    else {
      if (past !== undefined && (key === undefined || isMoved)) {
        this.pending.add(table, past, 'remove', { before: whole });
      }
      if (key !== undefined) {
        if (isMoved) this.pending.add(table, key, 'add');
        else this.pending.add(table, key, did, { before: whole, columns: changedColumns(logged) });
      }
    }
    this.notifyLater();
  }

  private notifyLater(): void {
    this.timer ??= setTimeout(() => void this.notify(), together);
  }

  private async notify(): Promise<void> {
    this.timer = undefined;
    for (const [table, actions] of this.pending.take()) {
      const groups = this.places.get(table) ?? [];
      // Of many rows at once nobody knows whether a caller with rules sees one of them.
      if (actions === undefined)
        this.notifyWritten(groups.filter(({ catalog }) => !catalog.restricted));
      else {
        const reported = groups.filter(({ key }) => key.length > 0);
        await eachOf(reported, (group) => this.notifyRows(group, actions));
      }
    }
  }

  private async notifyRows(group: Group, actions: RowEvents): Promise<void> {
    try {
      const changes = await changesFor(group, actions, this.around.database);
      if (changes !== undefined) for (const watcher of group.watchers) watcher.changed(changes);
    } catch {
      // The question cannot be answered at the moment: anyone who watches asks for themselves.
      this.notifyWritten([group]);
    }
  }

  private notifyWritten(groups: Iterable<Group>): void {
    for (const { watchers } of groups) for (const watcher of watchers) watcher.written();
  }

  private arrange(): void {
    this.places.clear();
    for (const group of this.groups.values()) {
      this.places.set(group.place, [...(this.places.get(group.place) ?? []), group]);
    }
  }

  private checkLater(): void {
    if (this.closed || this.scan !== undefined) return;
    this.scan = setTimeout(() => {
      this.scan = undefined;
      void this.check([...this.groups.values()]).then(() => {
        if (this.groups.size > 0) this.checkLater();
      });
    }, looks);
    this.scan.unref();
  }

  /** Which groups are notified of rows, and whether anything was written to what the others read. */
  private async check(groups: readonly Group[]): Promise<void> {
    await Promise.all(this.sources.map((source) => this.readSource(source)));
    for (const group of groups) {
      const source = group.key.length > 0 && this.sources.find((one) => notifies(one, group.place));
      const grade = source ? source.grade : 'counters';
      if (grade !== group.grade) {
        group.grade = grade;
        group.mark = undefined;
        for (const watcher of group.watchers) watcher.grade(grade);
        // Between two ways something may have been reported by neither.
        this.notifyWritten([group]);
      }
      // The counters count what is hidden from a caller with rules as well.
      if (group.catalog.restricted) continue;
      // Rows of related tables are not reported by their keys.
      const written = grade === 'counters' ? group.written : group.visibleQuery;
      if (written === undefined) continue;
      const mark = await this.around.mark(written).catch(() => undefined);
      const before = group.mark;
      group.mark = mark ?? before;
      if (before !== undefined && mark !== undefined && mark !== before)
        this.notifyWritten([group]);
    }
  }

  /** Which tables a source reports; connects to it where there are any. */
  private async readSource(source: Source): Promise<void> {
    try {
      const { rows } = await this.around.database.run(source.wanted);
      source.tables = new Set(rows.map(([place]) => place ?? ''));
    } catch {
      // As it was known last.
    }
    if (this.groups.size === 0 || this.closed) return;
    if (source.tables.size > 0) await source.connection.begin();
    else await source.connection.end();
  }
}

function notifies({ connection, tables }: Source, place: string): boolean {
  return connection.isOn && tables.has(place);
}

/** The columns that a change gave other values; undefined where the log does not have the row as it was. */
function changedColumns({ now, before, whole }: Logged): ReadonlySet<string> | undefined {
  if (whole === undefined || now === undefined || before === undefined) return undefined;
  // What was not written again does not stand in the log.
  const names = Object.keys(now).filter((name) => now[name] !== undefined);
  return new Set(names.filter((name) => now[name] !== before[name]));
}

/** The parts of a key in a row of the log; undefined where one of them is not in it. */
function keyIn(key: readonly ColumnDescription[], row: LoggedRow): readonly string[] | undefined {
  const parts = key.flatMap(({ name }) => row[name] ?? []);
  return parts.length === key.length ? parts : undefined;
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

/** The same for questions that have the same rows, as the same callers see them. */
function groupKey(request: Seen): string {
  const { name } = request.query.table;
  const { text, parameters } = compileMatchTest(request, [], 'of the question');
  return JSON.stringify([name, text, parameters, request.catalog.locate(name).only === undefined]);
}
