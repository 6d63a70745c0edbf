import { randomBytes, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';
import { join } from 'node:path';
import compression from 'compression';
import express, {
  type ErrorRequestHandler,
  type Express,
  type RequestHandler,
  type Response,
} from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import type { Engine } from '../engine/index.ts';
import { noteOwn, type SignIn } from '../sign-in/index.ts';
import {
  markCompressed,
  setRoute,
  worthCompressing,
  type ApiRequest,
  type RequestPolicy,
} from './exchange.ts';
import type { SpellingConfiguration } from '../config/index.ts';
import { docsPages, docsPath } from './docs-pages.ts';
import { hostTest } from './host-names.ts';
import { createMetrics } from './metrics.ts';
import { isForeign, sharing, type OtherOrigins } from './origins.ts';
import { answerProblem } from './problems.ts';
import { foreignPage, misdirected, notAllowed, notFound, unauthorized } from './refusals.ts';
import { signInRoutes } from './sign-in-routes.ts';
import { spellingsAt } from '../spelling/index.ts';
import { answersOver, routerOver, type AnsweringOptions } from './router.ts';

export interface ApplicationOptions
  extends
    AnsweringOptions,
    OtherOrigins,
    Pick<RequestPolicy, 'count' | 'note' | 'nameOf' | 'streams'> {
  readonly engine: Engine;
  readonly logger: Logger;
  /** The folder of the built console; without it only the API is served. */
  readonly consoleFolder?: string;
  /** Further routes next to the API, by path, such as the demo's pictures, or reports. */
  readonly extraRoutes?: Readonly<Record<string, RequestHandler>>;
  readonly version: string;
  /**
   * The names that the service goes by in the Host header of requests, in addition to those of loopback;
   * others are refused, so that no page elsewhere can lead a browser here. Any by default.
   */
  readonly hostNames?: readonly string[];
  /** Paths where pages ask in words of their own; none by default. */
  readonly spellings?: readonly SpellingConfiguration[];
  /** Whether the tables are served by OData as well; false by default. */
  readonly odata?: boolean;
  /** Signing in by a browser; nothing of that by default. */
  readonly signIn?: SignIn;
  /** What the whole is called, where somebody is to sign in. */
  readonly title?: string | undefined;
  /** Whether metrics are read at a port of their own alone. */
  readonly metricsApart?: boolean;
  /** The text of `/metrics`, where this process is one of several; by default its own. */
  readonly metrics?: () => Promise<string>;
}

const apiPath = '/api';
const odataPath = '/odata';

/**
 * The application: the API, the console, health. What every request needs is done here once; the
 * API follows at once, all the rest by Express.
 */
export function createApplication(options: ApplicationOptions): Application {
  const { engine, logger, hostNames } = options;
  const metrics = createMetrics(engine.database, options.metrics);
  const log = requestLog(logger);
  const isKnownHost = hostNames === undefined ? (): boolean => true : hostTest(hostNames);
  const state: State = { leaving: false };
  const watched = createWatched(options, state, metrics.answer);
  const pages = createPages(
    options,
    state,
    options.metricsApart === true ? undefined : metrics.answer,
  );
  // Access rules get the requests of Express: there the API is one of the pages.
  const answers = options.access === undefined ? answersOver(engine, options) : undefined;
  const paths = options.odata === true ? [apiPath, odataPath] : [apiPath];
  const spelledAt = spellingsAt(options.spellings ?? []);
  const isSpelled = (url = ''): boolean => spelledAt(url.split('?')[0] ?? '') !== undefined;
  const share = sharing(options);
  const compress = compression({ threshold: worthCompressing });
  const answerAll: RequestListener = (request, response) => {
    if (state.leaving) response.setHeader('Connection', 'close');
    noteOwn(request);
    response.setHeader('X-Request-Id', randomUUID());
    log?.(request, response);
    metrics.observe(response);
    for (const [name, value] of securityHeaders) response.setHeader(name, value);
    if (!isKnownHost(request)) {
      answerProblem(misdirected(), request, response, { logger });
      return;
    }
    if (isForeign(request, options)) {
      answerProblem(foreignPage(), request, response, { logger });
      return;
    }
    const answer = (): void => {
      const path = paths.find((one) => isUnder(one, request.url));
      const handle = (): void => {
        if (answers === undefined || path === undefined) pages(request, response);
        else answers[path === apiPath ? 'api' : 'odata'](mounted(request, path), response);
      };
      const isRead = path !== undefined || isSpelled(request.url);
      if (isRead && share !== undefined) share(request, response, handle);
      else handle();
    };
    if (paysToCompress(request)) {
      markCompressed(response);
      compress(request as never, response as never, answer);
    } else answer();
  };
  return {
    answer: answerAll,
    watched: (request, response) => {
      watched(request, response);
    },
    leave: () => {
      state.leaving = true;
      // Those who watch would keep it from ending.
      void engine.live.close();
    },
  };
}

/** Whether the service is about to end. */
interface State {
  leaving: boolean;
}

/** What the service answers, and to whom. */
export interface Application {
  readonly answer: RequestListener;
  /** Health, readiness and metrics alone, for a port of their own. */
  readonly watched: RequestListener;
  /** From now on each answer is the last on its connection, and the service is not ready for more. */
  readonly leave: () => void;
}

/** What those ask who watch over the service. */
function createWatched(
  { engine, logger }: ApplicationOptions,
  state: State,
  metrics: RequestHandler,
): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use((_request, response, next) => {
    response.setHeader('X-Request-Id', randomUUID());
    next();
  });
  addHealth(app, { engine, logger }, state);
  app.get('/metrics', metrics);
  addEnd(app, logger);
  return app;
}

function addHealth(
  app: Express,
  { engine, logger }: Pick<ApplicationOptions, 'engine' | 'logger'>,
  state: State,
): void {
  app.get('/health', (_request, response) => {
    setRoute(response, '/health');
    response.json({ status: 'alive' });
  });
  app.get('/ready', async (_request, response) => {
    setRoute(response, '/ready');
    const { parts, failed } = await engine.readiness();
    const status = state.leaving ? 'leaving' : failed === undefined ? 'ready' : 'not ready';
    const away = status !== 'ready';
    if (failed !== undefined) logger.warn({ err: failed }, 'The service is not ready');
    response
      .status(away ? 503 : 200)
      .set({ 'Cache-Control': 'no-store', ...(away && { 'Retry-After': '2' }) })
      .json({ status, parts });
  });
}

/** The answer to every other path, and to all that goes wrong. */
function addEnd(app: Express, logger: Logger): void {
  app.use((request, _response, next) => next(notFound(request.path)));
  // eslint-disable-next-line @typescript-eslint/no-unused-vars -- Express recognizes it by four parameters
  const last: ErrorRequestHandler = (thrown, request, response, _next) => {
    answerProblem(thrown, request, response, { logger });
  };
  app.use(last);
}

/** Everything but what the API answers at once. */
function createPages(options: ApplicationOptions, state: State, metrics?: RequestHandler): Express {
  const { engine, logger, consoleFolder, extraRoutes = {} } = options;
  const app = express();
  app.set('etag', 'strong');
  app.set('query parser', false);
  app.set('case sensitive routing', true);
  app.disable('x-powered-by');
  addHealth(app, options, state);
  if (metrics !== undefined) app.get('/metrics', mayReadMetrics(options), metrics);
  if (options.signIn !== undefined) {
    const { title = 'Ephoros', address, count } = options;
    app.use(signInRoutes(options.signIn, title, { address, count }));
  }
  if (options.access !== undefined) {
    app.use(apiPath, routerOver(engine, options));
    if (options.odata === true) app.use(odataPath, routerOver(engine, options, 'odata'));
  }
  app.use(routerOver(engine, options, 'spelled'));
  for (const [path, router] of Object.entries(extraRoutes)) app.use(path, router);
  if (consoleFolder !== undefined) {
    app.use(
      '/assets',
      express.static(join(consoleFolder, 'assets'), { immutable: true, maxAge: '1y' }),
    );
    app.get(
      [
        '/',
        '/tables/:table',
        '/tables/:table/rows/:key',
        '/views/:id',
        '/sign-in',
        '/sign-in/program',
      ],
      (_request, response) => {
        sendPage(consoleFolder, response);
      },
    );
    const docs = docsPages(join(consoleFolder, 'docs'), securityHeaders.get(policyHeader) ?? '');
    if (docs !== undefined) app.use(docsPath, docs);
    app.use(express.static(consoleFolder, { index: false }));
  }
  addEnd(app, logger);
  return app;
}

const policyHeader = 'Content-Security-Policy';

/**
 * Sends the page of the console. What its parts put in as styles is known by a word that is another one each time
 * (CSP 3, 8.1), so that the page is never one that was stored.
 */
function sendPage(folder: string, response: Response): void {
  const nonce = randomBytes(18).toString('base64');
  const page = readFileSync(join(folder, 'index.html'), 'utf8');
  const styles = `style-src 'self'`;
  const policy = securityHeaders.get(policyHeader) ?? '';
  response
    .set('Cache-Control', 'no-store')
    .set(policyHeader, policy.replace(styles, `${styles} 'nonce-${nonce}'`))
    .type('html')
    .send(page.replace('name="style-nonce" content=""', `name="style-nonce" content="${nonce}"`));
}

/** Where callers are known, `/metrics` is for those who may read it. */
function mayReadMetrics({ access }: ApplicationOptions): RequestHandler {
  return async (request, _response, next) => {
    if (access === undefined) {
      next();
      return;
    }
    const allowed = await access(request);
    if (allowed === undefined) next(unauthorized());
    else next(allowed.may?.metrics === false ? notAllowed('read the metrics') : undefined);
  };
}

/** A request as the API sees it, which knows nothing of the path that it is mounted at. */
function mounted(request: IncomingMessage, path: string): ApiRequest {
  const { url = '' } = request;
  return Object.assign(request, {
    originalUrl: url,
    baseUrl: path,
    url: url.slice(path.length) || '/',
  });
}

function isUnder(path: string, url = ''): boolean {
  return (
    url.startsWith(path) && (url.length === path.length || /[/?]/.test(url[path.length] ?? ''))
  );
}

/** What a page of the service may load, and do: all of it the service's own, nothing of it written into the page. */
const ownPolicy = {
  'default-src': ["'self'"],
  'base-uri': ["'none'"],
  'font-src': ["'self'"],
  'form-action': ["'self'"],
  'frame-ancestors': ["'self'"],
  'img-src': ["'self'", 'data:'],
  'object-src': ["'none'"],
  'script-src': ["'self'"],
  'script-src-attr': ["'none'"],
  'style-src': ["'self'"],
};

/** What helmet says of every answer, collected once. */
const securityHeaders = collected();

function collected(): ReadonlyMap<string, string> {
  const headers = new Map<string, string>();
  const response = {
    setHeader: (name: string, value: string) => headers.set(name, value),
    removeHeader: () => undefined,
  };
  helmet({
    // The service speaks plain HTTP, on loopback or behind something that speaks TLS.
    strictTransportSecurity: false,
    contentSecurityPolicy: { useDefaults: false, directives: ownPolicy },
  })({} as never, response as never, () => undefined);
  return headers;
}

/** A line for each request costs as much as some requests do: only where it is written. */
function requestLog(
  logger: Logger,
): ((request: IncomingMessage, response: ServerResponse) => void) | undefined {
  if (!logger.isLevelEnabled('info')) return undefined;
  return pinoHttp({
    logger,
    genReqId: (_request, response) => String(response.getHeader('X-Request-Id')),
    // The path without its parameters: values of a filter may be private.
    customSuccessMessage: (request, response, time) =>
      `${request.method} ${pathOf(request)} ${response.statusCode} ${time} ms`,
    customErrorMessage: (request, response) =>
      `${request.method} ${pathOf(request)} ${response.statusCode}`,
    serializers: {
      req: ({ id, method, raw }: { id: string; method: string; raw: IncomingMessage }) => ({
        id,
        method,
        path: pathOf(raw),
      }),
      res: ({ statusCode }: { statusCode: number }) => ({ statusCode }),
      err: ({ name, message }: Error) => ({ name, message }),
    },
  });
}

/** Whether a request came over something that stands between, as far as that says so. */
export function isForwarded({ headers }: IncomingMessage): boolean {
  return (headers['x-forwarded-for'] ?? headers['x-real-ip'] ?? headers.forwarded) !== undefined;
}

/**
 * Over loopback nothing is gained by compressing, and it takes longer than the rows do. Behind a
 * proxy on the same machine the way goes on, and may be long.
 */
function paysToCompress(request: IncomingMessage): boolean {
  const { remoteAddress = '' } = request.socket;
  const here = /^(?:::ffff:)?127\.|^::1$/.test(remoteAddress);
  return !here || isForwarded(request);
}

/** A path for the log: without its parameters, and without the values that are a row's key. */
function pathOf(request: IncomingMessage & { readonly originalUrl?: string }): string {
  const [path = ''] = (request.originalUrl ?? request.url ?? '').split('?');
  return path.replace(/(\/tables\/[^/]*\/rows\/|\/odata\/[^/(]*\().+/, '$1…');
}
