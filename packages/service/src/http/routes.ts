import type { TableSummary } from '@ephoros/core/schema';
import { inParameter, problem } from '@ephoros/core/problem';
import { Router, text, type RequestHandler, type Response } from 'express';
import type { Catalog, Published } from '../catalog/index.ts';
import type { Database } from '../run/index.ts';
import type { Surveyor } from '../survey/index.ts';
import { answerRow, answerRows } from './answer.ts';
import { findTable, type Asked, type Parameters } from './asked.ts';
import { readBody } from './body.ts';
import { linkHeader } from './link.ts';
import { answerMileposts } from './mileposts.ts';
import { openApiDocument } from './openapi.ts';
import {
  milepostParameters,
  readParameters,
  refuseParameters,
  rowParameters,
  rowsParameters,
} from './parameters.ts';
import { methodNotAllowed, notFound } from './problems.ts';
import { Timings } from './timings.ts';

/** What the routes answer from. `catalog` may be another one after a change of the database. */
export interface Sources {
  readonly database: Database;
  readonly surveyor: Surveyor;
  readonly catalog: () => Promise<Catalog>;
  /** Whether requests may ask how their answer came about. */
  readonly explain: boolean;
  /** How long an answer waits for an exact total, in ms. */
  readonly countingTime: number;
}

/** Bytes of a query's body. */
const mostBody = 1024 * 1024;

const textBody = text({ type: () => true, limit: mostBody });

function sendJson(response: Response, json: string, timings: Timings): void {
  response.set('Server-Timing', timings.header());
  response.set('Cache-Control', 'private, no-cache').type('json').send(json);
}

/** The routes under `/api`. */
export function routes(
  { database, surveyor, catalog, explain: mayExplain, countingTime }: Sources,
  version: string,
): Router {
  const router = Router({ caseSensitive: true, strict: true });
  const document = openApiDocument(version);

  const allowed = (given: Parameters): Parameters => {
    if (given.explain !== true || mayExplain) return given;
    const refused = inParameter('explain', [problem('explain-not-allowed', {})]);
    return { ...given, explain: false, problems: [...given.problems, ...refused] };
  };

  const askedOf = async (table: string): Promise<Asked> => {
    const current = await catalog();
    const { description } = findTable(current, table);
    return { catalog: current, description, database, surveyor, countingTime };
  };

  // First, since it is asked most.
  router.get('/tables/:table/rows', async (request, response) => {
    const asked = await askedOf(request.params.table);
    const { values, problems } = readParameters(request.url, rowsParameters);
    const { explain, ...parameters } = values;
    const timings = new Timings();
    const given = allowed({ values: parameters, problems, explain: explain === 'true' });
    const answer = await answerRows(given, asked, timings, goneSignal(response));
    response.set('Link', linkHeader(request.originalUrl, answer));
    sendJson(response, answer.json, timings);
  });

  router.get('/openapi.json', (request, response) => {
    refuseParameters(request.url);
    response.json(document);
  });

  router.get('/tables', async (request, response) => {
    refuseParameters(request.url);
    const { title, tables } = await catalog();
    const summaries = [...tables.values()].map((one) => summary(one, request.baseUrl));
    response.json({ title, tables: summaries });
  });

  router.get('/tables/:table', async (request, response) => {
    refuseParameters(request.url);
    response.json(findTable(await catalog(), request.params.table).description);
  });

  // The same question where it is too long for a URL.
  router.post('/tables/:table/query', textBody, async (request, response) => {
    refuseParameters(request.url);
    const asked = await askedOf(request.params.table);
    const body: unknown = request.body;
    const given = allowed(readBody(typeof body === 'string' ? body : ''));
    const timings = new Timings();
    const { json } = await answerRows(given, asked, timings, goneSignal(response));
    sendJson(response, json, timings);
  });

  router.get('/tables/:table/rows/:key', async (request, response) => {
    const asked = await askedOf(request.params.table);
    const parameters = readParameters(request.url, rowParameters);
    const timings = new Timings();
    // The raw key: its commas part it, its escaped commas do not.
    const key = /\/rows\/([^?]*)/.exec(request.url)?.[1] ?? '';
    const signal = goneSignal(response);
    const json = await answerRow(key, parameters, asked, timings, signal);
    sendJson(response, json, timings);
  });

  router.get('/tables/:table/mileposts', async (request, response) => {
    const asked = await askedOf(request.params.table);
    const { values, problems } = readParameters(request.url, milepostParameters);
    const { ticks, ...parameters } = values;
    const timings = new Timings();
    const json = await answerMileposts({ values: parameters, problems, ticks }, asked, timings);
    sendJson(response, json, timings);
  });

  router.use(onlyReading);
  router.use((request, _response, next) => next(notFound(request.originalUrl.split('?')[0] ?? '')));
  return router;
}

const onlyReading: RequestHandler = (request, response, next) => {
  if (request.method === 'GET' || request.method === 'HEAD') next();
  else {
    response.set('Allow', 'GET, HEAD');
    next(methodNotAllowed(request.method));
  }
};

function summary({ description }: Published, base: string): TableSummary {
  const { name, title, kind, comment, estimatedRows } = description;
  const path = `${base}/tables/${encodeURIComponent(name)}`;
  return {
    name,
    title,
    kind,
    ...(comment === undefined ? {} : { comment }),
    estimatedRows,
    links: { description: path, rows: `${path}/rows` },
  };
}

/** Aborts when the client goes away before the answer is sent. */
function goneSignal(response: Response): AbortSignal {
  const controller = new AbortController();
  response.once('close', () => {
    if (!response.writableFinished) controller.abort();
  });
  return controller.signal;
}
