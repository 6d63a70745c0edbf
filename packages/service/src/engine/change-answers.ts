import type { Row } from '@ephoros/core/answer';
import type { HistoryAnswer } from '@ephoros/core/change';
import { readJson } from '@ephoros/core/expression';
import { problem, type Problem } from '@ephoros/core/problem';
import { parseKey, printKey, type ColumnType, type TableDescription } from '@ephoros/core/schema';
import { compileHeldRows } from '@ephoros/core/sql';
import {
  keyParts,
  neededBy,
  neededToUndo,
  saveSet,
  settled,
  undoing,
  unknownSet,
  withdrawSet,
  type GivenSet,
  type SavedAnswer,
  type SaveOptions,
} from '../changes/index.ts';
import type { Catalog } from '../catalog/index.ts';
import { valueEncoder } from '../encode/index.ts';
import { findTable, printListPlace, readListPlace, Refused } from '../query/index.ts';
import type { ChangeLog, HistoryLine, KeyBegun, LoggedEntry, LoggedSet } from '../records/index.ts';
import { GrantsUnknown } from './current-catalog.ts';
import type { Engine } from './engine.ts';
import { cacheTime, ownerOf } from './resolve-selections.ts';
import type { RequestContext } from './request-context.ts';

/** Lines of a history at once. */
const mostLines = 100;
/** Lines that are read at once where some of them are hidden from the caller. */
const linesInBatch = 500;

/** Changes by one request, and what is remembered of them. All throw Refused, RecordsError, Failure. */
export class ChangeAnswers {
  private readonly engine: Engine;
  private readonly context: RequestContext;

  constructor(engine: Engine, context: RequestContext) {
    this.engine = engine;
    this.context = context;
  }

  /** Saves a set, or tries it. */
  async save(given: GivenSet, options: SaveOptions): Promise<SavedAnswer> {
    const { engine, context } = this;
    const { signal } = context;
    const catalog = catalogFor(context, given);
    if (given.table !== undefined) findTable(catalog, given.table);
    const { writer, history } = engine;
    this.refuseNameless(options);
    if (!catalog.isWritableKnown) throw new GrantsUnknown();
    // Without a role that writes no description allows anything: that is the problem of each change.
    if (writer === undefined) throw new Refused(unwritable(given));
    const filters = given.changes.flatMap((one) => (one.kind === 'set' ? [one.filter] : []));
    const values = { filter: filters.join(' ') };
    context.tally.changes({
      tables: [...new Set(given.changes.map((one) => one.table ?? given.table ?? ''))],
      changes: given.changes.length,
      dryRun: options.dryRun,
    });
    const answer = await this.counted(given, options, {
      catalog,
      writer,
      log: engine.log,
      keep: history.keep,
      caller: ownerOf(context),
      signal,
      prepare: async () => {
        const storedSelections = await cacheTime({ values, problems: [] }, engine, context);
        return storedSelections === undefined ? {} : { storedSelections };
      },
    });
    engine.forget();
    return answer;
  }

  /** Takes a set back by one of its own: where what it left still stands. */
  async undo(id: string, options: SaveOptions): Promise<SavedAnswer> {
    const { engine, context } = this;
    const { writer, history } = engine;
    const { signal, catalog: visible } = context;
    const log = this.log();
    this.refuseNameless(options);
    if (writer === undefined) throw unknownSet();
    if (!visible.isWritableKnown) throw new GrantsUnknown();
    const set = await log.find(id);
    if (set === undefined || (await settled(set, { log, writer })) !== 'saved') throw unknownSet();
    const answer = await this.counted({ changes: [], text: '' }, options, {
      catalog: visible,
      writer,
      log,
      keep: history.keep,
      caller: ownerOf(context),
      signal,
      prepare: async () => {
        // A set that changed anything hidden from the caller is not there for them.
        const entries = await log.changesOf(id);
        if (!(await this.seesWhole(set, entries))) throw unknownSet();
        context.tally.changes({
          tables: [...new Set(entries.map(({ table }) => table))],
          changes: entries.length,
          dryRun: options.dryRun,
        });
        const other = await log.undoneBy(id);
        if (other !== undefined && (await settled(other, { log, writer })) === 'saved') {
          throw new Refused([problem('already-undone', {})]);
        }
        // By what the caller may change of each row, and not by what they see of it.
        const catalog = visible.changing?.(neededToUndo(entries, visible)) ?? visible;
        return { checked: await undoing(set, entries, log, catalog), catalog };
      },
      undoes: id,
    });
    engine.forget();
    return answer;
  }

  /** Has nothing be saved under a key; the answer in JSON where it was saved before, else null. */
  async withdraw(key: string): Promise<string | null> {
    const { engine, context } = this;
    const log = this.log();
    this.refuseNameless({ idempotencyKey: key, mode: 'all', dryRun: false });
    if (engine.writer === undefined) throw new Refused(unwritable({ changes: [], text: '' }));
    return withdrawSet(key, ownerOf(context), { log, writer: engine.writer });
  }

  /** What was changed of a table, or of a row of it, as far as the caller sees it. */
  async history(
    table: string,
    key: string | undefined,
    { limit = mostLines, after }: { readonly limit?: number; readonly after?: string | undefined },
  ): Promise<HistoryAnswer> {
    const { catalog } = this.context;
    const log = this.log();
    const { description } = findTable(catalog, table);
    const address = key === undefined ? undefined : printKey(parseKey(key) ?? [key]);
    if (address !== undefined) keyParts(address, description);
    const most = Math.min(limit, mostLines);
    const partly = catalog.partly?.get(table);
    const shown: [HistoryLine, HistoryAnswer['entries'][number]][] = [];
    let place = after === undefined ? undefined : readPlace(after);
    let size = most + 1;
    // Read on until the page is full: what is hidden leaves neither gaps nor a further page.
    while (shown.length <= most) {
      const read = await log.history(table, address, size, place);
      const lines = await this.visible(await this.saved(read), description);
      for (const line of lines) {
        const entry = entryOf(line, description, partly);
        if (entry !== undefined) shown.push([line, entry]);
      }
      if (read.length < size) break;
      place = read.at(-1);
      size = linesInBatch;
    }
    const page = shown.slice(0, most);
    const last = shown.length > most ? page.at(-1) : undefined;
    return {
      table,
      entries: page.map(([, entry]) => entry),
      next: last === undefined ? null : printPlace(last[0]),
    };
  }

  /**
   * Whether the caller sees all that a set changed. Of their own sets also what they added or removed
   * themselves: they saw it as they did.
   */
  private async seesWhole(
    { id, caller, at }: LoggedSet,
    entries: readonly LoggedEntry[],
  ): Promise<boolean> {
    const { catalog, access } = this.context;
    if (!catalog.restricted) return true;
    const isOwn = access?.caller !== undefined && caller === ownerOf(this.context);
    for (const table of new Set(entries.map((one) => one.table))) {
      const published = catalog.tables.get(table);
      if (published === undefined) return false;
      const { description } = published;
      const changed = entries.filter((one) => one.table === table && (!isOwn || one.rule !== null));
      const partly = catalog.partly?.get(table);
      const names = new Set(description.columns.map(({ name }) => name));
      const isShown = (name: string): boolean => names.has(name) && partly?.has(name) !== true;
      // A column that nobody sees is not hidden from the caller alone.
      const whole = catalog.whole(table)?.description.columns ?? [];
      const isHidden = (name: string): boolean =>
        !isShown(name) && whole.some((column) => column.name === name);
      if (changed.some(({ columns }) => columns.some(isHidden))) return false;
      if (!this.isRestricted(table)) continue;
      const keys = await Promise.all(
        changed.map(({ key }) => this.log().keyNow(table, key, { at, id })),
      );
      if ((await this.visibleRows(keys, description)).size < keys.length) return false;
    }
    return true;
  }

  /** Saves a set; what it takes and shows is counted as that of a question is. */
  private async counted(...set: Parameters<typeof saveSet>): Promise<SavedAnswer> {
    const { tally } = this.context;
    const began = performance.now();
    try {
      const answer = await saveSet(...set);
      tally.gave(answer.rows);
      return answer;
    } finally {
      tally.add('database', performance.now() - began);
    }
  }

  /** Without a name all callers would share the keys of their requests. */
  private refuseNameless({ idempotencyKey }: SaveOptions): void {
    const { access } = this.context;
    if (idempotencyKey === undefined || access === undefined) return;
    if (access.caller === undefined) throw new Refused([problem('no-caller', {})]);
  }

  private log(): ChangeLog {
    const { log } = this.engine;
    if (log === undefined) throw new Refused([problem('no-history', {})]);
    return log;
  }

  /** Without sets that were noted, but not saved. */
  private async saved(lines: readonly HistoryLine[]): Promise<readonly HistoryLine[]> {
    const { writer } = this.engine;
    const log = this.log();
    const states = new Map<string, boolean>();
    for (const { set, state, transaction } of lines) {
      if (states.has(set)) continue;
      const known =
        writer === undefined
          ? state
          : await settled({ id: set, state, transaction }, { log, writer });
      states.set(set, known === 'saved');
    }
    return lines.filter(({ set }) => states.get(set) === true);
  }

  /** Whether the caller sees some rows of a table only. */
  private isRestricted(table: string): boolean {
    return this.context.catalog.locate(table).only !== undefined;
  }

  /**
   * Where the caller sees some rows only: the changes of those rows, since they have their keys. What
   * was changed of another row that had the key before is hidden with that row.
   */
  private async visible(
    lines: readonly HistoryLine[],
    description: TableDescription,
  ): Promise<readonly HistoryLine[]> {
    const { name } = description;
    if (!this.isRestricted(name) || lines.length === 0) return lines;
    const keys = lines.map(({ key }) => key);
    const seenValues = await this.visibleRows(keys, description);
    const begun = await this.log().begun(name, [...seenValues]);
    return lines.filter((line) => seenValues.has(line.key) && isSince(line, begun.get(line.key)));
  }

  /** The keys among some that rows have which the caller sees. */
  private async visibleRows(
    keys: readonly string[],
    description: TableDescription,
  ): Promise<ReadonlySet<string>> {
    const { catalog, signal } = this.context;
    const columns = description.key.flatMap(
      (name) => description.columns.find((one) => one.name === name) ?? [],
    );
    const distinct = [...new Set(keys)];
    const parts = distinct.map((key) => keyParts(key, description));
    const statement = compileHeldRows(description, columns, parts, [], catalog.locate);
    const { rows } = await this.engine.database.run(statement, { signal, table: description.name });
    return new Set(rows.flatMap(([place]) => distinct[Number(place) - 1] ?? []));
  }
}

/** Whether a line is of the row that has its key now. */
function isSince({ at, set, place }: HistoryLine, begun: KeyBegun | undefined): boolean {
  if (begun === undefined || at > begun.at) return true;
  if (at < begun.at || set !== begun.set) return false;
  return place > begun.place || (place === begun.place && begun.isIncluded);
}

function unwritable({ changes, table }: GivenSet): readonly Problem[] {
  const why = 'The service has no role that may write: start it with --changes.';
  return changes.slice(0, 1).map((one, change) => ({
    ...problem('not-changeable', { table: one.table ?? table ?? '', why }),
    change,
  }));
}

/** Some values of an entry, as a JSON object, as answers have them. */
function answeredValues(
  text: string,
  notation: HistoryLine['notation'],
  names: readonly string[],
  columns: TableDescription['columns'],
): string {
  if (notation === 'answer') return chosenMembers(text, names);
  const texts = JSON.parse(text) as Readonly<Record<string, string | null>>;
  const members = names.flatMap((name) => {
    const value = texts[name];
    const type = columns.find((column) => column.name === name)?.type;
    if (value === undefined || type === undefined) return [];
    return [`${JSON.stringify(name)}:${value === null ? 'null' : answered(value, type)}`];
  });
  return `{${members.join(',')}}`;
}

/** A value as answers have it; the text itself where the column had another type then. */
function answered(text: string, type: ColumnType): string {
  try {
    const json = valueEncoder(type)(text);
    JSON.parse(json);
    return json;
  } catch {
    return JSON.stringify(text);
  }
}

/** Some members of a JSON object, each as it is written. */
function chosenMembers(text: string, names: readonly string[]): string {
  const node = readJson(text, 400);
  const members = node.kind === 'object' ? node.members : new Map<string, never>();
  const chosen = names.flatMap((name) => {
    const span = members.get(name)?.span;
    return span === undefined
      ? []
      : [`${JSON.stringify(name)}:${text.slice(span.start, span.end)}`];
  });
  return `{${chosen.join(',')}}`;
}

/** A line as the caller may see it; undefined where that is nothing. */
function entryOf(
  line: HistoryLine,
  { columns }: TableDescription,
  partly: ReadonlySet<string> = new Set(),
): HistoryAnswer['entries'][number] | undefined {
  // Of a column that is shown in some rows only nobody knows in which it was when it was changed.
  const shown = columns.map(({ name }) => name).filter((name) => !partly.has(name));
  const names = line.columns.filter((name) => shown.includes(name));
  if (names.length === 0) return undefined;
  const values = (text: string | null): HistoryAnswer['entries'][number]['before'] =>
    text === null ? null : (JSON.parse(answeredValues(text, line.notation, names, columns)) as Row);
  return {
    set: line.set,
    at: line.at.toISOString(),
    who: line.caller === '' ? null : line.caller,
    kind: line.kind,
    key: parseKey(line.key) ?? [line.key],
    keyBefore: line.keyBefore === null ? null : (parseKey(line.keyBefore) ?? [line.keyBefore]),
    rule: line.rule,
    columns: names,
    before: values(line.before),
    after: values(line.after),
    undoes: line.undoes,
    undone: line.undone,
  };
}

function printPlace({ at, set, place }: HistoryLine): string {
  return printListPlace([at.toISOString(), set, place]);
}

/** @throws Refused */
function readPlace(token: string): { at: Date; set: string; place: number } {
  return readListPlace(token, ([at, set, place]) => {
    const when = new Date(String(at));
    const sound = !Number.isNaN(when.getTime()) && typeof set === 'string';
    return sound && Number.isInteger(place) ? { at: when, set, place: Number(place) } : undefined;
  });
}

/** The tables as the changes of a set go by them. */
function catalogFor({ catalog }: RequestContext, given: GivenSet): Catalog {
  return catalog.changing?.(neededBy(given)) ?? catalog;
}
