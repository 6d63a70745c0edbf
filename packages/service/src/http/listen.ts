import { createServer, type Server } from 'node:http';
import { Server as NetServer, type AddressInfo } from 'node:net';
import type { Request } from 'express';
import { isLoopback } from '../config/index.ts';
import { createApplication, isForwarded, type ApplicationOptions } from './application.ts';
import { refuseUnreadable } from './unreadable.ts';

export interface ListenOptions extends Omit<ApplicationOptions, 'explain'> {
  /** 127.0.0.1 by default. */
  readonly host?: string;
  /** 4620 by default; 0 for any free port. */
  readonly port?: number;
  /**
   * Whether requests may ask how their answer came about. By default those of callers with a role that says so;
   * where callers are not known on loopback alone, and there only those that nothing has forwarded.
   */
  readonly explain?: boolean;
  /** Where metrics, health and readiness are read by anyone who can reach it; else next to all the rest. */
  readonly metricsAt?: { readonly host: string; readonly port: number };
  /**
   * Ms that connections stay open when the service ends on which nothing is requested at the moment: somebody may be about
   * to ask. 0 by default.
   */
  readonly grace?: number;
  /** Ms within which a request must have come whole; 120,000 by default, a sixth of that for its head. */
  readonly requestLimit?: number;
  /** Ms that a client may take nothing of what it is sent, before it is let go; 60,000 by default. */
  readonly readerLimit?: number;
}

/** A server that listens. */
export interface Listening {
  readonly url: string;
  /** Lets requests under way finish (10 s at most), then closes all connections. */
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

const waitLimit = 10_000;
/**
 * Milliseconds an idle connection stays open: longer than proxies commonly keep theirs (60 s). Else
 * one of them may send a request just as the service hangs up, and its user sees an error.
 */
const keepAlive = 75_000;
/** Bytes of a request's head; room for several long parameters, percent-encoded. */
const mostHeader = 128 * 1024;

/** Starts a server around an application. @throws PortTakenError */
export async function listen(options: ListenOptions): Promise<Listening> {
  const { host = '127.0.0.1', port = 4620, ...others } = options;
  const { requestLimit = 120_000, readerLimit = 60_000, grace = 0, metricsAt, ...rest } = others;
  const own = isLoopback(host);
  // On loopback the caller is at the machine itself, unless somebody asks for others.
  const explain =
    rest.explain ??
    (rest.signIn === undefined ? (request: Request) => own && !isForwarded(request) : true);
  const hostNames = rest.hostNames ?? (own ? [host] : undefined);
  const application = createApplication({
    ...rest,
    ...(hostNames === undefined ? {} : { hostNames }),
    explain,
    metricsApart: metricsAt !== undefined,
  });
  const bounds = {
    maxHeaderSize: mostHeader,
    requestTimeout: requestLimit,
    headersTimeout: requestLimit / 6,
    // How often it is looked at.
    connectionsCheckingInterval: Math.min(10_000, requestLimit / 4),
  };
  const server = createServer(bounds, application.answer);
  server.setTimeout(readerLimit, (socket) => {
    // Where nothing waits to be taken it is the service itself that is slow.
    if (socket.writableLength > 0) socket.destroy();
  });
  server.keepAliveTimeout = keepAlive;
  server.on('clientError', refuseUnreadable);
  await listening(server, { host, port });
  const { port: bound } = server.address() as AddressInfo;
  const watched = createServer(application.watched);
  if (metricsAt !== undefined) {
    try {
      await listening(watched, metricsAt);
    } catch (thrown) {
      server.close();
      throw thrown;
    }
  }
  return {
    url: urlOf(host, bound),
    close: async () => {
      application.leave();
      await leave(server, grace);
      watched.close();
      watched.closeAllConnections();
    },
  };
}

/** Lets a server end: nobody new comes in, and those who are there are answered once more. */
async function leave(server: Server, grace: number): Promise<void> {
  // As http has it, connections would be closed at once on which a request may be on its way.
  const closed = new Promise((resolve) => NetServer.prototype.close.call(server, resolve));
  const idle = setTimeout(() => {
    server.closeIdleConnections();
    // What is still answered is the last on its connection.
    server.keepAliveTimeout = 1;
  }, grace);
  const impatient = setTimeout(() => server.closeAllConnections(), grace + waitLimit);
  await closed;
  clearTimeout(idle);
  clearTimeout(impatient);
  // What http does in addition.
  server.close();
}

/** @throws PortTakenError */
function listening(
  server: Server,
  { host, port }: { readonly host: string; readonly port: number },
): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      reject(error.code === 'EADDRINUSE' ? new PortTakenError(host, port) : error);
    });
    server.listen(port, host, resolve);
  });
}
