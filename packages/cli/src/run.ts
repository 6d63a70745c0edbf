import { ServiceError } from '@ephoros/client';
import { Command, CommanderError } from 'commander';
import { accessCommand } from './commands/access.ts';
import { adviseCommand } from './commands/advise.ts';
import { aggregatesCommand } from './commands/aggregates.ts';
import {
  addCommand,
  changeCommand,
  historyCommand,
  removeCommand,
  undoCommand,
} from './commands/changing.ts';
import { checkCommand } from './commands/check.ts';
import { demoCommand } from './commands/demo.ts';
import { describeCommand } from './commands/describe.ts';
import { exportCommand } from './commands/export.ts';
import { explainCommand } from './commands/explain.ts';
import { fillCommand } from './commands/fill.ts';
import { groupsCommand } from './commands/groups.ts';
import { liveCommand } from './commands/live.ts';
import { reportCommand } from './commands/report.ts';
import { rowCommand } from './commands/row.ts';
import { rowsCommand } from './commands/rows.ts';
import { serveCommand } from './commands/serve.ts';
import { signInCommand, signOutCommand } from './commands/sign-in.ts';
import { tablesCommand } from './commands/tables.ts';
import { tokenCommand } from './commands/token.ts';
import { typesCommand } from './commands/types.ts';
import { valuesCommand } from './commands/values.ts';
import { viewsCommand } from './commands/views.ts';
import { explainRefusal } from './output/refusal.ts';
import { QueryError } from './request.ts';
import type { Terminal } from './terminal.ts';
import { version } from './version.ts';
import { lines } from './output/plain.ts';

/** What a script can tell apart. */
const exitCodes = {
  success: 0,
  /** Anything unforeseen. */
  failure: 1,
  /** The command line or the configuration file is wrong. */
  usage: 2,
  /** The service refused the query. */
  refused: 3,
  /** The service or the database cannot be reached. */
  unavailable: 4,
} as const;

const codesByKind = {
  refused: exitCodes.refused,
  unavailable: exitCodes.unavailable,
  failed: exitCodes.failure,
} as const;

// By name, so that requesting a question does not load the service and the demo.
const codesByName: Readonly<Record<string, number>> = {
  ConfigurationError: exitCodes.usage,
  AccessError: exitCodes.usage,
  PortTakenError: exitCodes.usage,
  UnprotectedError: exitCodes.usage,
  RecordsError: exitCodes.usage,
  MissingPartError: exitCodes.usage,
  NoBrowserError: exitCodes.usage,
  ClusterError: exitCodes.unavailable,
  Failure: exitCodes.unavailable,
};

/** The program with all its commands, also for the documentation. */
export function programFor(terminal: Terminal): Command {
  const program = new Command('ephoros')
    .description('Serve and query large PostgreSQL tables.')
    .version(version)
    .exitOverride()
    .configureOutput({
      writeOut: (text) => terminal.stdout.write(text),
      writeErr: (text) => terminal.stderr.write(text),
    })
    .addHelpText(
      'after',
      `
Examples:
  ephoros demo                                    demo data in a database of its own
  ephoros serve --database postgres://me@host/db  serve your database
  ephoros rows passages --filter "toll > 100"     query a running service
  ephoros row passages 17                         a single row with all columns
  ephoros groups passages --group status          groups with counts
  ephoros rows passages --view "Dear disputes"     the query of a saved view
  ephoros change passages 17 toll=5.00            change a row; see history and undo
  ephoros export passages --out passages.xlsx     all of them as a file
  ephoros report "Dear disputes" --format pdf     a saved view as a report
  ephoros types --out src/tables.ts               TypeScript types of the tables

Exit codes: 0 done, 1 failed, 2 bad usage, 3 the service refused the query or the change,
4 the service or the database is unavailable, 5 conflict: rows have changed.`,
    );
  const commands = [
    serveCommand,
    demoCommand,
    tablesCommand,
    describeCommand,
    typesCommand,
    rowsCommand,
    rowCommand,
    groupsCommand,
    valuesCommand,
    exportCommand,
    reportCommand,
    aggregatesCommand,
    explainCommand,
    adviseCommand,
    viewsCommand,
    addCommand,
    changeCommand,
    removeCommand,
    historyCommand,
    undoCommand,
    fillCommand,
    liveCommand,
    signInCommand,
    signOutCommand,
    tokenCommand,
    accessCommand,
    checkCommand,
  ];
  for (const make of commands) {
    const command = make(terminal);
    program.addCommand(command);
    inherit(program, command);
  }
  return program;
}

/** Runs one command line (without the program's own name); resolves to its exit code. */
export async function run(args: readonly string[], terminal: Terminal): Promise<number> {
  const program = programFor(terminal);
  try {
    await program.parseAsync([...args], { from: 'user' });
    return exitCodes.success;
  } catch (thrown) {
    return report(thrown, terminal);
  }
}

/** Where a command and those below it write, and that they throw where they would end the program. */
function inherit(parent: Command, command: Command): void {
  command.copyInheritedSettings(parent).exitOverride();
  for (const sub of command.commands) inherit(command, sub);
}

function report(thrown: unknown, { stderr }: Terminal): number {
  if (thrown instanceof CommanderError) {
    // commander has stated it already; --help and --version end here as well.
    return thrown.exitCode === 0 ? exitCodes.success : exitCodes.usage;
  }
  if (thrown instanceof QueryError) {
    stderr.write(explainRefusal(thrown.error, thrown.parameters));
    return codesByKind[thrown.error.kind];
  }
  if (thrown instanceof ServiceError) {
    stderr.write(explainRefusal(thrown));
    return codesByKind[thrown.kind];
  }
  if (!(thrown instanceof Error)) throw thrown;
  if ('exitCode' in thrown && typeof thrown.exitCode === 'number') {
    if (thrown.name === 'InputError') stderr.write(`${lines(thrown.message)}\n`);
    return thrown.exitCode;
  }
  const { name, message, cause } = thrown;
  const text =
    name === 'Failure' && cause instanceof Error
      ? `the database cannot be used: ${cause.message}`
      : message;
  stderr.write(`ephoros: ${lines(text)}\n`);
  return codesByName[name] ?? exitCodes.failure;
}
