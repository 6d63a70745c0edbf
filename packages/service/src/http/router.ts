import { randomUUID } from 'node:crypto';
import type { ServerResponse } from 'node:http';
import type { Simulation } from '@ephoros/core/simulation';
import { Router, type Request } from 'express';
import { pino, type Logger } from 'pino';
import type { Access } from '../access/index.ts';
import { Engine, tablesOver, type EngineOptions, type Tables } from '../engine/index.ts';
import { createApi } from './api.ts';
import type { ApiRequest } from './exchange.ts';
import { answerProblem, unauthorized } from './problems.ts';

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
  /** Slowness and failures on demand, for developers; none by default. */
  readonly simulate?: Simulation;
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

type Answers = AnsweringOptions & { readonly version?: string };

/** The router over an engine. */
export function routerOver(engine: Engine, options: Answers): Router {
  const api = apiOver(engine, options);
  const router = Router({ caseSensitive: true, strict: true });
  router.use((request, response) => api(request, response));
  return router;
}

/** The API over an engine, and an answer to everything that goes wrong. */
export function apiOver(
  engine: Engine,
  options: Answers,
): (request: ApiRequest, response: ServerResponse) => void {
  const { access, explain = false, version = '1', logger = defaultLogger() } = options;
  const callers = new WeakMap<ApiRequest, string>();
  const accessOf = async (request: ApiRequest): Promise<Access | undefined> => {
    const allowed = await access?.(request as Request);
    if (access !== undefined && allowed === undefined) throw unauthorized();
    if (allowed?.caller !== undefined) callers.set(request, allowed.caller);
    return allowed;
  };
  const mayExplain = (request: ApiRequest): boolean =>
    typeof explain === 'function' ? explain(request as Request) : explain;
  const api = createApi(engine, {
    accessOf: access === undefined ? () => undefined : accessOf,
    explain: mayExplain,
    version,
    simulate: options.simulate,
  });
  return (request, response) => {
    if (!response.hasHeader('X-Request-Id')) response.setHeader('X-Request-Id', randomUUID());
    api(request, response).catch((thrown: unknown) => {
      answerProblem(thrown, request, response, { logger, caller: callers.get(request) });
    });
  };
}

function defaultLogger(): Logger {
  return pino({ level: 'error' }, pino.destination(2));
}
