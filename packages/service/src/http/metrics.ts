import type { ServerResponse } from 'node:http';
import type { RequestHandler } from 'express';
import {
  AggregatorRegistry,
  collectDefaultMetrics,
  Counter,
  Gauge,
  Histogram,
  Registry,
} from 'prom-client';
import type { Database } from '../run/index.ts';
import { routeOf, setRoute } from './exchange.ts';

/**
 * What `/metrics` shows (OpenMetrics), and the observer of every request. `whole` gives the text
 * instead, where this process is one of several.
 */
export function createMetrics(
  database: Database,
  whole?: () => Promise<string>,
): { observe: (response: ServerResponse) => void; answer: RequestHandler } {
  const registry = new Registry();
  AggregatorRegistry.setRegistries(registry);
  registry.setContentType(Registry.OPENMETRICS_CONTENT_TYPE as never);
  collectDefaultMetrics({ register: registry });
  const seconds = new Histogram({
    name: 'ephoros_request_seconds',
    help: 'Time from request to answer, by route and status',
    labelNames: ['route', 'status'],
    buckets: [0.001, 0.003, 0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30],
    registers: [registry],
  });
  new Gauge({
    name: 'ephoros_connections',
    help: 'Connections to the database, by state',
    labelNames: ['state'],
    registers: [registry],
    collect() {
      this.set({ state: 'open' }, database.pool.totalCount);
      this.set({ state: 'idle' }, database.pool.idleCount);
      this.set({ state: 'awaited' }, database.limiter.waiting);
    },
  });
  new Counter({
    name: 'ephoros_statements_cancelled',
    help: 'Statements cancelled in the database because the caller was gone',
    registers: [registry],
    collect() {
      this.reset();
      this.inc(database.cancelled);
    },
  });
  return {
    observe: (response) => {
      const began = performance.now();
      response.once('close', () => {
        const labels = { route: routeOf(response) ?? 'other', status: String(response.statusCode) };
        seconds.observe(labels, (performance.now() - began) / 1000);
      });
    },
    answer: async (_request, response) => {
      setRoute(response, '/metrics');
      response.type(registry.contentType).send(await (whole?.() ?? registry.metrics()));
    },
  };
}
