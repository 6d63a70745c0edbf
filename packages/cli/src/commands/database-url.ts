import { readFile } from 'node:fs/promises';
import password from '@inquirer/password';
import type { Command } from 'commander';
import type { Terminal } from '../terminal.ts';

export interface DatabaseChoice {
  readonly database?: string;
  readonly databaseFile?: string;
  readonly askPassword?: boolean;
}

/** The options that say which database. */
export function withDatabase(command: Command): Command {
  return command
    .option('--database <url>', 'postgres://user@host:port/name (or EPHOROS_DATABASE)')
    .option('--database-file <file>', 'file with this URL, to keep it out of the process list')
    .option('--ask-password', 'ask for the password instead of reading it from anywhere');
}

/**
 * Where the database is. A password on the command line stands in the list of processes for all to
 * read, which is stated; ends the command where nothing says where the database is.
 */
export async function databaseUrl(
  { database, databaseFile, askPassword }: DatabaseChoice,
  { environment, stderr }: Terminal,
  command: Command,
): Promise<string> {
  const given =
    database ??
    (databaseFile === undefined ? environment.EPHOROS_DATABASE : await fromFile(databaseFile));
  if (given === undefined) {
    command.error('error: give --database or --database-file, or set EPHOROS_DATABASE');
  }
  refuseOtherThanDatabase(given, '--database', command);
  const url = new URL(given);
  if (database !== undefined) warnOfPassword(database, 'database', { stderr });
  if (askPassword !== true) return given;
  url.password = encodeURIComponent(
    await password({ message: 'Password' }, { output: process.stderr }),
  );
  return url.href;
}

async function fromFile(file: string): Promise<string> {
  return (await readFile(file, 'utf8')).trim();
}

/** Ends the command where something is no address of a database. */
export function refuseOtherThanDatabase(given: string, option: string, command: Command): void {
  if (URL.canParse(given) && /^postgres(ql)?:$/.test(new URL(given).protocol)) return;
  command.error(`error: a database is written as postgres://user@host:port/name (${option})`);
}

/** Says where a password on the command line stands in the list of processes for all to read. */
export function warnOfPassword(
  given: string,
  option: 'database' | 'records' | 'changes' | 'direct',
  { stderr }: Pick<Terminal, 'stderr'>,
): void {
  if (new URL(given).password === '') return;
  const better =
    option === 'database'
      ? 'EPHOROS_DATABASE, --database-file, PGPASSWORD or --ask-password'
      : `EPHOROS_${option.toUpperCase()} or ~/.pgpass`;
  stderr.write(
    `warning: a password in --${option} can be read by everybody on this machine; use ${better}\n`,
  );
}
