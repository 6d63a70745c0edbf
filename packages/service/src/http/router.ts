import { randomUUID } from 'node:crypto';
import { Router, type Request } from 'express';
import { pino, type Logger } from 'pino';
import { restrict, type Access } from '../access/index.ts';
import type { Catalog } from '../catalog/index.ts';
import {
  openGround,
  tablesOver,
  type Ground,
  type Tables,
  type TablesOptions,
} from '../tables/index.ts';
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
  /** How long an answer waits for an exact total, in ms; 200 by default. */
  readonly countingTime?: number;
  /** Where failures are logged; on standard error by default, as JSON lines. */
  readonly logger?: Logger;
}

export interface RouterOptions extends TablesOptions, AnsweringOptions {}

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
  const ground = openGround(options, logger);
  const tables = tablesOver(ground);
  return Object.assign(routerOver(ground, { ...options, logger }), {
    tables,
    close: () => tables.close(),
  });
}

/** The router over an open ground: the routes, and an answer to everything that goes wrong. */
export function routerOver(
  { database, surveyor, catalog }: Ground,
  options: AnsweringOptions & { readonly version?: string },
): Router {
  const { access, explain = false, countingTime = 200, version = '1' } = options;
  const { logger = defaultLogger() } = options;
  const mayExplain = typeof explain === 'function' ? explain : (): boolean => explain;
  const callers = new WeakMap<Request, string>();
  const catalogFor = async (request: Request): Promise<Catalog> => {
    const whole = await catalog.read();
    if (access === undefined) return whole;
    const allowed = await access(request);
    if (allowed === undefined) throw unauthorized();
    if (allowed.caller !== undefined) callers.set(request, allowed.caller);
    return restrict(whole, allowed);
  };
  const router = Router({ caseSensitive: true, strict: true });
  router.use((_request, response, next) => {
    if (!response.hasHeader('X-Request-Id')) response.setHeader('X-Request-Id', randomUUID());
    next();
  });
  const sources = {
    database,
    surveyor,
    catalog: catalogFor,
    renewCatalog: catalog.renewedAfter,
    explain: mayExplain,
    countingTime,
  };
  router.use(routes(sources, version));
  router.use(problemHandler(logger, (request) => callers.get(request)));
  return router;
}

function defaultLogger(): Logger {
  return pino({ level: 'error' }, pino.destination(2));
}
