import type { ShownAccess, ShownTable } from '@ephoros/service';
import { Command } from 'commander';
import { existsSync } from 'node:fs';
import { InputError } from '../input-error.ts';
import { plain, plainJson } from '../output/plain.ts';
import type { Terminal } from '../terminal.ts';
import { withClaim, withNames, type GivenClaims } from './claims.ts';
import { databaseUrl, withDatabase, type DatabaseChoice } from './database-url.ts';
import { part } from './parts.ts';
import { recordsUrl, withRecords, type RecordsChoice } from './records-url.ts';

interface Options extends DatabaseChoice, RecordsChoice {
  readonly as: string;
  readonly role?: readonly string[];
  readonly claim?: GivenClaims;
  readonly config: string;
  readonly json?: boolean;
}

/** `ephoros access` */
export function accessCommand(terminal: Terminal): Command {
  const command = new Command('access').description('show the rights of a caller').addHelpText(
    'after',
    `
Examples:
  ephoros access show --as crane                                 by the token of this name
  ephoros access show --as ann --role keeper --claim lock=7       by these roles and claims
  ephoros access show --as ann --role keeper,clerk --json

It reads the configuration and the database, not a running service.`,
  );
  command.addCommand(show(terminal));
  return command;
}

function show(terminal: Terminal): Command {
  return withRecords(withDatabase(new Command('show')))
    .description('show what a caller may read and change, and why')
    .requiredOption(
      '--as <name>',
      'the caller: the name of a token, or any name with --role and --claim',
    )
    .option('--role <names>', 'roles, by commas; may be given more than once', withNames)
    .option('--claim <name=value>', 'a claim for row rules', withClaim)
    .option('--config <file>', 'configuration file', 'ephoros.yaml')
    .option('--json', 'print JSON')
    .action(async (options: Options, command: Command) => {
      const { as: name, role: roles, claim: claims, config, json } = options;
      if (!existsSync(config)) command.error(`error: there is no file ${config}`);
      const url = await databaseUrl(options, terminal, command);
      const service = await part('@ephoros/service', () => import('@ephoros/service'));
      const shown = await service.showAccess(
        {
          database: url,
          configuration: await service.readConfiguration(config),
          records: recordsUrl(options, terminal, command),
        },
        { name, roles, claims },
      );
      if (shown === undefined) {
        throw new InputError(
          `ephoros: no token counts by ${plain(name)}. Say its roles: --role keeper --claim lock=7`,
        );
      }
      terminal.stdout.write(
        json === true ? `${plainJson(JSON.stringify(shown, null, 2))}\n` : printed(shown),
      );
    });
}

function printed({ caller, roles, unknownRoles, may, tables, others }: ShownAccess): string {
  const yes = Object.entries(may)
    .filter(([, value]) => value !== false)
    .map(([name, value]) => (value === 'open' ? `${name} (open only)` : name));
  const lines = [
    `${plain(caller)}, ${roles.length === 0 ? 'without a role' : `by ${roles.map(plain).join(', ')}`}`,
    ...(unknownRoles.length === 0
      ? []
      : [`  roles that the configuration does not know: ${unknownRoles.map(plain).join(', ')}`]),
    `  may, apart from reading: ${yes.length === 0 ? 'nothing' : yes.join(', ')}`,
    ...tables.flatMap(linesOf),
    ...(others.length === 0 ? [] : ['', 'not shown']),
    ...others.map(({ table, why }) => `  ${plain(table)}: ${plain(why)}`),
  ];
  if (tables.some(({ changes }) => changes.length > 0)) {
    lines.push('', 'Changes go as far as each table lets them: changes, in its configuration.');
  }
  return `${lines.join('\n')}\n`;
}

function linesOf(shown: ShownTable): readonly string[] {
  const { table, rows, columns, hidden, partly, changes, by } = shown;
  const changed = changes.flatMap(({ add, change, remove, rows: those }) => {
    const actions = [
      ...(add.length > 0 ? ['add rows'] : []),
      ...(change.length > 0 ? [`change ${listed(change, columns)}`] : []),
      ...(remove ? ['remove rows'] : []),
    ];
    if (actions.length === 0) return [];
    const only = sameRows(those, rows) ? [] : [`  changes only where ${conditions(those)}`];
    return [`  changes: ${actions.join(', ')}`, ...only];
  });
  return [
    '',
    `${plain(table)}${by.length === 0 ? '' : ` (${by.map(plain).join(', ')})`}`,
    `  rows: ${conditions(rows)}`,
    `  columns: ${hidden.length === 0 ? 'all' : `all but ${hidden.map(plain).join(', ')}`}`,
    ...Object.entries(partly).map(
      ([column, texts]) => `  ${plain(column)}: only where ${conditions(texts)}`,
    ),
    ...(changed.length === 0 ? ['  changes: none'] : changed),
  ];
}

function listed(names: readonly string[], all: readonly string[]): string {
  return names.length >= all.length ? 'all columns' : names.map(plain).join(', ');
}

function conditions(texts: readonly string[] | undefined): string {
  if (texts === undefined) return 'all';
  return texts.map((text) => (texts.length > 1 ? `(${plain(text)})` : plain(text))).join(' or ');
}

function sameRows(
  one: readonly string[] | undefined,
  other: readonly string[] | undefined,
): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}
