import { InputError } from '../input-error.ts';
import type { Change, HistoryEntry } from '@ephoros/client';
import { printAnswer } from '@ephoros/core/answer';
import { keyParts, parseKey, printKey, type TableDescription } from '@ephoros/core/schema';
import { Command, Option } from 'commander';
import {
  formatOf,
  rowsIn,
  valuesOf,
  type FileFormat,
  type GivenRow,
} from '../changing/given-rows.ts';
import { FileRun } from '../changing/file-run.ts';
import { Journal } from '../changing/journal.ts';
import { saveInSets, type NamedChange, type Saved } from '../changing/saving.ts';
import { plain, plainJson } from '../output/plain.ts';
import { progressOn } from '../output/progress.ts';
import { drawTable } from '../output/table.ts';
import type { Requested } from '../request.ts';
import { readSelection, type GivenSelection } from '../selection.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption, wholeNumber } from './options.ts';

interface Options extends Requested {
  readonly file?: string;
  readonly format?: FileFormat;
  readonly sets: number;
  readonly each?: boolean;
  readonly again?: boolean;
  readonly resume?: boolean;
  readonly dryRun?: boolean;
  readonly json?: boolean;
  readonly was?: readonly string[];
  readonly filter?: string;
  readonly count?: number;
  readonly keys?: GivenSelection;
  readonly limit: number;
  readonly after?: string;
}

const mostOfSet = 100_000;

function changing(name: string, terminal: Terminal): Command {
  return new Command(name)
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--dry-run', 'check the change, but save nothing')
    .option('--json', 'what was saved, as JSON');
}

/** The options of rows that come from a file, in sets. */
function fromFile(command: Command, what: string): Command {
  return command
    .option('--file <file>', `${what}: CSV with a header line, or NDJSON; - for standard input`)
    .addOption(
      new Option('--format <format>', 'of the file; by its name, else csv').choices([
        'csv',
        'ndjson',
      ]),
    )
    .option('--sets <number>', 'rows per change set', wholeNumber(1, mostOfSet), 1000)
    .option('--each', 'save every valid row and report the others')
    .option('--resume', 'continue an interrupted run of the same rows')
    .option('--again', 'begin with the first row, although an earlier run did not end');
}

/** `ephoros add TABLE` */
export function addCommand(terminal: Terminal): Command {
  return fromFile(changing('add', terminal), 'rows')
    .description('add one row from arguments, or many from a file')
    .argument('<table>', 'a published table')
    .argument('[values...]', 'column=value; an empty value is null')
    .addHelpText(
      'after',
      `
Examples:
  ephoros add owners name="Ada Șerban" town="Wend Cut"
  ephoros add passages --file passages.csv --dry-run
  ephoros add passages --file - --format ndjson --sets 5000 < passages.ndjson

A set is saved all or none; the first that cannot be saved ends the run, and its lines are named.
With --resume the same rows go on where the run ended: what was saved is not saved again, however
the file is called and however many rows make a set. ${exitCodes}`,
    )
    .action(async (table: string, pairs: string[], options: Options) => {
      const client = clientFor(options);
      const description = await client.describe(table);
      const { file } = options;
      if ((file === undefined) === (pairs.length === 0)) {
        throw new InputError('ephoros: Give column=value, or --file.');
      }
      const given: AsyncIterable<GivenRow> | readonly GivenRow[] =
        file === undefined
          ? [{ line: 1, values: valuesOf(pairs, description) }]
          : rowsIn(file, formatOf(file, options.format), description);
      const name = file === undefined ? () => 'the row' : ({ line }: GivenRow) => `line ${line}`;
      await save(
        mapped(given, (row) => ({
          change: { kind: 'add', values: row.values },
          name: name(row),
          content: printAnswer(row.values),
        })),
        { description, command: 'add' },
        options,
        terminal,
      );
    });
}

/** `ephoros change TABLE` */
export function changeCommand(terminal: Terminal): Command {
  return fromFile(changing('change', terminal), 'rows with their key, and new values')
    .description('change one row, the rows of a file, or all matching rows')
    .argument('<table>', 'a published table')
    .argument('[key-and-values...]', 'key of a row, then column=value')
    .option('--was <value...>', 'column=value as read; the change fails if it differs now')
    .option('--filter <condition>', 'change all matching rows')
    .option('--count <number>', 'expected number of matching rows', wholeNumber(0, mostOfSet))
    .addHelpText(
      'after',
      `
Examples:
  ephoros change passages 17 toll=5.00 --was toll=4.00
  ephoros change passages --filter "status = 'waiting'" --count 12 status=passed
  ephoros change passages --file corrected.csv

Of a file the columns of the key say which row; the others are its new values. ${exitCodes}`,
    )
    .action(async (table: string, args: string[], options: Options) => {
      const description = await clientFor(options).describe(table);
      const changes = changesFrom(args, options, description);
      await save(changes, { description, command: 'change' }, options, terminal);
    });
}

function changesFrom(
  args: readonly string[],
  { file, format, filter, count, was = [] }: Options,
  table: TableDescription,
): AsyncIterable<NamedChange> {
  if (file !== undefined) {
    if (args.length > 0) throw new InputError('ephoros: Give values, or --file.');
    return mapped(rowsIn(file, formatOf(file, format), table), ({ line, values }) => ({
      change: changeOf(line, values, table),
      name: `line ${line}`,
      content: printAnswer(values),
    }));
  }
  if (filter !== undefined) {
    const reported = count === undefined ? {} : { count };
    const change: Change = { kind: 'set', filter, ...reported, values: valuesOf(args, table) };
    return mapped([change], (one) => ({ change: one, name: 'the rows that match' }));
  }
  const [key = '', ...pairs] = args;
  const parts = parseKey(key);
  if (key === '' || pairs.length === 0 || parts === undefined) {
    throw new InputError('ephoros: Give a key and column=value, --filter, or --file.');
  }
  const values = valuesOf(pairs, table);
  const change: Change = { kind: 'change', key: parts, was: valuesOf(was, table), values };
  return mapped([change], (one) => ({ change: one, name: `key ${key}` }));
}

function changeOf(line: number, row: GivenRow['values'], { key }: TableDescription): Change {
  const missing = key.find((name) => (row[name] ?? null) === null);
  if (missing !== undefined) {
    throw new InputError(`ephoros: Line ${line} has no ${missing}, which is its key.`);
  }
  const values = Object.fromEntries(Object.entries(row).filter(([name]) => !key.includes(name)));
  return { kind: 'change', key: keyParts(row, key), values };
}

/** `ephoros remove TABLE` */
export function removeCommand(terminal: Terminal): Command {
  return changing('remove', terminal)
    .description('remove rows by their keys')
    .argument('<table>', 'a published table')
    .argument('[key...]', 'keys, as in row URLs')
    .option('--keys <file>', 'keys, one per line, from a file or - (standard input)', readSelection)
    .option('--was <value...>', 'column=value as read; the removal fails if it differs now')
    .option('--sets <number>', 'rows per change set', wholeNumber(1, mostOfSet), 1000)
    .option('--each', 'remove every removable row and report the others')
    .addHelpText(
      'after',
      `
Examples:
  ephoros remove passages 17 18
  ephoros remove passages --keys old.txt --dry-run

${exitCodes}`,
    )
    .action(async (table: string, keys: string[], options: Options) => {
      const description = await clientFor(options).describe(table);
      const all = [...new Set([...keys, ...(options.keys?.keys ?? [])])];
      if (all.length === 0) throw new InputError('ephoros: Give keys, or --keys.');
      const was = valuesOf(options.was ?? [], description);
      await save(
        mapped(all, (key) => ({
          change: { kind: 'remove', key: parseKey(key) ?? [key], was },
          name: `key ${key}`,
        })),
        { description },
        options,
        terminal,
      );
    });
}

/** `ephoros history TABLE [KEY]` */
export function historyCommand(terminal: Terminal): Command {
  return new Command('history')
    .description('show the changes of a table or a row, newest first')
    .argument('<table>', 'a published table')
    .argument('[key]', 'key of a row, as in its URL')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--limit <number>', 'maximum number of changes', wholeNumber(1, 100), 20)
    .option('--after <place>', 'continue after "next" of an answer')
    .option('--json', 'print JSON')
    .addHelpText(
      'after',
      `
Examples:
  ephoros history passages 17
  ephoros history passages --limit 100 --json`,
    )
    .action(async (table: string, key: string | undefined, options: Options) => {
      const { limit, after } = options;
      const answer = await clientFor(options).changes.history(table, key, {
        limit,
        ...(after === undefined ? {} : { after }),
      });
      if (options.json === true) {
        terminal.stdout.write(`${plainJson(JSON.stringify(answer))}\n`);
        return;
      }
      const { entries, next } = answer;
      if (entries.length === 0) terminal.stderr.write('Nothing was changed.\n');
      else terminal.stdout.write(drawTable(historyColumns, entries.flatMap(linesOf), terminal));
      if (next !== null) terminal.stderr.write(`There is more: --after ${next}\n`);
    });
}

const historyColumns = ['at', 'who', 'what', 'key', 'column', 'before', 'after', 'set'].map(
  (name) => ({ name, label: name, right: false }),
);

const actions = { add: 'added', change: 'changed', remove: 'removed' } as const;

/** One line a column that was changed; one of a row that came or went. */
function linesOf(entry: HistoryEntry): Readonly<Record<string, string | null>>[] {
  const { at, who, kind, key, set, undone, undoes, columns, before, after } = entry;
  const taken = undone ? ' (taken back)' : undoes === null ? '' : ' (takes back)';
  const common = {
    at: at.slice(0, 19).replace('T', ' '),
    who,
    what: `${actions[kind]}${taken}`,
    key: printKey(key),
    set,
  };
  if (kind !== 'change') return [{ ...common, column: null, before: null, after: null }];
  const text = (values: HistoryEntry['before'], name: string): string | null => {
    const value = values?.[name] ?? null;
    return value === null ? null : typeof value === 'string' ? value : JSON.stringify(value);
  };
  return columns.map((column) => ({
    ...common,
    column,
    before: text(before, column),
    after: text(after, column),
  }));
}

/** `ephoros undo SET` */
export function undoCommand(terminal: Terminal): Command {
  return changing('undo', terminal)
    .description('undo a change set, unless its rows have changed since')
    .argument('<set>', 'id of the change set, from `history` or an answer')
    .addHelpText('after', `\nExamples:\n  ephoros undo ak3…\n\n${exitCodes}`)
    .action(async (id: string, options: Options) => {
      const client = clientFor(options);
      // Reported as all that is not saved is.
      const one: NamedChange = { change: { kind: 'remove', key: [id] }, name: 'the set' };
      const saved = await saveInSets(
        [one],
        {
          send: (_changes, how) => client.changes.undo(id, how),
          setSize: 1,
          dryRun: options.dryRun,
        },
        { terminal },
      );
      reportSaved(saved, options, terminal);
    });
}

const exitCodes = 'Exit codes: 3 refused, 5 another user has changed the rows.';

async function* mapped<From, To>(
  given: AsyncIterable<From> | Iterable<From>,
  map: (one: From) => To,
): AsyncGenerator<To> {
  for await (const one of given) yield map(one);
}

async function save(
  changes: AsyncIterable<NamedChange>,
  { description, command }: Saving,
  options: Options,
  terminal: Terminal,
): Promise<void> {
  const { sets, each, dryRun } = options;
  const { name: table } = description;
  const client = clientFor(options);
  const run = command && (await runOf({ description, command }, options, terminal));
  const saved = await saveInSets(
    behind(changes, run?.savedBefore ?? 0),
    {
      send: (set, how) => client.changes.save(set, { table, ...how }),
      each,
      dryRun,
      setSize: sets,
      run,
    },
    { terminal, progress: progressOn(terminal) },
  );
  reportSaved(saved, options, terminal, run?.savedBefore);
}

/** What is saved: rows of a table, by a command that can be resumed. */
interface Saving {
  readonly description: TableDescription;
  readonly command?: 'add' | 'change';
}

/** The run over a file that is named; undefined of rows that come in another way. @throws InputError */
async function runOf(
  { description, command }: Required<Saving>,
  options: Options,
  { environment }: Terminal,
): Promise<FileRun | undefined> {
  const { file, format, resume = false, again = false, dryRun = false, url } = options;
  if (resume && (file === undefined || file === '-')) {
    throw new InputError('ephoros: Only a file can be resumed: standard input is read once.');
  }
  if (resume && again) throw new InputError('ephoros: Say --resume or --again.');
  if (file === undefined || file === '-' || dryRun) return undefined;
  const client = clientFor(options);
  return FileRun.open({
    target: { url, table: description.name, command },
    journal: new Journal(environment),
    contents: () =>
      mapped(rowsIn(file, formatOf(file, format), description), ({ values }) =>
        printAnswer(values),
      ),
    resume,
    again,
    withdraw: (key) => client.changes.withdraw(key),
  });
}

/** What comes behind so many. */
async function* behind<One>(given: AsyncIterable<One>, count: number): AsyncGenerator<One> {
  let passed = 0;
  for await (const one of given) {
    passed += 1;
    if (passed > count) yield one;
  }
}

function reportSaved(
  { done, sets, keys }: Saved,
  { json = false, dryRun = false }: Pick<Options, 'json' | 'dryRun'>,
  { stdout }: Terminal,
  before = 0,
): void {
  if (json) {
    stdout.write(`${plainJson(JSON.stringify({ done, before, dryRun, sets, keys }))}\n`);
    return;
  }
  const rows = done === 1 ? '1 row' : `${done} rows`;
  const one = keys.length === 1 ? `, key ${plain(keys[0] ?? '')}` : '';
  const of = sets.length === 1 ? ` (set ${sets[0] ?? ''})` : '';
  const earlier = before === 0 ? '' : `; ${before} were saved before`;
  stdout.write(dryRun ? `${rows} could be saved\n` : `${rows} saved${one}${of}${earlier}\n`);
}
