import type { Command } from 'commander';
import type { Terminal } from '../terminal.ts';
import { refuseOtherThanDatabase, warnOfPassword } from './database-url.ts';

export interface RecordsChoice {
  readonly records?: string;
}

/** The option that says where the service keeps what is its own. */
export function withRecords(command: Command): Command {
  return command.option(
    '--records <url>',
    'the database of the records: postgres://user@host:port/name (or EPHOROS_RECORDS)',
  );
}

/** Where the records are; undefined where nothing says it. */
export function recordsUrl(
  { records }: RecordsChoice,
  { environment, stderr }: Terminal,
  command: Command,
): string | undefined {
  const given = records ?? environment.EPHOROS_RECORDS;
  if (given === undefined || given === '') return undefined;
  refuseOtherThanDatabase(given, '--records', command);
  if (records !== undefined) warnOfPassword(records, 'records', { stderr });
  return given;
}
