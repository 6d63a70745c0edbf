import { randomUUID } from 'node:crypto';
import type { ServerResponse } from 'node:http';
import type { Simulation } from '@ephoros/core/simulation';
import { Router, type Request } from 'express';
import { pino, type Logger } from 'pino';
import type { Access } from '../access/index.ts';
import { Engine, tablesOver, type EngineOptions, type Tables } from '../engine/index.ts';
import { configurationOf, type SpellingConfiguration } from '../config/index.ts';
import { createOData, odataError } from '../odata/index.ts';
import { createSpelled, spellingsAt } from '../spelling/index.ts';
import { createApi, type Api } from './api.ts';
import type { ApiRequest, RequestPolicy } from './exchange.ts';
import { answerProblem } from './problems.ts';
import { unauthorized } from './refusals.ts';

/** How the routes answer, whatever they answer from. */
export interface AnsweringOptions {
  /**
   * Who asks, and what they may see; requested every request. Undefined refuses the request
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
  /** The same tables by OData 4.01, read-only, to be mounted under a path of their own. */
  readonly odata: Router;
  /** The paths of the configuration's spellings; every other request goes on to the next route. */
  readonly spelled: Router;
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
  const { configuration = {} } = options;
  const { spelling: spellings = [], signIn, roles } = configurationOf(configuration).configuration;
  if ((signIn ?? roles) !== undefined && options.access === undefined) {
    throw new TypeError(
      'signIn and roles are settings of the service by itself. For a router, set access: it says who may see what.',
    );
  }
  const answering = { ...options, logger, spellings };
  return Object.assign(routerOver(engine, answering), {
    odata: routerOver(engine, answering, 'odata'),
    spelled: routerOver(engine, answering, 'spelled'),
    tables,
    close: () => tables.close(),
  });
}

type Answers = AnsweringOptions &
  Pick<RequestPolicy, 'count' | 'note' | 'nameOf' | 'streams'> & {
    readonly version?: string;
    /** Paths where pages ask in words of their own; none by default. */
    readonly spellings?: readonly SpellingConfiguration[];
  };

/** The router over an engine: of the API, of the same tables as OData, or of spellings of one's own. */
export function routerOver(
  engine: Engine,
  options: Answers,
  what: 'api' | 'odata' | 'spelled' = 'api',
): Router {
  const answer = answersOver(engine, options)[what];
  const router = Router({ caseSensitive: true, strict: true });
  router.use((request, response, next) => {
    if (!answer(request, response)) next();
  });
  return router;
}

/**
 * The API over an engine, the same tables as OData and in spellings of one's own, and an answer to everything that
 * goes wrong.
 */
export function answersOver(
  engine: Engine,
  options: Answers,
): Readonly<Record<'api' | 'odata' | 'spelled', Answer>> {
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
  const { count, note, nameOf, streams } = options;
  const policy: RequestPolicy = {
    accessOf: access === undefined ? (): undefined => undefined : accessOf,
    ...(count && { count }),
    ...(note && { note }),
    nameOf,
    streams,
  };
  const api = createApi(engine, {
    policy,
    explain: mayExplain,
    version,
    simulate: options.simulate,
  });
  const odata = createOData(engine, policy);
  const spelled = createSpelled(engine, policy);
  const spelledAt = spellingsAt(options.spellings ?? []);
  const over =
    (answer: Api, print?: typeof odataError): Answer =>
    (request, response) => {
      if (!response.hasHeader('X-Request-Id')) response.setHeader('X-Request-Id', randomUUID());
      answer(request, response).catch((thrown: unknown) => {
        answerProblem(thrown, request, response, {
          logger,
          print,
          caller: callers.get(request),
        });
      });
      return true;
    };
  return {
    api: over(api),
    odata: over(odata, odataError),
    spelled: (request, response) => {
      const [path = ''] = (request.url ?? '').split('?');
      const found = spelledAt(path);
      return found !== undefined && over((...given) => spelled(found, ...given))(request, response);
    },
  };
}

/** Answers a request, whatever comes of it; false where it is none of its own. */
type Answer = (request: ApiRequest, response: ServerResponse) => boolean;

function defaultLogger(): Logger {
  return pino({ level: 'error' }, pino.destination(2));
}
