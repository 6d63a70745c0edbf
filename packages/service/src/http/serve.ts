import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Request } from 'express';
import { readCatalog, readRole, type RoleRow } from '../catalog/index.ts';
import type { ConfigurationFile } from '../config/index.ts';
import { connectionShares, Database, type DatabaseOptions } from '../run/index.ts';
import { LocalSurveyor, type Surveyor, type SurveyorOptions } from '../survey/index.ts';
import { createApplication, isForwarded, type ApplicationOptions } from './application.ts';
import { refuseUnreadable } from './unreadable.ts';

export interface ServeOptions extends Omit<
  ApplicationOptions,
  'database' | 'surveyor' | 'explain'
> {
  readonly database: DatabaseOptions;
  /** How totals and mileposts are remembered. */
  readonly survey?: SurveyorOptions;
  /** Who remembers them instead, such as another process; closed with the service. */
  readonly surveyor?: Surveyor;
  /** 127.0.0.1 by default. */
  readonly host?: string;
  /** 4620 by default; 0 for any free port. */
  readonly port?: number;
  /**
   * Whether requests may ask how their answer came about. By default on loopback alone, and there
   * only those that nothing has forwarded.
   */
  readonly explain?: boolean;
  /** Serves everybody who can reach the address, without any rules of access. */
  readonly unprotected?: boolean;
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

/** The service would show everything to everybody who can reach it. */
export class UnprotectedError extends Error {
  constructor(host: string) {
    super(
      `Whoever can reach ${host} would see every published table: there are no rules of access. Listen on 127.0.0.1, use the router with rules of access, or say --unprotected where that is meant.`,
    );
    this.name = 'UnprotectedError';
  }
}

/** @throws UnprotectedError beyond loopback, where there are neither rules nor the word for it */
export function refuseUnprotected({
  host,
  access,
  unprotected = false,
}: {
  readonly host: string;
  readonly access?: unknown;
  readonly unprotected?: boolean;
}): void {
  if (!isLoopback(host) && access === undefined && !unprotected) throw new UnprotectedError(host);
}

function isLoopback(host: string): boolean {
  return host === '::1' || host === 'localhost' || host.startsWith('127.');
}

/** The address of a service that listens there. */
export function urlOf(host: string, port: number): string {
  return `http://${host.includes(':') ? `[${host}]` : host}:${port}`;
}

/**
 * Looks once whether the database answers, which tables are published, and what the role could do
 * beyond reading them. @throws ConfigurationError, Failure
 */
export async function look(
  options: DatabaseOptions,
  configuration: ConfigurationFile,
): Promise<{ readonly tables: readonly string[]; readonly role: RoleRow }> {
  const database = new Database({ ...options, connections: 1 });
  try {
    await database.ping();
    const { tables } = await readCatalog(database, configuration);
    return { tables: [...tables.keys()], role: await readRole(database) };
  } finally {
    await database.close();
  }
}

const patience = 10_000;
/**
 * Milliseconds an idle connection stays open: longer than proxies commonly keep theirs (60 s). Else
 * one of them may send a request just as the service hangs up, and its user sees an error.
 */
const keepAlive = 75_000;
/** Bytes of a request's head; room for several long parameters, percent-encoded. */
const mostHeader = 128 * 1024;

/**
 * Starts the service; resolves when it listens and has read the catalog once.
 * @throws UnprotectedError, PortTakenError, ConfigurationError, Failure
 */
export async function serve(options: ServeOptions): Promise<RunningService> {
  const { host = '127.0.0.1', port = 4620, database: databaseOptions, survey, ...rest } = options;
  refuseUnprotected({ ...rest, host });
  const { workers, background, quick } = connectionShares(databaseOptions);
  const database = new Database(rest.surveyor === undefined ? workers : databaseOptions);
  const surveyor =
    rest.surveyor ?? new LocalSurveyor(new Database(background), new Database(quick), survey);
  const close = async (): Promise<void> => {
    await Promise.all([database.close(), surveyor.close()]);
  };
  try {
    await database.ping();
    const { tables } = await readCatalog(database, options.configuration);
    const own = isLoopback(host);
    // On loopback whoever asks is at the machine itself, unless somebody asks for others.
    const explain = rest.explain ?? ((request: Request) => own && !isForwarded(request));
    const hostNames = rest.hostNames ?? (own ? [host] : undefined);
    const application = createApplication({
      ...rest,
      ...(hostNames === undefined ? {} : { hostNames }),
      explain,
      database,
      surveyor,
    });
    const server = createServer({ maxHeaderSize: mostHeader }, application);
    server.keepAliveTimeout = keepAlive;
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
        // What is still answered is the last on its connection.
        server.keepAliveTimeout = 1;
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
