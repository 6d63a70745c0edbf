import type { Row } from '@ephoros/core/answer';
import type { HistoryAnswer } from '@ephoros/core/change';
import { readJson } from '@ephoros/core/expression';
import { problem, type Problem } from '@ephoros/core/problem';
import { parseKey, printKey, type ColumnType, type TableDescription } from '@ephoros/core/schema';
import { compileHeldRows } from '@ephoros/core/sql';
import {
  keyParts,
  neededBy,
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
import { findTable, printListPlace, readListPlace, Refused } from '../question/index.ts';
import type { ChangeLog, HistoryLine } from '../records/index.ts';
import { GrantsUnknown } from './current-catalog.ts';
import type { Engine } from './engine.ts';
import { keptFor, ownerOf } from './kept.ts';
import type { RequestContext } from './request-context.ts';

/** Lines of a history at once. */
const mostLines = 100;

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
    // Without a role that writes no description allows anything: that is told of each change.
    if (writer === undefined) throw new Refused(unwritable(given));
    const filters = given.changes.flatMap((one) => (one.kind === 'set' ? [one.filter] : []));
    const values = { filter: filters.join(' ') };
    const answer = await saveSet(given, options, {
      catalog,
      writer,
      log: engine.log,
      keep: history.keep,
      caller: ownerOf(context),
      signal,
      prepare: async () => {
        const kept = await keptFor({ values, problems: [] }, engine, context);
        return kept === undefined ? {} : { kept };
      },
    });
    engine.forget();
    return answer;
  }

  /** Takes a set back by one of its own: where what it left still stands. */
  async undo(id: string, options: SaveOptions): Promise<SavedAnswer> {
    const { engine, context } = this;
    const { writer, history } = engine;
    const { signal, catalog: seen } = context;
    const log = this.log();
    this.refuseNameless(options);
    if (writer === undefined) throw unknownSet();
    if (!seen.isWritableKnown) throw new GrantsUnknown();
    const set = await log.find(id);
    if (set === undefined || (await settled(set, { log, writer })) !== 'saved') throw unknownSet();
    const answer = await saveSet({ changes: [], text: '' }, options, {
      catalog: seen,
      writer,
      log,
      keep: history.keep,
      caller: ownerOf(context),
      signal,
      prepare: async () => {
        const other = await log.undoneBy(id);
        if (other !== undefined && (await settled(other, { log, writer })) === 'saved') {
          throw new Refused([problem('already-undone', {})]);
        }
        return { checked: await undoing(set, log, seen) };
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
    const behind = after === undefined ? undefined : readPlace(after);
    const read = await log.history(table, address, most + 1, behind);
    const lines = await this.inSight(await this.saved(read.slice(0, most)), description);
    const last = read.length > most ? read[most - 1] : undefined;
    return {
      table,
      entries: lines.flatMap((line) => entryOf(line, description, catalog.partly?.get(table))),
      next: last === undefined ? null : printPlace(last),
    };
  }

  /** Without a name all callers would share the keys of their requests. */
  private refuseNameless({ idempotencyKey }: SaveOptions): void {
    const { access } = this.context;
    if (idempotencyKey === undefined || access === undefined) return;
    if (access.caller === undefined) throw new Refused([problem('no-caller', {})]);
  }

  private log(): ChangeLog {
    const { log } = this.engine;
    if (log === undefined) throw new Refused([problem('not-remembered', {})]);
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

  /** Where the caller sees some rows only: without what was changed of others. */
  private async inSight(
    lines: readonly HistoryLine[],
    description: TableDescription,
  ): Promise<readonly HistoryLine[]> {
    const { catalog, signal } = this.context;
    if (catalog.locate(description.name).only === undefined || lines.length === 0) return lines;
    const columns = description.key.flatMap(
      (name) => description.columns.find((one) => one.name === name) ?? [],
    );
    const keys = lines.map(({ key }) => keyParts(key, description));
    const statement = compileHeldRows(description, columns, keys, [], catalog.locate);
    const { rows } = await this.engine.database.run(statement, { signal, table: description.name });
    const seen = new Set(rows.map(([place]) => Number(place) - 1));
    return lines.filter((_line, index) => seen.has(index));
  }
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

/** A line as the caller may see it; none where that is nothing. */
function entryOf(
  line: HistoryLine,
  { columns }: TableDescription,
  partly: ReadonlySet<string> = new Set(),
): HistoryAnswer['entries'] {
  // Of a column that is shown in some rows only nobody knows in which it was when it was changed.
  const shown = columns.map(({ name }) => name).filter((name) => !partly.has(name));
  const names = line.columns.filter((name) => shown.includes(name));
  if (names.length === 0) return [];
  const values = (text: string | null): HistoryAnswer['entries'][number]['before'] =>
    text === null ? null : (JSON.parse(answeredValues(text, line.notation, names, columns)) as Row);
  return [
    {
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
    },
  ];
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
