import type { TableSummary } from '@ephoros/core/schema';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import etag from 'etag';
import { Router, text, type Request, type RequestHandler, type Response } from 'express';
import type { Catalog, Published } from '../catalog/index.ts';
import { Remembered, type Database } from '../run/index.ts';
import type { Surveyor } from '../survey/index.ts';
import {
  type Asked,
  Timings,
  aggregatesParameters,
  findTable,
  groupsParameters,
  milepostParameters,
  readParameters,
  refuseParameters,
  rowParameters,
  rowsParameters,
  valuesParameters,
} from '../question/index.ts';
import { answerRow, answerRows } from './answer.ts';
import { bodies, readBody } from './body.ts';
import { answerAggregates, answerGroups, type AgedAnswer } from './groups.ts';
import { linkHeader } from './link.ts';
import { answerMileposts } from './mileposts.ts';
import { openApiDocument } from './openapi.ts';
import { methodNotAllowed, notFound } from './problems.ts';
import { answerValues } from './values.ts';

/**
 * What the routes answer from. `catalog` is what the caller may see, and may be another one after
 * a change of the database.
 */
export interface Sources {
  readonly database: Database;
  readonly surveyor: Surveyor;
  readonly catalog: (request: Request) => Promise<Catalog>;
  /** Whether requests may ask how their answer came about. */
  readonly explain: boolean;
  /** How long an answer waits for an exact total, in ms. */
  readonly countingTime: number;
}

/** The parameters in the path of a table's own routes. */
interface Of {
  readonly table: string;
  readonly [name: string]: string;
}

/** A question as it was given. */
interface Given {
  readonly values: Readonly<Record<string, string | undefined>>;
  readonly problems: readonly Problem[];
  readonly explain: boolean;
  readonly characters?: number;
}

/** Bytes of a query's body. */
const mostBody = 1024 * 1024;

const textBody = text({ type: () => true, limit: mostBody });

function sendJson(response: Response, json: string, timings: Timings): void {
  response.set('Server-Timing', timings.header());
  // Strong, whatever the application around makes of its own answers.
  response.set('ETag', etag(json));
  response.set('Cache-Control', 'private, no-cache').type('json').send(json);
}

/** An answer that may have been made a while ago: `Age` (RFC 9111, 5.1) says how long. */
function sendAged(
  request: Request,
  response: Response,
  { json, at, linked }: AgedAnswer,
  timings: Timings,
): void {
  if (linked !== undefined && request.method !== 'POST') {
    response.set('Link', linkHeader(request.originalUrl, linked));
  }
  if (at !== undefined) response.set('Age', String(Math.floor((Date.now() - at) / 1000)));
  sendJson(response, json, timings);
}

/** The routes, under whatever path they are mounted. */
export function routes(
  { database, surveyor, catalog, explain: mayExplain, countingTime }: Sources,
  version: string,
): Router {
  const router = Router({ caseSensitive: true, strict: true });
  const document = openApiDocument(version);

  /** What a request asks: in its URL, or in its body where that is too long for a URL. */
  const asks = (
    request: Request,
    schema: Parameters<typeof readParameters>[1],
    body: Parameters<typeof readBody>[1],
    { catalog: { restricted } }: Asked,
  ): Given => {
    const posted = request.method === 'POST';
    if (posted) refuseParameters(request.url);
    const text: unknown = request.body;
    const read = posted ? readBody(textOf(text), body) : readParameters(request.url, schema);
    const { explain, ...values } = read.values;
    const wanted = explain === 'true';
    const allowed = mayExplain && !restricted;
    const refused =
      wanted && !allowed ? inParameter('explain', [problem('explain-not-allowed', {})]) : [];
    return {
      ...read,
      values,
      problems: [...read.problems, ...refused],
      explain: wanted && allowed,
    };
  };

  const remembered = new Remembered(database);

  const askedOf = async (request: Request<Of>): Promise<Asked> => {
    const current = await catalog(request);
    const { description } = findTable(current, request.params.table);
    return { catalog: current, description, database, surveyor, remembered, countingTime };
  };

  const sendRows = async (request: Request<Of>, response: Response): Promise<void> => {
    const asked = await askedOf(request);
    const given = asks(request, rowsParameters, bodies.rows, asked);
    const timings = new Timings();
    const answer = await answerRows(given, asked, timings, goneSignal(response));
    if (request.method !== 'POST') response.set('Link', linkHeader(request.originalUrl, answer));
    sendJson(response, answer.json, timings);
  };

  // First, since it is asked most.
  router.get('/tables/:table/rows', sendRows);
  router.post('/tables/:table/query', textBody, sendRows);

  router.get('/openapi.json', (request, response) => {
    refuseParameters(request.url);
    response.json({ ...document, servers: [{ url: request.baseUrl }] });
  });

  router.get('/tables', async (request, response) => {
    refuseParameters(request.url);
    const { title, tables } = await catalog(request);
    const summaries = [...tables.values()].map((one) => summary(one, request.baseUrl));
    response.json({ title, tables: summaries });
  });

  router.get('/tables/:table', async (request, response) => {
    refuseParameters(request.url);
    response.json(findTable(await catalog(request), request.params.table).description);
  });

  router.get('/tables/:table/rows/:key', async (request, response) => {
    const asked = await askedOf(request);
    const parameters = readParameters(request.url, rowParameters);
    const timings = new Timings();
    // The raw key: its commas part it, its escaped commas do not.
    const key = /\/rows\/([^?]*)/.exec(request.url)?.[1] ?? '';
    const signal = goneSignal(response);
    const json = await answerRow(key, parameters, asked, timings, signal);
    sendJson(response, json, timings);
  });

  router.get('/tables/:table/mileposts', async (request, response) => {
    const asked = await askedOf(request);
    const { values, problems } = readParameters(request.url, milepostParameters);
    const { ticks, ...parameters } = values;
    const timings = new Timings();
    const json = await answerMileposts({ values: parameters, problems, ticks }, asked, timings);
    sendJson(response, json, timings);
  });

  const sendGroups = async (request: Request<Of>, response: Response): Promise<void> => {
    const asked = await askedOf(request);
    const given = asks(request, groupsParameters, bodies.groups, asked);
    const timings = new Timings();
    const signal = goneSignal(response);
    const answer = await answerGroups(given, asked, request.baseUrl, timings, signal);
    sendAged(request, response, answer, timings);
  };
  router.get('/tables/:table/groups', sendGroups);
  router.post('/tables/:table/groups', textBody, sendGroups);

  const sendAggregates = async (request: Request<Of>, response: Response): Promise<void> => {
    const asked = await askedOf(request);
    const given = asks(request, aggregatesParameters, bodies.aggregates, asked);
    const timings = new Timings();
    const answer = await answerAggregates(given, asked, timings, goneSignal(response));
    sendAged(request, response, answer, timings);
  };
  router.get('/tables/:table/aggregates', sendAggregates);
  router.post('/tables/:table/aggregates', textBody, sendAggregates);

  const sendValues = async (
    request: Request<Of & { column: string }>,
    response: Response,
  ): Promise<void> => {
    const asked = await askedOf(request);
    const { values, ...given } = asks(request, valuesParameters, bodies.values, asked);
    const { containing, bins, ...parameters } = values;
    const timings = new Timings();
    const answer = await answerValues(
      request.params.column,
      { ...given, values: parameters, containing, bins },
      asked,
      timings,
      goneSignal(response),
    );
    sendAged(request, response, answer, timings);
  };
  router.get('/tables/:table/values/:column', sendValues);
  router.post('/tables/:table/values/:column', textBody, sendValues);

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

/** A body's text, also where the application around has read it as JSON already. */
function textOf(body: unknown): string {
  if (typeof body === 'string') return body;
  return body === undefined ? '' : JSON.stringify(body);
}

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
