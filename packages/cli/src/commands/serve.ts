import { existsSync } from 'node:fs';
import type { Simulation } from '@ephoros/core/simulation';
import type { LogLevel } from '@ephoros/service';
import { Command, Option } from 'commander';
import type { Terminal } from '../terminal.ts';
import { reportRoutes } from '../report/routes.ts';
import { version } from '../version.ts';
import { consoleFolder } from './console-folder.ts';
import { address, poolerOption, simulation, wholeNumber, type PoolerMode } from './options.ts';
import {
  databaseUrl,
  refuseOtherThanDatabase,
  warnOfPassword,
  withDatabase,
  type DatabaseChoice,
} from './database-url.ts';
import { part } from './parts.ts';
import { untilStopped } from './until-stopped.ts';

interface Options extends DatabaseChoice {
  readonly config?: string;
  readonly records?: string;
  readonly changes?: string;
  readonly direct?: string;
  readonly pooler: PoolerMode;
  readonly replica?: readonly string[];
  readonly replicaLag: number;
  readonly host: string;
  readonly port: number;
  readonly connections: number;
  readonly timeLimit: number;
  readonly logLevel: LogLevel;
  readonly countingTime: number;
  readonly longLimit: number;
  readonly deferAfter: number;
  readonly indexFolder?: string;
  readonly indexBytes: number;
  readonly workers: number;
  readonly grace: number;
  readonly metrics?: { readonly host: string; readonly port: number };
  readonly explain?: boolean;
  readonly hostName?: readonly string[];
  readonly unprotected?: boolean;
  readonly answerBytes: number;
  readonly simulate?: Simulation;
}

const defaultFile = 'ephoros.yaml';

/** `ephoros serve` */
export function serveCommand(terminal: Terminal): Command {
  return withDatabase(new Command('serve'))
    .description('serve the tables of a database: API and console')
    .option('--config <file>', `configuration file (default: ${defaultFile}, if it exists)`)
    .option(
      '--records <url>',
      'database for saved views, selections and the history (or EPHOROS_RECORDS)',
    )
    .option('--changes <url>', 'the same database with a role that may write (or EPHOROS_CHANGES)')
    .option(
      '--direct <url>',
      'the same database past a pooler, for live updates and long queries (or EPHOROS_DIRECT)',
    )
    .addOption(poolerOption('pooler in front of the database'))
    .option(
      '--replica <url...>',
      'servers that follow the database, which are read from while they are fresh; passwords as for --database',
    )
    .option(
      '--replica-lag <ms>',
      'maximum replication lag of a replica',
      wholeNumber(0, 600_000),
      5_000,
    )
    .option('--host <address>', 'address to listen on', '127.0.0.1')
    .option('--port <number>', 'where to listen; 0 for any free port', wholeNumber(0, 65535), 4620)
    .option(
      '--connections <number>',
      'to the database at most, for all workers together; a fifth is for counts and mileposts',
      wholeNumber(3, 1000),
      10,
    )
    .option(
      '--metrics <address>',
      'address of /metrics, such as 127.0.0.1:9620; default: the service itself',
      address,
    )
    .option('--workers <number>', 'number of processes', wholeNumber(1, 64), 1)
    .option('--time-limit <ms>', 'time limit of one statement', wholeNumber(10, 3_600_000), 15_000)
    .option(
      '--long-limit <ms>',
      'for a statement that requests do not wait for; ten times as long for the order of a large result',
      wholeNumber(1_000, 86_400_000),
      120_000,
    )
    .option(
      '--defer-after <ms>',
      'wait of requests with Prefer: respond-async, before 202 with the progress',
      wholeNumber(50, 60_000),
      800,
    )
    .option(
      '--index-folder <path>',
      'folder of position indexes (default: the folder of temporary files)',
    )
    .option(
      '--index-bytes <number>',
      'maximum size of position indexes',
      wholeNumber(1_048_576, 1_099_511_627_776),
      2_147_483_648,
    )
    .option(
      '--counting-time <ms>',
      'an answer waits for an exact total; then it holds an estimate',
      wholeNumber(0, 60_000),
      200,
    )
    .option(
      '--grace <ms>',
      'time for running requests when the service stops',
      wholeNumber(0, 60_000),
      1_000,
    )
    .option('--explain', 'allow requests for SQL and query plans (default on loopback)')
    .option('--no-explain', 'never allow them')
    .option('--host-name <name...>', 'allowed host names, in addition to loopback')
    .option(
      '--simulate <faults>',
      'simulate delays and failures for tests, such as delay=800ms,fail=5%',
      simulation,
    )
    .option('--unprotected', 'allow everyone who can reach the address, without sign-in')
    .option(
      '--answer-bytes <number>',
      'maximum size of the values in one answer',
      wholeNumber(65_536, 1_073_741_824),
      16_777_216,
    )
    .addOption(
      new Option('--log-level <level>', 'log level')
        .choices(['fatal', 'error', 'warn', 'info', 'debug', 'trace'])
        .default('info'),
    )
    .addHelpText(
      'after',
      `
Examples:
  ephoros serve --database postgres://reader@db.example/shop
  ephoros serve --database postgres:///shop --workers 4 --connections 40
  ephoros serve --database postgres://reader@db/shop --records postgres://keeper@db/shop
  ephoros serve --database postgres://reader@db/shop --changes postgres://writer@db/shop
  EPHOROS_DATABASE=postgres:///shop ephoros serve --config shop.yaml --port 8080
  ephoros serve --database-file shop.url --host 10.0.0.7 --host-name shop.example --unprotected

The options that name a password are read in this order: --database, --database-file (a file that
only you can read), EPHOROS_DATABASE; without a password in them PGPASSWORD, then ~/.pgpass.`,
    )
    .action(async (options: Options, command: Command) => {
      const url = await databaseUrl(options, terminal, command);
      const { environment } = terminal;
      const {
        records = environment.EPHOROS_RECORDS,
        changes = environment.EPHOROS_CHANGES,
        direct = environment.EPHOROS_DIRECT,
      } = options;
      for (const [name, given] of Object.entries({ records, changes, direct })) {
        if (given !== undefined) refuseOtherThanDatabase(given, `--${name}`, command);
      }
      for (const replica of options.replica ?? []) {
        refuseOtherThanDatabase(replica, '--replica', command);
      }
      for (const name of ['records', 'changes', 'direct'] as const) {
        const given = options[name];
        if (given !== undefined) warnOfPassword(given, name, terminal);
      }
      const given = { records, changes, direct };
      const all = {
        ...options,
        ...Object.fromEntries(Object.entries(given).filter(([, url]) => url !== undefined)),
      };
      await serveTables(all, url, terminal, command);
    });
}

async function serveTables(
  options: Options,
  url: string,
  { stderr, environment }: Terminal,
  command: Command,
): Promise<void> {
  // Loaded here only: questions to a service do without.
  const service = await part('@ephoros/service', () => import('@ephoros/service'));
  const { connections, timeLimit, host, port, logLevel, workers, countingTime } = options;
  const { longLimit, deferAfter, indexFolder, indexBytes } = options;
  const { hostName, unprotected = false, answerBytes, explain, simulate } = options;
  const { metrics, grace } = options;
  const file = options.config ?? (existsSync(defaultFile) ? defaultFile : undefined);
  if (file !== undefined && !existsSync(file)) command.error(`error: there is no file ${file}`);
  if (indexFolder !== undefined && !existsSync(indexFolder)) {
    command.error(`error: there is no folder ${indexFolder}: make it, or name another one.`);
  }
  const configuration =
    file === undefined ? service.noConfiguration : await service.readConfiguration(file);
  const folder = consoleFolder();
  const logger = service.createLogger(logLevel);
  const serving = await service.serve({
    database: url,
    connections,
    timeLimit,
    answerBytes,
    configuration,
    records: options.records,
    changes: options.changes,
    direct: options.direct,
    pooler: options.pooler,
    replicas: options.replica,
    replicaLag: options.replicaLag,
    host,
    port,
    workers,
    unprotected,
    logger,
    version,
    countingTime,
    longLimit,
    deferAfter,
    grace,
    extraRoutes: {
      '/report': reportRoutes({ environment, ownHeaders: service.ownHeaders }, logger),
    },
    positionIndex: {
      fileBytes: indexBytes,
      ...(indexFolder === undefined ? {} : { folder: indexFolder }),
    },
    ...(metrics === undefined ? {} : { metricsAt: metrics }),
    ...(explain === undefined ? {} : { explain }),
    ...(simulate === undefined ? {} : { simulate }),
    ...(hostName === undefined ? {} : { hostNames: hostName }),
    ...(folder === undefined ? {} : { consoleFolder: folder }),
  });
  if (!serving.isWorker) {
    for (const warning of serving.warnings) stderr.write(`warning: ${warning}\n`);
    stderr.write(`${serving.tables.length} tables published\n${serving.url}\n`);
  }
  const renew = (): void => {
    const done = serving.renew?.();
    if (done === undefined) {
      logger.warn('SIGUSR2 renews workers: start the service with --workers 2 or more');
      return;
    }
    done.then(
      () => logger.info('All workers are new ones'),
      (thrown: unknown) => logger.error({ err: thrown }, 'A new worker does not start'),
    );
  };
  if (!serving.isWorker) process.on('SIGUSR2', renew);
  await untilStopped();
  process.off('SIGUSR2', renew);
  await serving.close();
}
