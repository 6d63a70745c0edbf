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
import { linkHeader, type Linked } from './link.ts';
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
  /** Reads the catalog anew where a failure may come of a change; says whether it is another now. */
  readonly renewCatalog: (thrown: unknown) => Promise<boolean>;
  /** Whether a request may ask how its answer came about. */
  readonly explain: (request: Request) => boolean;
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

/** Set where the way to the reader compresses, so that one answer has several encodings. */
export const compressedOnItsWay = 'ephorosCompressed';
/** Characters of an answer that is compressed, where the way compresses at all. */
export const worthCompressing = 2_048;

function sendJson(response: Response, json: string, timings: Timings | undefined): void {
  if (timings !== undefined) response.set('Server-Timing', timings.header());
  // Strong, whatever the application around makes of its own answers; but not where the same
  // answer goes out in several encodings (RFC 9110, 8.8.1).
  const weak = response.locals[compressedOnItsWay] === true && json.length >= worthCompressing;
  response.set('ETag', etag(json, { weak }));
  response.set('Cache-Control', 'private, no-cache').type('json').send(json);
}

/** The Link header of an answer to a URL, where it is not too long. */
function sendLinks(request: Request, response: Response, linked: Linked): void {
  const header = request.method === 'POST' ? undefined : linkHeader(request.originalUrl, linked);
  if (header !== undefined) response.set('Link', header);
}

/** An answer that may have been made a while ago: `Age` (RFC 9111, 5.1) says how long. */
function sendAged(
  request: Request,
  response: Response,
  { json, at, linked }: AgedAnswer,
  timings: Timings | undefined,
): void {
  if (linked !== undefined) sendLinks(request, response, linked);
  if (at !== undefined) response.set('Age', String(Math.floor((Date.now() - at) / 1000)));
  sendJson(response, json, timings);
}

/** The routes, under whatever path they are mounted. */
export function routes(
  { database, surveyor, catalog, renewCatalog, explain: mayExplain, countingTime }: Sources,
  version: string,
): Router {
  const router = Router({ caseSensitive: true, strict: true });
  const document = openApiDocument(version);

  /** What a request asks: in its URL, or in its body where that is too long for a URL. */
  const asks = <Path>(
    request: Request<Path>,
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
    const allowed = mayExplain(request as unknown as Request) && !restricted;
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

  /**
   * An answer about a table. Where it turns out that the database has changed since its catalog was
   * read, that is read anew and the question asked once more.
   */
  const about =
    <Path extends Of>(
      answer: (asked: Asked, request: Request<Path>, response: Response) => Promise<void>,
    ) =>
    async (request: Request<Path>, response: Response): Promise<void> => {
      const attempt = async (): Promise<void> => {
        const current = await catalog(request);
        const { description } = findTable(current, request.params.table);
        const asked = { catalog: current, description, database, surveyor, remembered };
        await answer({ ...asked, countingTime }, request, response);
      };
      try {
        await attempt();
      } catch (thrown) {
        const renewed = !response.headersSent && (await renewCatalog(thrown));
        if (!renewed) throw thrown;
        remembered.forget();
        await attempt();
      }
    };

  /** What of a question's timings its asker may know: they tell of rows that are passed over. */
  const told = (timings: Timings, { catalog: { ruled } }: Asked): Timings | undefined =>
    ruled ? undefined : timings;

  const sendRows = about(async (asked, request, response) => {
    const given = asks(request, rowsParameters, bodies.rows, asked);
    const timings = new Timings();
    const { json, linked } = await answerRows(given, asked, timings, goneSignal(response));
    sendLinks(request, response, linked);
    sendJson(response, json, told(timings, asked));
  });

  // First, since it is asked most.
  reads(router, '/tables/:table/rows', sendRows);
  router.route('/tables/:table/query').post(textBody, sendRows).all(only('POST'));

  reads(router, '/openapi.json', (request, response) => {
    refuseParameters(request.url);
    response.json({ ...document, servers: [{ url: request.baseUrl }] });
  });

  reads(router, '/tables', async (request: Request, response) => {
    refuseParameters(request.url);
    const { title, tables } = await catalog(request);
    const summaries = [...tables.values()].map((one) => summary(one, request.baseUrl));
    sendJson(response, JSON.stringify({ title, tables: summaries }), undefined);
  });

  const sendDescription = about((asked, request, response) => {
    refuseParameters(request.url);
    sendJson(response, JSON.stringify(asked.description), undefined);
    return Promise.resolve();
  });
  reads(router, '/tables/:table', sendDescription);

  const sendRow = about(async (asked, request, response) => {
    const parameters = readParameters(request.url, rowParameters);
    const timings = new Timings();
    // The raw key: its commas part it, its escaped commas do not.
    const key = /^\/tables\/[^/]*\/rows\/([^?]*)/.exec(request.url)?.[1] ?? '';
    const json = await answerRow(key, parameters, asked, timings, goneSignal(response));
    sendJson(response, json, told(timings, asked));
  });
  // A key may be the empty text.
  reads(router, ['/tables/:table/rows/:key', '/tables/:table/rows/'], sendRow);

  const sendMileposts = about(async (asked, request, response) => {
    const { values, problems } = readParameters(request.url, milepostParameters);
    const { ticks, ...parameters } = values;
    const timings = new Timings();
    const json = await answerMileposts({ values: parameters, problems, ticks }, asked, timings);
    sendJson(response, json, told(timings, asked));
  });
  reads(router, '/tables/:table/mileposts', sendMileposts);

  const sendGroups = about(async (asked, request, response) => {
    const given = asks(request, groupsParameters, bodies.groups, asked);
    const timings = new Timings();
    const answer = await answerGroups(given, asked, timings, goneSignal(response));
    sendAged(request, response, answer, told(timings, asked));
  });
  readsOrPosts(router, '/tables/:table/groups', sendGroups);

  const sendAggregates = about(async (asked, request, response) => {
    const given = asks(request, aggregatesParameters, bodies.aggregates, asked);
    const timings = new Timings();
    const answer = await answerAggregates(given, asked, timings, goneSignal(response));
    sendAged(request, response, answer, told(timings, asked));
  });
  readsOrPosts(router, '/tables/:table/aggregates', sendAggregates);

  const sendValues = about<Of & { readonly column: string }>(async (asked, request, response) => {
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
    sendAged(request, response, answer, told(timings, asked));
  });
  readsOrPosts(router, '/tables/:table/values/:column', sendValues);

  router.use((request, _response, next) => next(notFound(request.originalUrl.split('?')[0] ?? '')));
  return router;
}

/** A path that is read, and nothing else. */
function reads<Path>(router: Router, path: string | string[], send: RequestHandler<Path>): void {
  router
    .route(path)
    .get(send as RequestHandler)
    .all(only('GET, HEAD'));
}

/** A path whose question may come in a body as well, where it is too long for a URL. */
function readsOrPosts<Path>(router: Router, path: string, send: RequestHandler<Path>): void {
  const handler = send as RequestHandler;
  router.route(path).get(handler).post(textBody, handler).all(only('GET, HEAD, POST'));
}

/** Refuses what the path is not asked by, and says what it is (RFC 9110, 10.2.1). */
function only(methods: string): RequestHandler {
  return (request, response, next) => {
    response.set('Allow', methods);
    next(methodNotAllowed(request.method, methods));
  };
}

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
