import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import compression from 'compression';
import express, { type Express, type Request, type RequestHandler, type Router } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import type { Engine } from '../engine/index.ts';
import { createMetrics } from './metrics.ts';
import { misdirected, notFound, problemHandler } from './problems.ts';
import { routerOver, type AnsweringOptions } from './router.ts';
import { compressedOnItsWay, worthCompressing } from './routes.ts';

export interface ApplicationOptions extends AnsweringOptions {
  readonly engine: Engine;
  readonly logger: Logger;
  /** The folder of the built console; without it only the API is served. */
  readonly consoleFolder?: string;
  /** Further routes beside the API, by path, such as the demo's pictures. */
  readonly extraRoutes?: Readonly<Record<string, Router>>;
  readonly version: string;
  /**
   * The names that the service goes by in the Host header of requests, besides those of loopback;
   * others are refused, so that no page elsewhere can lead a browser here. Any by default.
   */
  readonly hostNames?: readonly string[];
  /** The text of `/metrics`, where this process is one of several; by default its own. */
  readonly metrics?: () => Promise<string>;
}

/** The application: the API, the console, health. */
export function createApplication(options: ApplicationOptions): Express {
  const { engine, logger, consoleFolder, extraRoutes = {} } = options;
  const metrics = createMetrics(engine.database, options.metrics);
  const app = express();
  app.set('etag', 'strong');
  app.set('query parser', false);
  app.set('case sensitive routing', true);
  app.disable('x-powered-by');
  app.use((_request, response, next) => {
    response.setHeader('X-Request-Id', randomUUID());
    next();
  });
  // A line for each request costs as much as some requests do; only where it is written.
  if (logger.isLevelEnabled('info')) app.use(requestLog(logger));
  app.use(metrics.observe);
  if (options.hostNames !== undefined) app.use(onlyHosts(options.hostNames));
  app.use(
    helmet({
      // The service speaks plain HTTP, on loopback or behind something that speaks TLS.
      strictTransportSecurity: false,
      contentSecurityPolicy: { directives: { 'upgrade-insecure-requests': null } },
    }),
  );
  const compress = compression({ threshold: worthCompressing });
  app.use((request, response, next) => {
    if (!paysToCompress(request)) {
      next();
      return;
    }
    response.locals[compressedOnItsWay] = true;
    compress(request, response, next);
  });

  app.get('/health', (_request, response) => {
    response.json({ status: 'alive' });
  });
  app.get('/ready', async (_request, response) => {
    await engine.ready();
    response.json({ status: 'ready' });
  });
  app.get('/metrics', metrics.answer);
  app.use('/api', routerOver(engine, options));
  for (const [path, router] of Object.entries(extraRoutes)) app.use(path, router);
  if (consoleFolder !== undefined) {
    app.use(
      '/assets',
      express.static(join(consoleFolder, 'assets'), { immutable: true, maxAge: '1y' }),
    );
    app.get(['/', '/tables/:table'], (_request, response) => {
      response.sendFile('index.html', { root: consoleFolder, cacheControl: false });
    });
    app.use(express.static(consoleFolder, { index: false }));
  }
  app.use((request, _response, next) => next(notFound(request.path)));
  app.use(problemHandler(logger));
  return app;
}

function requestLog(logger: Logger): RequestHandler {
  return pinoHttp({
    logger,
    genReqId: (_request, response) => String(response.getHeader('X-Request-Id')),
    // The path without its parameters: values of a filter may be private.
    customSuccessMessage: (request, response, time) =>
      `${request.method} ${pathOf(request.url)} ${response.statusCode} ${time} ms`,
    customErrorMessage: (request, response) =>
      `${request.method} ${pathOf(request.url)} ${response.statusCode}`,
    serializers: {
      req: ({ id, method, url }: { id: string; method: string; url: string }) => ({
        id,
        method,
        path: pathOf(url),
      }),
      res: ({ statusCode }: { statusCode: number }) => ({ statusCode }),
      err: ({ name, message }: Error) => ({ name, message }),
    },
  });
}

/** @throws HttpRefusal for a request that means another host */
function onlyHosts(names: readonly string[]): RequestHandler {
  const known = new Set(names.map((name) => name.toLowerCase()));
  return (request, _response, next) => {
    const name = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase();
    const loopback = name === 'localhost' || name === '[::1]' || /^127(?:\.\d{1,3}){3}$/.test(name);
    next(loopback || known.has(name) ? undefined : misdirected());
  };
}

/** Whether a request came over something that stands between, as far as that says so. */
export function isForwarded({ headers }: Request): boolean {
  return (headers['x-forwarded-for'] ?? headers['x-real-ip'] ?? headers.forwarded) !== undefined;
}

/**
 * Over loopback nothing is gained by compressing, and it takes longer than the rows do. Behind a
 * proxy on the same machine the way goes on, and may be long.
 */
function paysToCompress(request: Request): boolean {
  const { remoteAddress = '' } = request.socket;
  const here = /^(?:::ffff:)?127\.|^::1$/.test(remoteAddress);
  return !here || isForwarded(request);
}

/** A path for the log: without its parameters, and without the values that are a row's key. */
function pathOf(url: string | undefined): string {
  const path = url?.split('?')[0] ?? '';
  return path.replace(/(\/tables\/[^/]*\/rows\/).+/, '$1…');
}
