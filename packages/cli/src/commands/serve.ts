import { existsSync } from 'node:fs';
import { Command, InvalidArgumentError, Option } from 'commander';
import type { Level } from 'pino';
import type { Terminal } from '../terminal.ts';
import { version } from '../version.ts';
import { consoleFolder } from './console-folder.ts';
import { wholeNumber } from './options.ts';
import { untilStopped } from './until-stopped.ts';

interface Options {
  readonly database?: string;
  readonly config?: string;
  readonly host: string;
  readonly port: number;
  readonly connections: number;
  readonly timeLimit: number;
  readonly logLevel: Level;
  readonly countingTime: number;
  readonly workers: number;
  readonly explain?: boolean;
}

const defaultFile = 'ephoros.yaml';

/** `ephoros serve` */
export function serveCommand(terminal: Terminal): Command {
  const { environment } = terminal;
  return new Command('serve')
    .description('serve the tables of a database: API and console')
    .option('--database <url>', 'postgres://user@host:port/name (or EPHOROS_DATABASE)', databaseUrl)
    .option('--config <file>', `what to publish and how (default: ${defaultFile}, if there)`)
    .option('--host <address>', 'where to listen', '127.0.0.1')
    .option('--port <number>', 'where to listen; 0 for any free port', wholeNumber(0, 65535), 4620)
    .option(
      '--connections <number>',
      'to the database at most, for all workers together; a fifth is for counts and mileposts',
      wholeNumber(3, 1000),
      10,
    )
    .option('--workers <number>', 'processes that serve the port', wholeNumber(1, 64), 1)
    .option('--time-limit <ms>', 'for one statement', wholeNumber(10, 3_600_000), 15_000)
    .option(
      '--counting-time <ms>',
      'an answer waits for an exact total; then it holds an estimate',
      wholeNumber(0, 60_000),
      200,
    )
    .option('--explain', 'let requests ask for their SQL and plan (always on loopback)')
    .addOption(
      new Option('--log-level <level>', 'of the JSON log lines')
        .choices(['fatal', 'error', 'warn', 'info', 'debug', 'trace'])
        .default('info'),
    )
    .addHelpText(
      'after',
      `
Examples:
  ephoros serve --database postgres://reader@db.example/shop
  ephoros serve --database postgres:///shop --workers 4 --connections 40
  EPHOROS_DATABASE=postgres:///shop ephoros serve --config shop.yaml --port 8080`,
    )
    .action(async (options: Options, command: Command) => {
      const url = options.database ?? environment.EPHOROS_DATABASE;
      if (url === undefined) {
        command.error('error: give --database or set EPHOROS_DATABASE');
        return;
      }
      await serveTables(options, url, terminal, command);
    });
}

async function serveTables(
  options: Options,
  url: string,
  { stderr }: Terminal,
  command: Command,
): Promise<void> {
  // Loaded here only: questions to a service do without.
  const [service, { pino }] = await Promise.all([import('@ephoros/service'), import('pino')]);
  const { connections, timeLimit, host, port, logLevel, workers, countingTime } = options;
  const file = options.config ?? (existsSync(defaultFile) ? defaultFile : undefined);
  if (file !== undefined && !existsSync(file)) command.error(`error: there is no file ${file}`);
  const configuration =
    file === undefined ? service.noConfiguration : await service.readConfiguration(file);
  const database = { url, connections, timeLimit };
  const logger = pino({ level: logLevel });
  const member = service.membership();
  const say = (where: string, tables: readonly string[]): void => {
    stderr.write(`${tables.length} tables published\n${where}\n`);
  };
  if (workers > 1 && member === undefined) {
    const { tables } = await service.look(database, configuration);
    const crew = await service.leadCrew({ database, workers, logger });
    say(service.urlOf(host, crew.port), tables);
    await untilStopped();
    await crew.close();
    return;
  }
  const folder = consoleFolder();
  const serving = await service.serve({
    database: member === undefined ? database : member.share(database, workers),
    configuration,
    host,
    port,
    logger,
    version,
    countingTime,
    ...(member === undefined ? {} : { surveyor: member.surveyor, metrics: member.metrics }),
    ...(options.explain === true ? { explain: true } : {}),
    ...(folder === undefined ? {} : { consoleFolder: folder }),
  });
  if (member === undefined) say(serving.url, serving.tables);
  await untilStopped();
  await serving.close();
  // The channel to the leading process would keep a worker alive.
  member?.leave();
}

function databaseUrl(text: string): string {
  if (URL.canParse(text) && /^postgres(ql)?:$/.test(new URL(text).protocol)) return text;
  throw new InvalidArgumentError('Expected postgres://user@host:port/name.');
}
