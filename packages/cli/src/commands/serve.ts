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
  readonly explain?: boolean;
}

const defaultFile = 'ephoros.yaml';

/** `ephoros serve` */
export function serveCommand(terminal: Terminal): Command {
  const { environment, stderr } = terminal;
  return new Command('serve')
    .description('serve the tables of a database: API and console')
    .option('--database <url>', 'postgres://user@host:port/name (or EPHOROS_DATABASE)', databaseUrl)
    .option('--config <file>', `what to publish and how (default: ${defaultFile}, if there)`)
    .option('--host <address>', 'where to listen', '127.0.0.1')
    .option('--port <number>', 'where to listen; 0 for any free port', wholeNumber(0, 65535), 4620)
    .option('--connections <number>', 'to the database, at most', wholeNumber(1, 1000), 10)
    .option('--time-limit <ms>', 'for one statement', wholeNumber(10, 3_600_000), 15_000)
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
  EPHOROS_DATABASE=postgres:///shop ephoros serve --config shop.yaml --port 8080`,
    )
    .action(async (options: Options, command: Command) => {
      const url = options.database ?? environment.EPHOROS_DATABASE;
      if (url === undefined) {
        command.error('error: give --database or set EPHOROS_DATABASE');
        return;
      }
      // Loaded here only: questions to a service do without.
      const [{ noConfiguration, readConfiguration, serve }, { pino }] = await Promise.all([
        import('@ephoros/service'),
        import('pino'),
      ]);
      const file = options.config ?? (existsSync(defaultFile) ? defaultFile : undefined);
      if (file !== undefined && !existsSync(file)) command.error(`error: there is no file ${file}`);
      const configuration = file === undefined ? noConfiguration : await readConfiguration(file);
      const folder = consoleFolder();
      const { connections, timeLimit, host, port, logLevel } = options;
      const service = await serve({
        database: { url, connections, timeLimit },
        configuration,
        host,
        port,
        logger: pino({ level: logLevel }),
        version,
        ...(options.explain === true ? { explain: true } : {}),
        ...(folder === undefined ? {} : { consoleFolder: folder }),
      });
      stderr.write(`${service.tables.length} tables published\n${service.url}\n`);
      await untilStopped();
      await service.close();
    });
}

function databaseUrl(text: string): string {
  if (URL.canParse(text) && /^postgres(ql)?:$/.test(new URL(text).protocol)) return text;
  throw new InvalidArgumentError('Expected postgres://user@host:port/name.');
}
