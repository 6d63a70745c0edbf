import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readCatalog } from '../catalog/index.ts';
import type { ConfigurationFile } from '../config/index.ts';
import { connectionShares, Database, type DatabaseOptions } from '../run/index.ts';
import { LocalSurveyor, type Surveyor, type SurveyorOptions } from '../survey/index.ts';
import { createApplication, type ApplicationOptions } from './application.ts';
import { refuseUnreadable } from './unreadable.ts';

export interface ServeOptions extends Omit<ApplicationOptions, 'database' | 'surveyor'> {
  readonly database: DatabaseOptions;
  /** How totals and mileposts are remembered. */
  readonly survey?: SurveyorOptions;
  /** Who remembers them instead, such as another process; closed with the service. */
  readonly surveyor?: Surveyor;
  /** 127.0.0.1 by default. */
  readonly host?: string;
  /** 4620 by default; 0 for any free port. */
  readonly port?: number;
}

export interface RunningService {
  readonly url: string;
  /** Names of the published tables. */
  readonly tables: readonly string[];
  /** Lets requests under way finish (10 s at most), then closes everything. */
  close(): Promise<void>;
}

/** The port is in use by another program. */
export class PortTakenError extends Error {
  constructor(host: string, port: number) {
    super(`Port ${port} on ${host} is taken. Stop what uses it, or choose another with --port.`);
    this.name = 'PortTakenError';
  }
}

/** The address of a service that listens there. */
export function urlOf(host: string, port: number): string {
  return `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
}

/**
 * Looks once whether the database answers and which tables are published.
 * @throws ConfigurationError, Failure
 */
export async function look(
  options: DatabaseOptions,
  configuration: ConfigurationFile,
): Promise<{ readonly tables: readonly string[] }> {
  const database = new Database({ ...options, connections: 1 });
  try {
    await database.ping();
    const { tables } = await readCatalog(database.pool, configuration);
    return { tables: [...tables.keys()] };
  } finally {
    await database.close();
  }
}

const patience = 10_000;
/** Bytes of a request's head; room for several long parameters, percent-encoded. */
const mostHeader = 128 * 1024;

/**
 * Starts the service; resolves when it listens and has read the catalog once.
 * @throws PortTakenError, ConfigurationError, Failure
 */
export async function serve(options: ServeOptions): Promise<RunningService> {
  const { host = '127.0.0.1', port = 4620, database: databaseOptions, survey, ...rest } = options;
  const { workers, background, quick } = connectionShares(databaseOptions);
  const database = new Database(rest.surveyor === undefined ? workers : databaseOptions);
  const surveyor =
    rest.surveyor ?? new LocalSurveyor(new Database(background), new Database(quick), survey);
  const close = async (): Promise<void> => {
    await Promise.all([database.close(), surveyor.close()]);
  };
  try {
    await database.ping();
    const { tables } = await readCatalog(database.pool, options.configuration);
    // On loopback whoever asks is at the machine itself.
    const explain =
      rest.explain ?? (host === '::1' || host === 'localhost' || host.startsWith('127.'));
    const application = createApplication({ ...rest, explain, database, surveyor });
    const server = createServer({ maxHeaderSize: mostHeader }, application);
    server.on('clientError', refuseUnreadable);
    await new Promise<void>((resolve, reject) => {
      server.once('error', (error: NodeJS.ErrnoException) => {
        reject(error.code === 'EADDRINUSE' ? new PortTakenError(host, port) : error);
      });
      server.listen(port, host, resolve);
    });
    const { port: bound } = server.address() as AddressInfo;
    return {
      url: urlOf(host, bound),
      tables: [...tables.keys()],
      close: async () => {
        const closed = new Promise((resolve) => server.close(resolve));
        server.closeIdleConnections();
        const impatient = setTimeout(() => server.closeAllConnections(), patience);
        await closed;
        clearTimeout(impatient);
        await close();
      },
    };
  } catch (thrown) {
    await close();
    throw thrown;
  }
}
