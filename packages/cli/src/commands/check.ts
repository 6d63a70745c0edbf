import type { CheckedSetup, Finding } from '@ephoros/service';
import { Command } from 'commander';
import { existsSync } from 'node:fs';
import pc from 'picocolors';
import { plain, plainJson } from '../output/plain.ts';
import type { Terminal } from '../terminal.ts';
import { databaseUrl, withDatabase, type DatabaseChoice } from './database-url.ts';
import { poolerOption, wholeNumber, type PoolerMode } from './options.ts';
import { part } from './parts.ts';
import { recordsUrl, withRecords, type RecordsChoice } from './records-url.ts';

interface Options extends DatabaseChoice, RecordsChoice {
  readonly config?: string;
  readonly changes?: string;
  readonly direct?: string;
  readonly pooler: PoolerMode;
  readonly replica?: readonly string[];
  readonly host: string;
  readonly connections: number;
  readonly workers: number;
  readonly json?: boolean;
}

/** Something is wrong: the service would not start, or not answer. */
class WrongSetupError extends Error {
  readonly exitCode = 1;
}

const defaultFile = 'ephoros.yaml';

/** `ephoros check` */
export function checkCommand(terminal: Terminal): Command {
  return withRecords(withDatabase(new Command('check')))
    .description('check a setup: what is missing, slow or unsafe')
    .option('--config <file>', `configuration file (default: ${defaultFile}, if it exists)`)
    .option('--changes <url>', 'as for serve (or EPHOROS_CHANGES)')
    .option('--direct <url>', 'as for serve (or EPHOROS_DIRECT)')
    .addOption(poolerOption('as for serve'))
    .option('--replica <url...>', 'as for serve')
    .option('--host <address>', 'as for serve', '127.0.0.1')
    .option('--connections <number>', 'as for serve', wholeNumber(3, 1000), 10)
    .option('--workers <number>', 'as for serve', wholeNumber(1, 64), 1)
    .option('--json', 'print JSON')
    .addHelpText(
      'after',
      `
Examples:
  ephoros check --database postgres://reader@db.example/shop
  ephoros check --database postgres://reader@db/shop --records postgres://keeper@db/shop --json

For other servers with PostgreSQL's protocol it lists missing features. Exit codes: 0 no problem,
1 a problem, 2 unreadable configuration.`,
    )
    .action(async (options: Options, command: Command) => {
      const url = await databaseUrl(options, terminal, command);
      const service = await part('@ephoros/service', () => import('@ephoros/service'));
      const file = options.config ?? (existsSync(defaultFile) ? defaultFile : undefined);
      if (file !== undefined && !existsSync(file)) command.error(`error: there is no file ${file}`);
      const { host, connections, workers, pooler } = options;
      const setup: CheckedSetup = {
        ...{ database: url, host, connections, workers, pooler },
        direct: options.direct ?? terminal.environment.EPHOROS_DIRECT,
        replicas: options.replica,
        records: recordsUrl(options, terminal, command),
        changes: options.changes ?? terminal.environment.EPHOROS_CHANGES,
        configuration:
          file === undefined ? service.noConfiguration : await service.readConfiguration(file),
      };
      const findings = await service.checkSetup(setup);
      terminal.stdout.write(
        options.json === true
          ? `${plainJson(JSON.stringify(findings, null, 2))}\n`
          : printed(findings, terminal),
      );
      if (findings.some(({ state }) => state === 'wrong')) throw new WrongSetupError();
    });
}

const marks = { fine: '✓', note: '·', wrong: '✗' } as const;

function printed(findings: readonly Finding[], { stdout }: Terminal): string {
  const colours = pc.createColors(stdout.isTTY === true);
  const paint = { fine: colours.green, note: colours.yellow, wrong: colours.red };
  const lines = findings.map(({ about, state, text, fix }) => {
    const line = `${paint[state](marks[state])} ${plain(about)}: ${plain(text)}`;
    return fix === undefined ? line : `${line}\n    ${colours.dim(plain(fix))}`;
  });
  const wrong = findings.filter(({ state }) => state === 'wrong').length;
  const notes = findings.filter(({ state }) => state === 'note').length;
  return `${lines.join('\n')}\n\n${wrong} wrong, ${notes} to look at\n`;
}
