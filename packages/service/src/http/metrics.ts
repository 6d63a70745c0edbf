import type { RequestHandler } from 'express';
import type { Pool } from 'pg';
import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';

/** What `/metrics` shows (OpenMetrics), and the observer of every request. */
export function createMetrics(pool: Pool): { observe: RequestHandler; answer: RequestHandler } {
  const registry = new Registry();
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
      this.set({ state: 'open' }, pool.totalCount);
      this.set({ state: 'idle' }, pool.idleCount);
      this.set({ state: 'awaited' }, pool.waitingCount);
    },
  });
  return {
    observe: (request, response, next) => {
      const began = performance.now();
      response.once('close', () => {
        const { path } = (request.route ?? {}) as { path?: string };
        const route = typeof path === 'string' ? request.baseUrl + path : 'other';
        seconds.observe(
          { route, status: String(response.statusCode) },
          (performance.now() - began) / 1000,
        );
      });
      next();
    },
    answer: async (_request, response) => {
      response.type(registry.contentType).send(await registry.metrics());
    },
  };
}
