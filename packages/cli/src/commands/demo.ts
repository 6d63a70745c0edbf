import type { Simulation } from '@ephoros/core/simulation';
import { join, resolve } from 'node:path';
import type { RunningService, ServeOptions } from '@ephoros/service';
import type { IdentityProvider } from '@ephoros/demo';
import { Command } from 'commander';
import { progressOn, type Progress } from '../output/progress.ts';
import type { Terminal } from '../terminal.ts';
import { reportRoutes } from '../report/routes.ts';
import { version } from '../version.ts';
import { consoleFolder } from './console-folder.ts';
import { simulation, wholeNumber } from './options.ts';
import { untilStopped } from './until-stopped.ts';
import { part } from './parts.ts';

interface Options {
  readonly passages: number;
  readonly seed: number;
  readonly port?: number;
  readonly postgresPort: number;
  readonly folder: string;
  readonly traffic?: boolean;
  readonly signIn?: boolean;
  readonly providerPort: number;
  readonly simulate?: Simulation;
}

const defaultPort = 4620;
/** Ports behind the usual one that are tried. */
const mostTried = 50;
const database = 'lowmere';

/** `ephoros demo` */
export function demoCommand(terminal: Terminal): Command {
  return new Command('demo')
    .description('serve demo data from a database of its own')
    .option('--passages <number>', 'number of passages', wholeNumber(0, 10_000_000), 200_000)
    .option('--seed <number>', 'random seed', wholeNumber(0, 2 ** 31), 7)
    .option(
      '--port <number>',
      `port of the service (default: ${defaultPort} or the next free port)`,
      wholeNumber(0, 65535),
    )
    .option('--postgres-port <number>', 'port of its PostgreSQL', wholeNumber(1, 65535), 54_620)
    .option('--folder <path>', 'data folder of its PostgreSQL', join('.ephoros', 'demo'))
    .option(
      '--simulate <faults>',
      'simulate delays and failures, such as delay=800ms,fail=5%',
      simulation,
    )
    .option('--traffic', 'simulate users who add, change and remove passages')
    .option('--sign-in', 'require sign-in, with three users with different rights')
    .option(
      '--provider-port <number>',
      'port of the demo identity provider',
      wholeNumber(1, 65535),
      4720,
    )
    .addHelpText(
      'after',
      '\nExamples:\n  ephoros demo\n  ephoros demo --traffic\n  ephoros demo --sign-in\n  ephoros demo --passages 10000000 --port 8080',
    )
    .action(async (options: Options) => {
      // Loaded here only: questions to a service do without.
      const { makeScenario, startCluster, startTraffic } = await part(
        '@ephoros/demo',
        () => import('@ephoros/demo'),
      );
      const progress = progressOn(terminal);
      // A signal during the preparations ends them with everything stopped, too.
      const stopped = untilStopped();
      const cluster = await startCluster({
        folder: resolve(options.folder),
        port: options.postgresPort,
        say: progress.say,
      });
      try {
        const made = await Promise.race([
          makeScenario({
            maintenanceUrl: cluster.url('postgres'),
            database,
            url: cluster.url(database),
            passages: options.passages,
            seed: options.seed,
            progress: progress.step,
          }),
          stopped,
        ]);
        if (typeof made === 'string') return;
        if (!made) progress.say('The demo data is there already');
        const provider = options.signIn === true ? await openProvider(options) : undefined;
        const service = await serveDemo(options, cluster.url(database), progress, provider?.issuer);
        terminal.stdout.write(
          `\nThe Lowmere Navigation is open: ${service.url}\nCtrl-C stops it.\n`,
        );
        const traffic =
          options.traffic === true
            ? startTraffic({ url: cluster.url(database), say: progress.say })
            : undefined;
        if (provider !== undefined) {
          terminal.stdout.write(
            `People sign in at ${provider.issuer}, as one of three.\nTokens: EPHOROS_RECORDS=${cluster.url(database)} npx ephoros token add NAME --role keeper --claim lock=7\n`,
          );
        }
        if (traffic !== undefined) terminal.stdout.write('Keepers are at work.\n');
        await stopped;
        progress.say('Stopping');
        await traffic?.stop();
        await service.close();
        await provider?.stop();
      } finally {
        await cluster.stop();
      }
    });
}

async function serveDemo(
  { port, simulate }: Options,
  url: string,
  progress: Progress,
  issuer: string | undefined,
): Promise<RunningService> {
  const { createLogger, ownHeaders, parseConfiguration, PortTakenError, readConfiguration, serve } =
    await part('@ephoros/service', () => import('@ephoros/service'));
  const { configurationFile, pictures, signInConfiguration } = await import('@ephoros/demo');
  const folder = consoleFolder();
  const logger = createLogger('warn');
  const options: ServeOptions = {
    database: url,
    records: url,
    changes: url,
    configuration:
      issuer === undefined
        ? await readConfiguration(configurationFile)
        : parseConfiguration(signInConfiguration(issuer), 'the demo with --sign-in'),
    logger,
    version,
    extraRoutes: {
      '/demo/boats': pictures(),
      '/report': reportRoutes({ environment: process.env, ownHeaders }, logger),
    },
    ...(simulate === undefined ? {} : { simulate }),
    ...(folder === undefined ? {} : { consoleFolder: folder }),
  };
  if (port !== undefined) return serve({ ...options, port });
  for (let tried = defaultPort; ; tried += 1) {
    try {
      return await serve({ ...options, port: tried });
    } catch (thrown) {
      if (!(thrown instanceof PortTakenError) || tried === defaultPort + mostTried) throw thrown;
      progress.say(`Port ${tried} is taken; trying ${tried + 1}`);
    }
  }
}

/** Where people sign in, who may come back to any port that the demo may be served at. */
async function openProvider({ port, providerPort }: Options): Promise<IdentityProvider> {
  const { startIdentityProvider } = await import('@ephoros/demo');
  const usual = Array.from({ length: mostTried + 1 }, (_none, index) => defaultPort + index);
  const redirects = (port === undefined ? usual : [port]).flatMap((one) =>
    ['127.0.0.1', 'localhost'].map((host) => `http://${host}:${one}/sign-in/back`),
  );
  return startIdentityProvider({ port: providerPort, redirects });
}
