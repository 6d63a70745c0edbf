import type { ServerResponse } from 'node:http';
import {
  csdlJson,
  csdlXml,
  readOptionNames,
  readQueryOptions,
  type Options,
} from '@ephoros/core/odata';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { TableAnswers, type Engine, type RequestContext } from '../engine/index.ts';
import { mostCharacters } from '../http/body.ts';
import { textOf } from '../http/body-text.ts';
import {
  requestOptionsOf,
  send,
  sendJson,
  setRoute,
  type ApiRequest,
  type RequestPolicy,
  type Headers,
} from '../http/exchange.ts';
import { blockingBudgetOf } from '../http/preferences.ts';
import { HttpRefusal, methodNotAllowed, notFound } from '../http/refusals.ts';
import { decodeParameters, Refused } from '../query/index.ts';
import { collectionJson, contextMember, countOf, entityJson, type Answering } from './answer.ts';
import {
  negotiate,
  preferredPage,
  versionFor,
  type Negotiated,
  type Version,
} from './negotiation.ts';
import { entitiesOf, optionsAt, resourceAt, type Resource, type Row } from './resource.ts';

/** What is queried, sorted out as far as every resource has it. */
interface Request {
  readonly request: ApiRequest;
  readonly response: ServerResponse;
  readonly context: RequestContext;
  readonly options: Options;
  readonly problems: readonly Problem[];
  readonly negotiated: Negotiated;
  readonly version: Version;
  /** The address of the service, with a slash behind it. */
  readonly root: string;
}

/** OData over an engine, under whatever path it is mounted. Rejects with what `problemOf` makes a document of. */
export function createOData(
  engine: Engine,
  policy: RequestPolicy,
): (request: ApiRequest, response: ServerResponse) => Promise<void> {
  return async (request, response) => {
    setRoute(response, `${request.baseUrl ?? ''}/*`);
    const version = versionFor(request);
    response.setHeader('OData-Version', version ?? '4.01');
    if (version === undefined) throw unknownVersion();
    const budget = blockingBudgetOf(request, engine);
    const options = { ...(await requestOptionsOf(request, response, policy)), budget };
    // A body is read once, however often its query is run.
    const posted = request.method === 'POST' ? await textOf(request, response) : undefined;
    await engine.answer(options, (context) =>
      answer(engine, context, { request, response, version, posted }),
    );
  };
}

async function answer(
  engine: Engine,
  context: RequestContext,
  {
    request,
    response,
    version,
    posted,
  }: Pick<Request, 'request' | 'response' | 'version'> & { readonly posted: string | undefined },
): Promise<void> {
  const { url = '', baseUrl = '', method = 'GET' } = request;
  const [path = ''] = url.split('?');
  const resource = resourceAt(path, context.catalog);
  if (resource === undefined) throw notFound(baseUrl + path);
  const isQuery = path.endsWith('/$query');
  const methods = isQuery ? ['POST'] : ['GET', 'HEAD'];
  if (!methods.includes(method)) {
    response.setHeader('Allow', methods.join(', '));
    throw methodNotAllowed(method, methods.join(', '));
  }
  const inUrl = decodeParameters(url);
  const inBody =
    posted === undefined ? { values: {}, problems: [] } : decodeParameters(`?${posted}`);
  const { options, problems } = readOptionNames(
    [...Object.entries(inUrl.values), ...Object.entries(inBody.values)],
    optionsAt(resource),
    isQuery ? mostCharacters : context.catalog.limits.characters,
  );
  const negotiated = negotiate(options.format, request, formatsOf(resource, version));
  if (negotiated === undefined) throw notAcceptable();
  await answerResource(engine, resource, {
    ...{ request, response, context, options, negotiated, version },
    problems: [...inUrl.problems, ...inBody.problems, ...problems],
    root: `${rootOf(request)}/`,
  });
}

/** OData 4.0 has its model in XML alone. */
function formatsOf({ kind }: Resource, version: Version): readonly Negotiated['format'][] {
  if (kind === 'metadata') return version === '4.0' ? ['xml'] : ['xml', 'json'];
  return kind === 'count' || kind === 'rawValue' ? ['text'] : ['json'];
}

async function answerResource(engine: Engine, resource: Resource, wanted: Request): Promise<void> {
  const { request, response, context, options, problems, root, negotiated } = wanted;
  const { catalog } = context;
  switch (resource.kind) {
    case 'service':
      refuse(problems);
      return sendOData(wanted, serviceDocument(wanted));
    case 'metadata':
      refuse(problems);
      return sendModel(wanted);
    default:
  }
  const { entity, condition } = resource;
  const table = new TableAnswers(entity.table.name, engine, context);
  const metadata = negotiated.metadata === 'none' ? undefined : `${root}$metadata`;
  const answering: Answering = {
    table,
    form: negotiated,
    pageSize: Math.min(entity.table.rowCap, preferredPage(request) ?? Infinity),
    metadata,
    pageAt: (token) => nextPage(wanted, token),
  };
  const { texts: query, problems: found } = readQueryOptions(options, entity, catalog.describe);
  const all = [...problems, ...found];
  const at = { texts: query, condition, context: resource.context, problems: all };
  if (resource.from !== undefined) await expectRow(engine, context, resource.from);
  switch (resource.kind) {
    case 'collection': {
      const size = preferredPage(request);
      const applied: Headers =
        size === undefined ? {} : { 'Preference-Applied': `maxpagesize=${size}`, Vary: 'Prefer' };
      return sendOData(wanted, await collectionJson(at, answering), applied);
    }
    case 'count': {
      const count = await countOf(at, answering);
      return sendText(request, response, String(count));
    }
    case 'entity': {
      const json = await entityJson(at, answering);
      if (json !== undefined) return sendOData(wanted, json);
      // Of a row that refers to none that is the answer.
      if (resource.from !== undefined) return sendEmpty(response);
      throw new Refused(inParameter('path', [problem('unknown-row', { table: entity.name })]));
    }
    case 'property':
    case 'rawValue': {
      refuse(all);
      const own = {
        ...query,
        selection: { entity, properties: [resource.property], expanded: [], isNamed: true },
      };
      const name = { name: resource.property.column.name, span: { start: 0, end: 0 } };
      const one = { ...at, texts: { ...own, query: { columns: [name] } } };
      const json = await entityJson(one, { ...answering, metadata: undefined });
      if (json === undefined) {
        throw new Refused(inParameter('path', [problem('unknown-row', { table: entity.name })]));
      }
      const value = (JSON.parse(json) as Record<string, unknown>)[resource.property.name];
      if (value === null) return sendEmpty(response);
      if (resource.kind === 'rawValue') {
        return sendText(request, response, rawText(json, value));
      }
      const lead = metadata === undefined ? '' : `${contextMember(metadata, resource.context)},`;
      return sendOData(wanted, `{${lead}"value":${json.slice(json.indexOf(':') + 1)}`);
    }
    default:
      throw new Error(`unknown resource ${JSON.stringify(resource satisfies never)}`);
  }
}

/** A way begins at a row that there is. @throws Refused */
async function expectRow(
  engine: Engine,
  context: RequestContext,
  { entity, condition }: Row,
): Promise<void> {
  const { table, name } = entity;
  const columns = table.key.map((key) => ({ name: key, span: { start: 0, end: 0 } }));
  const query = {
    columns,
    ...(condition && { filter: condition }),
    limit: 1,
    total: 'none' as const,
  };
  const answers = new TableAnswers(table.name, engine, context);
  const { window } = await answers.rows({ values: {}, problems: [], query });
  if (window.count === 0) {
    throw new Refused(inParameter('path', [problem('unknown-row', { table: name })]));
  }
}

/** A value as it is, without quotes around a text. */
function rawText(json: string, value: unknown): string {
  return typeof value === 'string' ? value : json.slice(json.indexOf(':') + 1, -1);
}

function refuse(problems: readonly Problem[]): void {
  if (problems.length > 0) throw new Refused(problems);
}

function serviceDocument({ context, root, negotiated }: Request): string {
  const sets = entitiesOf(context.catalog).map(({ name, table }) => ({
    name,
    title: table.title,
    kind: 'EntitySet',
    url: encodeURIComponent(name),
  }));
  const lead = negotiated.metadata === 'none' ? {} : { '@odata.context': `${root}$metadata` };
  return JSON.stringify({ ...lead, value: sets });
}

function sendModel(wanted: Request): void {
  const { request, response, context, negotiated, version } = wanted;
  const entities = entitiesOf(context.catalog);
  const { describe } = context.catalog;
  if (negotiated.format === 'json') {
    sendOData(wanted, JSON.stringify(csdlJson(entities, describe)));
    return;
  }
  const xml = Buffer.from(csdlXml(entities, describe, version));
  send(request, response, 200, xml, {
    'Content-Type': 'application/xml; charset=utf-8',
    'Cache-Control': 'private, no-cache',
  });
}

function sendOData(
  { request, response, negotiated }: Request,
  json: string,
  headers: Headers = {},
): void {
  const { metadata, ieee754Compatible } = negotiated;
  const compatible = ieee754Compatible ? ';IEEE754Compatible=true' : '';
  sendJson(request, response, json, {
    ...headers,
    'Content-Type': `application/json;odata.metadata=${metadata}${compatible};charset=utf-8`,
  });
}

function sendText(request: ApiRequest, response: ServerResponse, text: string): void {
  send(request, response, 200, Buffer.from(text), {
    'Content-Type': 'text/plain; charset=utf-8',
    'Cache-Control': 'private, no-cache',
  });
}

function sendEmpty(response: ServerResponse): void {
  response.writeHead(204, { 'Cache-Control': 'private, no-cache' }).end();
}

/** The same question from another place on; a question that was sent in a body becomes one of a URL. */
function nextPage({ request, options, root }: Request, token: string): string {
  const [path = ''] = (request.url ?? '').split('?');
  const { skip: _skip, skiptoken: _skiptoken, ...others } = options;
  const requests = Object.entries({ ...others, skiptoken: token }).map(
    ([name, value]) => `$${name}=${encodeURIComponent(value)}`,
  );
  return `${root.slice(0, -1)}${path.replace(/\/\$query$/, '')}?${requests.join('&')}`;
}

/** The address that the service is mounted at, as the client knows it. */
function rootOf({ headers, baseUrl = '', socket }: ApiRequest): string {
  const forwarded = String(headers['x-forwarded-proto'] ?? '')
    .split(',')[0]
    ?.trim();
  const isEncrypted = 'encrypted' in socket && socket.encrypted === true;
  const scheme = forwarded === 'https' || isEncrypted ? 'https' : 'http';
  return `${scheme}://${headers.host ?? 'localhost'}${baseUrl}`;
}

function unknownVersion(): HttpRefusal {
  return new HttpRefusal({
    slug: 'not-acceptable',
    status: 400,
    title: 'This version is not spoken here',
    detail: 'OData 4.0 and 4.01 are spoken here: OData-MaxVersion asks for an older one.',
  });
}

function notAcceptable(): HttpRefusal {
  return new HttpRefusal({
    slug: 'not-acceptable',
    status: 406,
    title: 'There is no such format of this',
    detail:
      'There is JSON with odata.metadata=minimal or none, for $metadata XML too, for values and counts plain text.',
  });
}
