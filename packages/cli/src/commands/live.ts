import { existsSync } from 'node:fs';
import type { LiveChanges, LiveGrade } from '@ephoros/client/live';
import { Command } from 'commander';
import { InputError } from '../input-error.ts';
import { plain, plainJson } from '../output/plain.ts';
import { addressed, QueryError, type Requested } from '../request.ts';
import type { Terminal } from '../terminal.ts';
import { databaseUrl, withDatabase, type DatabaseChoice } from './database-url.ts';
import { headerOption, urlOption } from './options.ts';
import { part } from './parts.ts';
import { untilStopped } from './until-stopped.ts';

interface Options extends DatabaseChoice, Requested {
  readonly filter?: string;
  readonly search?: string;
  readonly sql?: boolean;
  readonly log?: boolean;
  readonly drop?: boolean;
  readonly config?: string;
  readonly json?: boolean;
}

const grades: Readonly<Record<LiveGrade, string>> = {
  log: 'Watching, row by row, by the log of the server.',
  triggers: 'Watching, row by row, by triggers.',
  counters: 'Watching by counters: no row is named.',
};

const defaultFile = 'ephoros.yaml';

/** `ephoros live` */
export function liveCommand(terminal: Terminal): Command {
  return withDatabase(new Command('live'))
    .description('watch changes of a table')
    .argument('<table>', 'a published table')
    .addOption(urlOption(terminal))
    .addOption(headerOption(terminal))
    .option('--filter <condition>', 'condition, such as "toll > 100"')
    .option('--search <words>', 'words and "quoted phrases", all of which must occur')
    .option('--json', 'print one JSON object per line')
    .option('--sql', 'print the SQL that makes the database report changed rows')
    .option('--log', 'with --sql: use logical replication instead of triggers')
    .option('--drop', 'with --sql: print the SQL that removes it')
    .option(
      '--config <file>',
      `with --sql: configuration file (default: ${defaultFile}, if it exists)`,
    )
    .addHelpText(
      'after',
      `
Examples:
  ephoros live passages --filter "status = 'disputed'"
  ephoros live passages --sql --database postgres:///shop | psql shop
  ephoros live passages --sql --log --database postgres:///shop | psql shop
  ephoros live passages --sql --drop --database postgres:///shop | psql shop

Without the SQL of --sql it reports that the table was written to, a few seconds late, and no rows.
Ctrl-C ends it.`,
    )
    .action(async (table: string, options: Options, command: Command) => {
      if (options.sql !== true && (options.log === true || options.drop === true)) {
        command.error('error: --log and --drop are for --sql: what it prints');
      }
      if (options.sql === true) await printSetup(table, options, terminal, command);
      else await watch(table, options, terminal);
    });
}

async function printSetup(
  table: string,
  options: Options,
  terminal: Terminal,
  command: Command,
): Promise<void> {
  const { config, drop, log } = options;
  const url = await databaseUrl(options, terminal, command);
  const service = await part('@ephoros/service', () => import('@ephoros/service'));
  const file = config ?? (existsSync(defaultFile) ? defaultFile : undefined);
  if (file !== undefined && !existsSync(file)) command.error(`error: there is no file ${file}`);
  const configuration =
    file === undefined ? service.noConfiguration : await service.readConfiguration(file);
  const setup = { database: url, configuration };
  const made = await service.liveSetup(setup, table, log === true ? 'log' : 'triggers');
  if (made === 'no table') {
    throw new InputError(`ephoros: no table is published as ${plain(table)}`);
  }
  if (made === 'no key') {
    throw new InputError(
      `ephoros: ${plain(table)} is a view, or has no key: its rows cannot be identified`,
    );
  }
  terminal.stdout.write(drop === true ? made.drop : made.add);
}

async function watch(table: string, options: Options, { stdout, stderr }: Terminal): Promise<void> {
  const { watchRows } = await import('@ephoros/client/live');
  const { ServiceError } = await import('@ephoros/client');
  const { filter, search, json } = options;
  const controller = new AbortController();
  void untilStopped().then(() => controller.abort());
  const write = (event: string, data: object, words: string): void => {
    const line = json === true ? plainJson(JSON.stringify({ event, ...data })) : words;
    if (line !== '') stdout.write(`${line}\n`);
  };
  try {
    await watchRows(
      addressed(options),
      table,
      {
        ...(filter !== undefined && { filter }),
        ...(search !== undefined && { search: search.split(/\s+/) }),
      },
      {
        grade: (grade) => write('grade', { grade }, grades[grade]),
        changed: (changes) => write('changed', changes, wordsOf(changes)),
        written: () => write('written', {}, 'Something was written.'),
        away: ({ message }) => stderr.write(`ephoros: ${plain(message)} Trying again.\n`),
      },
      controller.signal,
    );
  } catch (thrown) {
    if (!(thrown instanceof ServiceError)) throw thrown;
    throw new QueryError(thrown, { filter, search });
  }
}

function wordsOf({ added, changed, removed }: LiveChanges): string {
  const write = (word: string, keys: readonly (readonly string[])[]): string[] =>
    keys.map((key) => `${word} ${plain(key.join(', '))}`);
  return [...write('+', added), ...write('~', changed), ...write('-', removed)].join('\n');
}
