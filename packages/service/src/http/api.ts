import type { ServerResponse } from 'node:http';
import { setTimeout } from 'node:timers/promises';
import { printAnswer, type TableList, type Window } from '@ephoros/core/answer';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import type { TableSummary } from '@ephoros/core/schema';
import { readSimulation, type Simulation } from '@ephoros/core/simulation';
import type { Published } from '../catalog/index.ts';
import { TableAnswers, type Engine, type RequestContext } from '../engine/index.ts';
import {
  aggregatesParameters,
  exportParameters,
  groupsParameters,
  liveParameters,
  milepostParameters,
  readParameters,
  refuseParameters,
  Refused,
  rowParameters,
  rowsParameters,
  valuesParameters,
} from '../query/index.ts';
import { NotReady, WaitBudget } from '../run/index.ts';
import { bodies, readBody } from './body.ts';
import { jsonOf, textOf } from './body-text.ts';
import { callerAnswerOf } from './caller-answer.ts';
import { changeRoutes } from './change-routes.ts';
import { answerByFile } from './export-route.ts';
import { placeOf } from './file-ticket.ts';
import {
  requestOptionsOf,
  goneSignal,
  sendJson,
  sendNothing,
  sendRunning,
  setRoute,
  type ApiRequest,
  type CountedRequest,
  type RequestPolicy,
  type Headers,
} from './exchange.ts';
import { linkHeader } from './link.ts';
import { answerLive, type StreamBound } from './live-route.ts';
import { openApiDocument } from './openapi.ts';
import { appliedText, budgetOf, preferencesOf } from './preferences.ts';
import { progressFact } from './problems.ts';
import { methodNotAllowed, notAllowed, notFound, simulatedFailure } from './refusals.ts';
import { idOf, queryOf, type RunningQuery } from './running-query.ts';
import { selectionRoutes } from './selection-routes.ts';
import { viewRoutes } from './view-routes.ts';

/** What the API answers by, next to the engine. */
export interface Answering {
  readonly policy: RequestPolicy;
  /** Whether a request may ask how its answer came about. */
  readonly explain: (request: ApiRequest) => boolean;
  readonly version: string;
  /** Slowness and failures on demand; undefined where there is none to be had. */
  readonly simulate: Simulation | undefined;
}

/** The API, under whatever path it is mounted. Rejects with what `problemOf` makes a document of. */
export type Api = (request: ApiRequest, response: ServerResponse) => Promise<void>;

/** A question as it was given. */
interface Given {
  readonly values: Readonly<Record<string, string | undefined>>;
  readonly problems: readonly Problem[];
  readonly explain: boolean;
  readonly characters?: number;
}

/** What of an answer its headers tell as well. */
interface Answer {
  readonly table: string;
  readonly window?: Window;
  readonly next?: string | null;
  readonly previous?: string | null;
  readonly asOf?: string;
}

/** What a route gets: the parts of the path that it leaves open, decoded. */
type Open = Readonly<Record<string, string>>;

type Handle = (request: ApiRequest, response: ServerResponse, open: Open) => Promise<void> | void;

interface Route {
  /** Parts between slashes; those that begin with a colon are open. */
  readonly path: string;
  readonly methods: readonly string[];
  readonly handle: Handle;
  /** Whether it answers a query, which may go on behind its request. */
  readonly isQuery?: boolean;
}

/** Says what shall be simulated for a request alone, where anything is. */
const simulationHeader = 'ephoros-simulate';

const requests = ['GET', 'HEAD'];
/** A question may come in a body as well, where it is too long for a URL. */
const getOrPost = [...requests, 'POST'];

export function createApi(
  engine: Engine,
  { policy, explain, version, simulate: trouble }: Answering,
): Api {
  const document = openApiDocument(version);

  /** Whether a request may see its query plan: plans name what is hidden. */
  const mayExplain = (request: ApiRequest, { catalog, access }: RequestContext): boolean =>
    !catalog.restricted && access?.may?.explanations !== false && explain(request);

  /** What a request asks: in its URL, or in its body where that is too long for a URL. */
  const asks = async (
    request: ApiRequest,
    response: ServerResponse,
    schema: Parameters<typeof readParameters>[1],
    body: Parameters<typeof readBody>[1],
    context: RequestContext,
  ): Promise<Given> => {
    const { url = '' } = request;
    const posted = request.method === 'POST';
    if (posted) refuseParameters(url);
    const read = posted
      ? readBody(await textOf(request, response), body)
      : readParameters(url, schema);
    const { explain: message, ...values } = read.values;
    const wanted = message === 'true';
    const allowed = wanted && mayExplain(request, context);
    const refused =
      wanted && !allowed ? inParameter('explain', [problem('explain-not-allowed', {})]) : [];
    return {
      ...read,
      values,
      problems: [...read.problems, ...refused],
      explain: allowed,
    };
  };

  /** An answer to the caller, once more where the database has changed meanwhile. */
  const to =
    (
      answer: (
        context: RequestContext,
        request: ApiRequest,
        response: ServerResponse,
        open: Open,
      ) => Promise<void> | void,
    ): Handle =>
    async (request, response, open) => {
      const preferences = preferencesOf(request);
      const budget = request.budget ?? budgetOf(preferences, engine);
      const options = { ...(await requestOptionsOf(request, response, policy)), budget };
      try {
        await engine.answer(options, (context) => answer(context, request, response, open));
      } catch (thrown) {
        if (!(thrown instanceof NotReady) || budget.afterWait !== 'return') throw thrown;
        const Location = placeOfRunning(request);
        const progress = progressFact(thrown.progress);
        sendRunning(request, response, JSON.stringify({ status: 'running', progress }), {
          ...(Location === undefined ? {} : { Location }),
          'Preference-Applied': appliedText(preferences),
        });
      }
    };

  /** The same about a table. */
  const about = (
    answer: (
      table: TableAnswers,
      context: RequestContext,
      request: ApiRequest,
      response: ServerResponse,
      open: Open,
    ) => Promise<void> | void,
  ): Handle =>
    to((context, request, response, open) => {
      const table = new TableAnswers(open.table ?? '', engine, context);
      return answer(table, context, request, response, open);
    });

  /** A question about a table, in the URL or in a body, and what answers it. */
  const requestOptions = (
    schema: Parameters<typeof readParameters>[1],
    body: Parameters<typeof readBody>[1],
    answer: (table: TableAnswers, given: Given, open: Open) => Promise<Answer>,
  ): Handle =>
    about(async (table, context, request, response, open) => {
      const given = await asks(request, response, schema, body, context);
      if (context.budget.afterWait === 'cancel') {
        await answer(table, given, open).catch(refusalOnly);
        sendNothing(response);
        return;
      }
      sendAnswer(request, response, await answer(table, given, open), context);
    });

  const rows = requestOptions(rowsParameters, bodies.rows, (table, given) => table.rows(given));
  const groups = requestOptions(groupsParameters, bodies.groups, (table, given) =>
    table.groups(given),
  );
  const aggregates = requestOptions(aggregatesParameters, bodies.aggregates, (table, given) =>
    table.aggregates(given),
  );
  const values = requestOptions(
    valuesParameters,
    bodies.values,
    (table, given, { column = '' }) => {
      const { containing, bins, counts, ...parameters } = given.values;
      return table.values(column, { ...given, values: parameters }, { containing, bins, counts });
    },
  );

  const file = about(async (table, context, request, response) => {
    if (context.access?.may?.exports === false) throw notAllowed('export rows');
    const given = await asks(request, response, exportParameters, bodies.export, context);
    const reported = { progressStore: engine.fileProgressStore, caller: context.access?.caller };
    await answerByFile(table, given, request, response, reported);
  });

  const fileProgress = to(async ({ access }, request, response, { ticket = '' }) => {
    refuseParameters(request.url ?? '');
    const progress = await engine.fileProgressStore.progressOf(placeOf(ticket, access?.caller));
    if (progress === undefined) throw notFound(`/exports/${ticket}`);
    sendJson(request, response, JSON.stringify(progress));
  });

  const caller = to((context, request, response) => {
    refuseParameters(request.url ?? '');
    const answer = callerAnswerOf(context.access, {
      explains: mayExplain(request, context),
      keepsViews: engine.views !== undefined,
    });
    sendJson(request, response, JSON.stringify(answer));
  });

  const tables = to(({ catalog }, request, response) => {
    refuseParameters(request.url ?? '');
    const list: TableList = {
      title: catalog.title,
      tables: [...catalog.tables.values()].map((one) => summary(one, request.baseUrl ?? '')),
    };
    sendJson(request, response, JSON.stringify(list));
  });

  const description = about((table, _context, request, response) => {
    refuseParameters(request.url ?? '');
    sendJson(request, response, JSON.stringify(table.description));
  });

  const row = about(async (table, context, request, response) => {
    const parameters = readParameters(request.url ?? '', rowParameters);
    // The raw key: its commas part it, its escaped commas do not.
    const key = partsOf(request.url ?? '')[3] ?? '';
    sendAnswer(request, response, await table.row(key, parameters), context);
  });

  const advice = about(async (table, context, request, response) => {
    const given = await asks(request, response, rowsParameters, bodies.rows, context);
    if (!mayExplain(request, context)) throw new Refused([problem('explain-not-allowed', {})]);
    sendJson(request, response, JSON.stringify(await table.advice(given)));
  });

  const written = about(async (table, context, request, response) => {
    const given = await asks(request, response, rowsParameters, bodies.rows, context);
    sendJson(request, response, JSON.stringify(await table.written(given)));
  });

  const live = about(async (table, context, request, response) => {
    const given = readParameters(request.url ?? '', liveParameters);
    const { access } = context;
    await answerLive(
      table,
      given,
      response,
      async () => {
        if (access === undefined) return true;
        const now = await policy.accessOf(request);
        // Anyone who has other rules by now begins again.
        return now !== undefined && JSON.stringify(now) === JSON.stringify(access);
      },
      streamBound({ request, response, access }),
    );
  });

  const streamBound = (settings: CountedRequest): StreamBound => {
    const { caller } = settings.access ?? {};
    const address = settings.request.socket.remoteAddress ?? '';
    const name = policy.nameOf?.(settings) ?? (caller === undefined ? address : `caller ${caller}`);
    return { name, isKnown: caller !== undefined, most: policy.streams };
  };

  const mileposts = about(async (table, context, request, response) => {
    const { values, problems } = readParameters(request.url ?? '', milepostParameters);
    const { ticks, ...parameters } = values;
    const answer = await table.mileposts({ values: parameters, problems }, ticks);
    sendAnswer(request, response, answer, context);
  });

  const selections = selectionRoutes(engine, jsonOf);
  const changes = changeRoutes(engine, jsonOf);
  const views = viewRoutes(engine, jsonOf);

  const simulation: Handle = (request, response) => {
    refuseParameters(request.url ?? '');
    const answer = trouble === undefined ? { on: false } : { on: true, ...trouble };
    sendJson(request, response, JSON.stringify(answer));
  };

  const openapi: Handle = (request, response) => {
    refuseParameters(request.url ?? '');
    const servers = [{ url: request.baseUrl ?? '' }];
    sendJson(request, response, JSON.stringify({ ...document, servers }));
  };

  /** A query that goes on: its answer as soon as it is ready, its progress until then; or its end. */
  const running: Handle = async (request, response, { id = '' }) => {
    refuseParameters(request.url ?? '');
    const query = queryOf(id);
    const parts = partsOf(query?.url ?? '');
    const route = known.find((one) => matches(one.parts, parts));
    if (query === undefined || route?.isQuery !== true || !route.methods.includes(query.method)) {
      throw notFound(`/queries/${id.slice(0, 40)}`);
    }
    const { wait = 0 } = preferencesOf(request);
    const isCancelled = request.method === 'DELETE';
    const budget = new WaitBudget(wait, isCancelled ? 'cancel' : 'return');
    if (!isCancelled) response.setHeader('Content-Location', (request.baseUrl ?? '') + query.url);
    await route.handle(repeated(request, query, budget), response, openIn(route.parts, parts));
  };

  // In the order in which they are tried; the most frequent come first.
  const routes: readonly Route[] = [
    { path: '/tables/:table/rows', methods: requests, handle: rows, isQuery: true },
    { path: '/tables/:table/query', methods: ['POST'], handle: rows, isQuery: true },
    { path: '/tables/:table/groups', methods: getOrPost, handle: groups, isQuery: true },
    { path: '/tables/:table/values/:column', methods: getOrPost, handle: values, isQuery: true },
    { path: '/tables/:table/aggregates', methods: getOrPost, handle: aggregates, isQuery: true },
    { path: '/queries/:id', methods: [...requests, 'DELETE'], handle: running },
    { path: '/tables/:table/export', methods: getOrPost, handle: file },
    { path: '/exports/:ticket', methods: requests, handle: fileProgress },
    { path: '/tables/:table/advice', methods: getOrPost, handle: advice },
    { path: '/tables/:table/written', methods: getOrPost, handle: written },
    { path: '/tables/:table/mileposts', methods: requests, handle: mileposts },
    { path: '/tables/:table/live', methods: ['GET'], handle: live },
    // A key may be the empty text.
    { path: '/tables/:table/rows/:key', methods: requests, handle: row },
    { path: '/tables/:table', methods: requests, handle: description },
    { path: '/tables', methods: requests, handle: tables },
    { path: '/caller', methods: requests, handle: caller },
    { path: '/selections', methods: ['POST'], handle: to(selections.all) },
    {
      path: '/selections/:id',
      methods: [...requests, 'PATCH', 'DELETE'],
      handle: to(selections.one),
    },
    { path: '/views', methods: getOrPost, handle: to(views.all) },
    { path: '/views/:id', methods: [...requests, 'PATCH', 'DELETE'], handle: to(views.one) },
    { path: '/tables/:table/changes', methods: ['POST'], handle: to(changes.save) },
    {
      path: '/changes',
      methods: ['POST', 'DELETE'],
      handle: to((context, request, response, open) =>
        request.method === 'DELETE'
          ? changes.withdraw(context, request, response, open)
          : changes.save(context, request, response, open),
      ),
    },
    { path: '/changes/:id/undo', methods: ['POST'], handle: to(changes.undo) },
    { path: '/tables/:table/history', methods: requests, handle: to(changes.history) },
    {
      path: '/tables/:table/rows/:key/history',
      methods: requests,
      handle: to((context, request, response, open) => {
        // The raw key: its commas part it, its escaped commas do not.
        const key = partsOf(request.url ?? '')[3] ?? '';
        return changes.history(context, request, response, { ...open, key });
      }),
    },
    { path: '/simulation', methods: requests, handle: simulation },
    { path: '/openapi.json', methods: requests, handle: openapi },
  ];
  const known = routes.map((route) => ({ ...route, parts: route.path.split('/').slice(1) }));

  return async (request, response) => {
    const { url = '', method = 'GET', baseUrl = '' } = request;
    const parts = partsOf(url);
    const route = known.find((one) => matches(one.parts, parts));
    if (route === undefined) throw notFound(pathOf(request.originalUrl ?? url));
    setRoute(response, baseUrl + route.path);
    if (!route.methods.includes(method)) {
      const methods = route.methods.join(', ');
      response.setHeader('Allow', methods);
      throw methodNotAllowed(method, methods);
    }
    if (trouble !== undefined && route.handle !== simulation) {
      const wanted = readSimulation(String(request.headers[simulationHeader] ?? '-')) ?? trouble;
      const { delay = 0, fail = 0 } = wanted;
      if (delay > 0) await setTimeout(delay, undefined, { signal: goneSignal(response) });
      if (Math.random() < fail) throw simulatedFailure();
    }
    await route.handle(request, response, openIn(route.parts, parts));
  };
}

/** Where the answer to a request will be. */
function placeOfRunning(request: ApiRequest): string | undefined {
  const { url = '', baseUrl = '', method, body } = request;
  const id =
    method === 'POST'
      ? idOf({ method, url, body: typeof body === 'string' ? body : JSON.stringify(body) })
      : idOf({ method: 'GET', url });
  return id === undefined ? undefined : `${baseUrl}/queries/${id}`;
}

/** The request of a query once more, with the rights of the current caller. */
function repeated(request: ApiRequest, query: RunningQuery, budget: WaitBudget): ApiRequest {
  const { url, body, method } = query;
  const isHead = request.method === 'HEAD';
  return Object.create(request, {
    method: { value: isHead && method === 'GET' ? 'HEAD' : method },
    url: { value: url },
    originalUrl: { value: (request.baseUrl ?? '') + url },
    body: { value: body },
    budget: { value: budget },
  }) as ApiRequest;
}

/** Of a query that is cancelled only its errors count. */
function refusalOnly(thrown: unknown): void {
  if (thrown instanceof Refused) throw thrown;
}

/** The parts of a path, as they are written. */
function partsOf(url: string): readonly string[] {
  return pathOf(url).split('/').slice(1);
}

function pathOf(url: string): string {
  const mark = url.indexOf('?');
  return mark === -1 ? url : url.slice(0, mark);
}

/** Only a row's key may be empty. */
function matches(pattern: readonly string[], parts: readonly string[]): boolean {
  return (
    pattern.length === parts.length &&
    pattern.every((part, index) =>
      part.startsWith(':') ? part === ':key' || parts[index] !== '' : part === parts[index],
    )
  );
}

/** @throws URIError for what is no text in UTF-8, percent-encoded */
function openIn(pattern: readonly string[], parts: readonly string[]): Open {
  const open: Record<string, string> = {};
  for (const [index, part] of pattern.entries()) {
    if (part.startsWith(':')) open[part.slice(1)] = decodeURIComponent(parts[index] ?? '');
  }
  return open;
}

/** Sends an answer; what its times tell of rows that are passed over not everybody may know. */
function sendAnswer(
  request: ApiRequest,
  response: ServerResponse,
  answer: Answer,
  { tally, catalog }: RequestContext,
): void {
  const json = tally.during('encode', () => printAnswer(answer));
  sendJson(request, response, json, {
    ...linksOf(request, answer),
    ...ageOf(answer),
    ...(catalog.ruled ? {} : { 'Server-Timing': tally.header() }),
  });
}

/** The Link header of a windowed answer to a URL, where it is not too long. */
function linksOf(request: ApiRequest, { window, next = null, previous = null }: Answer): Headers {
  if (window === undefined || request.method === 'POST') return {};
  const url = request.originalUrl ?? request.url ?? '';
  const Link = linkHeader(url, { window, next, previous });
  return Link === undefined ? {} : { Link };
}

/** Of an answer that was made a while ago: `Age` (RFC 9111, 5.1) says how long. */
function ageOf({ window, asOf = window?.asOf }: Answer): Headers {
  if (asOf === undefined) return {};
  return { Age: String(Math.floor((Date.now() - Date.parse(asOf)) / 1000)) };
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
