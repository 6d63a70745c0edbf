import { randomUUID } from 'node:crypto';
import { Router, type Request } from 'express';
import { pino, type Logger } from 'pino';
import type { Access } from '../access/index.ts';
import { Engine, tablesOver, type EngineOptions, type Tables } from '../engine/index.ts';
import { problemHandler, unauthorized } from './problems.ts';
import { routes } from './routes.ts';

/** How the routes answer, whatever they answer from. */
export interface AnsweringOptions {
  /**
   * Who asks, and what they may see; asked for every request. Undefined refuses the request
   * (401). Without it every caller sees all tables.
   */
  readonly access?: (request: Request) => Access | undefined | Promise<Access | undefined>;
  /**
   * Whether requests may ask how their answer came about; false by default. Callers who may not
   * see everything never may: plans name what is hidden.
   */
  readonly explain?: boolean | ((request: Request) => boolean);
  /** Where failures are logged; on standard error by default, as JSON lines. */
  readonly logger?: Logger;
}

export interface RouterOptions extends EngineOptions, AnsweringOptions {}

/** The routes of an API over tables, to be mounted in an application under any path. */
export interface TablesRouter extends Router {
  /** The same tables without HTTP, for routes of one's own. */
  readonly tables: Tables;
  /** Closes all connections but those of a pool that was given. */
  readonly close: () => Promise<void>;
}

/**
 * An Express router over a database: `app.use('/records', signedIn, createRouter({ database: pool
 * }))`. Reads the database's catalog at the first request. @throws ConfigurationError
 */
export function createRouter(options: RouterOptions): TablesRouter {
  const { logger = defaultLogger() } = options;
  const engine = new Engine(options, logger);
  const tables = tablesOver(engine);
  return Object.assign(routerOver(engine, { ...options, logger }), {
    tables,
    close: () => tables.close(),
  });
}

/** The router over an engine: the routes, and an answer to everything that goes wrong. */
export function routerOver(
  engine: Engine,
  options: AnsweringOptions & { readonly version?: string },
): Router {
  const { access, explain = false, version = '1', logger = defaultLogger() } = options;
  const callers = new WeakMap<Request, string>();
  const accessOf = async (request: Request): Promise<Access | undefined> => {
    if (access === undefined) return undefined;
    const allowed = await access(request);
    if (allowed === undefined) throw unauthorized();
    if (allowed.caller !== undefined) callers.set(request, allowed.caller);
    return allowed;
  };
  const router = Router({ caseSensitive: true, strict: true });
  router.use((_request, response, next) => {
    if (!response.hasHeader('X-Request-Id')) response.setHeader('X-Request-Id', randomUUID());
    next();
  });
  const mayExplain = typeof explain === 'function' ? explain : (): boolean => explain;
  router.use(routes(engine, { accessOf, explain: mayExplain, version }));
  router.use(problemHandler(logger, (request) => callers.get(request)));
  return router;
}

function defaultLogger(): Logger {
  return pino({ level: 'error' }, pino.destination(2));
}
