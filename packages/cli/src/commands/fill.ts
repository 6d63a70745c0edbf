import type { Client, Value } from '@ephoros/client';
import { call, printName, property } from '@ephoros/core/expression';
import { toOne, type TableDescription } from '@ephoros/core/schema';
import { Command } from 'commander';
import { createInterface } from 'node:readline/promises';
import { InputError } from '../input-error.ts';
import type { Sample } from '../changing/plausible.ts';
import { progressOn } from '../output/progress.ts';
import type { Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { clientFor, headerOption, urlOption, wholeNumber } from './options.ts';

interface Options extends Requested {
  readonly rows: number;
  readonly seed: number;
  readonly yes?: boolean;
  readonly dryRun?: boolean;
}

/** Rows that are looked at, of the table and of those that it refers to. */
const scanned = 500;
const atOnce = 1000;
/** Sets in a row of which nothing could be saved. */
const mostInVain = 5;

/** `ephoros fill TABLE` */
export function fillCommand(terminal: Terminal): Command {
  return new Command('fill')
    .description('add random rows for tests')
    .argument('<table>', 'a published table that accepts new rows')
    .requiredOption('--rows <number>', 'number of rows', wholeNumber(1, 10_000_000))
    .option('--seed <number>', 'random seed', wholeNumber(0, 2 ** 31), 7)
    .option('--dry-run', 'check the first rows, but save nothing')
    .option('--yes', 'do not ask for confirmation')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .addHelpText(
      'after',
      `
Examples:
  ephoros fill owners --rows 200
  ephoros fill passages --rows 100000 --seed 3 --yes

Values are such as are there already, as often as they are missing; of an empty table such as their
types and names suggest. References lead to rows that are there.`,
    )
    .action(async (table: string, options: Options) => {
      const client = clientFor(options);
      const description = await client.describe(table);
      if (description.changes?.add !== true) {
        throw new InputError(`ephoros: No rows may be added to ${table} here.`);
      }
      const { rows, url } = options;
      terminal.stderr.write(`${rows} made-up rows for ${table}, at ${url}\n`);
      if (options.dryRun !== true && options.yes !== true) await confirmFirst(terminal);
      const { PlausibleRows } = await import('../changing/plausible.ts');
      const made = new PlausibleRows(await sampleOf(client, description), options.seed);
      const done = await fill(client, table, made, options, terminal);
      terminal.stdout.write(
        options.dryRun === true ? `${done} rows could be saved\n` : `${done} rows saved\n`,
      );
    });
}

async function confirmFirst({ stdout }: Terminal): Promise<void> {
  if (stdout.isTTY !== true || !process.stdin.isTTY) {
    throw new InputError('ephoros: Without a terminal, --yes is required.');
  }
  const lines = createInterface({ input: process.stdin, output: process.stderr });
  const answer = await lines.question('Write them? [y/N] ');
  lines.close();
  if (!/^y(es)?$/i.test(answer.trim())) throw new InputError('ephoros: Nothing is written.');
}

/** Saves each row that can be saved, until there are enough; values that are taken are made again. */
async function fill(
  client: Client,
  table: string,
  made: { readonly next: () => Readonly<Record<string, Value>> },
  { rows, dryRun = false }: Options,
  terminal: Terminal,
): Promise<number> {
  const progress = progressOn(terminal);
  let done = 0;
  let inVain = 0;
  while (done < rows) {
    const size = Math.min(atOnce, rows - done);
    const changes = Array.from({ length: size }, () => ({
      kind: 'add' as const,
      values: made.next(),
    }));
    const { outcomes } = await client.changes.save(changes, { table, mode: 'each', dryRun });
    const saved = outcomes.filter(({ kind }) => kind === 'done').length;
    done += saved;
    progress.step('rows', done, rows);
    if (dryRun) return done;
    inVain = saved === 0 ? inVain + 1 : 0;
    if (inVain === mostInVain) {
      const [first] = outcomes.flatMap((one) => (one.kind === 'refused' ? one.errors : []));
      const why = first === undefined ? '' : `: ${first.column ?? ''} ${first.message}`;
      throw new Error(`After ${done} rows nothing more can be saved${why}`);
    }
  }
  return done;
}

async function sampleOf(client: Client, table: TableDescription): Promise<Sample> {
  const names = table.columns
    .filter(({ writing }) => writing?.add === true)
    .map(({ name }) => name);
  const { rows } = await client.rows(table.name, { limit: Math.min(scanned, table.rowCap) });
  const references = new Map<string, readonly Value[]>();
  for (const { table: other, columns, references: there } of toOne(table)) {
    const [column] = columns;
    const [key] = there;
    if (columns.length !== 1 || column === undefined || key === undefined) continue;
    const found = await client.rows(other, { limit: scanned, total: 'none' });
    references.set(
      column,
      found.rows.map((row) => row[key] ?? null),
    );
  }
  // A key that the database gives a value is left to it.
  const columns = table.columns.filter(
    ({ name, writing }) =>
      names.includes(name) && !(table.key.includes(name) && writing?.required !== true),
  );
  const unique = columns.filter(
    ({ name, type }) => table.key.includes(name) && !references.has(name) && type.kind !== 'enum',
  );
  const last = new Map<string, Value>();
  for (const { name, type } of unique) {
    if (type.kind !== 'integer' && type.kind !== 'numeric') continue;
    const { aggregates } = await client.aggregates(table.name, {
      aggregate: [{ name: `max(${printName(name)})`, expression: call('max', property(name)) }],
    });
    last.set(name, Object.values(aggregates)[0] ?? null);
  }
  const keys = new Map(unique.map(({ name }) => [name, last.get(name) ?? null]));
  return { columns, rows, references, keys };
}
