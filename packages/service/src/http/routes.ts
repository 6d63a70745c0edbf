import { printAnswer, type TableList } from '@ephoros/core/answer';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import type { TableSummary } from '@ephoros/core/schema';
import etag from 'etag';
import { Router, text, type Request, type RequestHandler, type Response } from 'express';
import type { Access } from '../access/index.ts';
import type { Published } from '../catalog/index.ts';
import { TableAnswers, type Engine, type RequestContext } from '../engine/index.ts';
import {
  Timings,
  aggregatesParameters,
  groupsParameters,
  milepostParameters,
  readParameters,
  refuseParameters,
  rowParameters,
  rowsParameters,
  valuesParameters,
} from '../question/index.ts';
import { bodies, readBody } from './body.ts';
import { linkHeader } from './link.ts';
import { openApiDocument } from './openapi.ts';
import { methodNotAllowed, notFound } from './problems.ts';

/** What the routes answer by, beside the engine. */
export interface Answering {
  /** What the caller of a request may see. */
  readonly accessOf: (request: Request) => Promise<Access | undefined>;
  /** Whether a request may ask how its answer came about. */
  readonly explain: (request: Request) => boolean;
  readonly version: string;
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

/** The Link header of a windowed answer to a URL, where it is not too long. */
function setLinks(
  request: Request,
  response: Response,
  answer: Parameters<typeof linkHeader>[1],
): void {
  const header = request.method === 'POST' ? undefined : linkHeader(request.originalUrl, answer);
  if (header !== undefined) response.set('Link', header);
}

/** Of an answer that was made a while ago: `Age` (RFC 9111, 5.1) says how long. */
function setAge(response: Response, asOf: string | undefined): void {
  if (asOf === undefined) return;
  response.set('Age', String(Math.floor((Date.now() - Date.parse(asOf)) / 1000)));
}

/** The routes, under whatever path they are mounted. */
export function routes(engine: Engine, { accessOf, explain, version }: Answering): Router {
  const router = Router({ caseSensitive: true, strict: true });
  const document = openApiDocument(version);

  /** What a request asks: in its URL, or in its body where that is too long for a URL. */
  const asks = <Path>(
    request: Request<Path>,
    schema: Parameters<typeof readParameters>[1],
    body: Parameters<typeof readBody>[1],
    { catalog: { restricted } }: RequestContext,
  ): Given => {
    const posted = request.method === 'POST';
    if (posted) refuseParameters(request.url);
    const text: unknown = request.body;
    const read = posted ? readBody(textOf(text), body) : readParameters(request.url, schema);
    const { explain: asked, ...values } = read.values;
    const wanted = asked === 'true';
    const allowed = explain(request as unknown as Request) && !restricted;
    const refused =
      wanted && !allowed ? inParameter('explain', [problem('explain-not-allowed', {})]) : [];
    return {
      ...read,
      values,
      problems: [...read.problems, ...refused],
      explain: wanted && allowed,
    };
  };

  /** An answer to whoever asks, once more where the database has changed meanwhile. */
  const to =
    <Path>(
      answer: (
        request: Request<Path>,
        response: Response,
        context: RequestContext,
      ) => Promise<void> | void,
    ) =>
    async (request: Request<Path>, response: Response): Promise<void> => {
      const access = await accessOf(request as unknown as Request);
      const asking = {
        access,
        signal: goneSignal(response),
        mayRepeat: () => !response.headersSent,
      };
      await engine.answer(asking, (context) => answer(request, response, context));
    };

  /** The same about a table. */
  const about = <Path extends Of>(
    answer: (
      table: TableAnswers,
      request: Request<Path>,
      response: Response,
      context: RequestContext,
    ) => Promise<void> | void,
  ): ((request: Request<Path>, response: Response) => Promise<void>) =>
    to((request, response, context) =>
      answer(new TableAnswers(request.params.table, engine, context), request, response, context),
    );

  /** Sends an answer; what its timings tell of rows that are passed over not everybody may know. */
  const send = (response: Response, answer: object, { timings, catalog }: RequestContext): void => {
    const json = timings.during('encode', () => printAnswer(answer));
    sendJson(response, json, catalog.ruled ? undefined : timings);
  };

  const sendRows = about(async (table, request, response, context) => {
    const answer = await table.rows(asks(request, rowsParameters, bodies.rows, context));
    setLinks(request, response, answer);
    send(response, answer, context);
  });

  // First, since it is asked most.
  reads(router, '/tables/:table/rows', sendRows);
  router.route('/tables/:table/query').post(textBody, sendRows).all(only('POST'));

  reads(router, '/openapi.json', (request, response) => {
    refuseParameters(request.url);
    response.json({ ...document, servers: [{ url: request.baseUrl }] });
  });

  const sendTables = to((request, response, { catalog: { title, tables } }) => {
    refuseParameters(request.url);
    const list: TableList = {
      title,
      tables: [...tables.values()].map((one) => summary(one, request.baseUrl)),
    };
    sendJson(response, JSON.stringify(list), undefined);
  });
  reads(router, '/tables', sendTables);

  const sendDescription = about(({ description }, request, response) => {
    refuseParameters(request.url);
    sendJson(response, JSON.stringify(description), undefined);
  });
  reads(router, '/tables/:table', sendDescription);

  const sendRow = about(async (table, request, response, context) => {
    const parameters = readParameters(request.url, rowParameters);
    // The raw key: its commas part it, its escaped commas do not.
    const key = /^\/tables\/[^/]*\/rows\/([^?]*)/.exec(request.url)?.[1] ?? '';
    send(response, await table.row(key, parameters), context);
  });
  // A key may be the empty text.
  reads(router, ['/tables/:table/rows/:key', '/tables/:table/rows/'], sendRow);

  const sendMileposts = about(async (table, request, response, context) => {
    const { values, problems } = readParameters(request.url, milepostParameters);
    const { ticks, ...parameters } = values;
    send(response, await table.mileposts({ values: parameters, problems }, ticks), context);
  });
  reads(router, '/tables/:table/mileposts', sendMileposts);

  const sendGroups = about(async (table, request, response, context) => {
    const answer = await table.groups(asks(request, groupsParameters, bodies.groups, context));
    setLinks(request, response, answer);
    setAge(response, answer.window.asOf);
    send(response, answer, context);
  });
  readsOrPosts(router, '/tables/:table/groups', sendGroups);

  const sendAggregates = about(async (table, request, response, context) => {
    const given = asks(request, aggregatesParameters, bodies.aggregates, context);
    const answer = await table.aggregates(given);
    setAge(response, answer.asOf);
    send(response, answer, context);
  });
  readsOrPosts(router, '/tables/:table/aggregates', sendAggregates);

  const sendValues = about<Of & { readonly column: string }>(
    async (table, request, response, context) => {
      const { values, ...given } = asks(request, valuesParameters, bodies.values, context);
      const { containing, bins, ...parameters } = values;
      const about = {
        ...(containing === undefined ? {} : { containing }),
        ...(bins === undefined ? {} : { bins }),
      };
      const asked = { ...given, values: parameters };
      const answer = await table.values(request.params.column, asked, about);
      setLinks(request, response, answer);
      setAge(response, answer.window.asOf);
      send(response, answer, context);
    },
  );
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
