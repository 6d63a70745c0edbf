import type { ServerResponse } from 'node:http';
import { problem } from '@ephoros/core/problem';
import { newViewBody, viewChangeBody, type ViewAnswer } from '@ephoros/core/view';
import etag from 'etag';
import { SavedViewAnswers, mostListed, type Engine, type RequestContext } from '../engine/index.ts';
import {
  readCount,
  readParameters,
  refuseParameters,
  Refused,
  viewsParameters,
} from '../query/index.ts';
import {
  sendJson,
  sendMade,
  sendNothing,
  sendTagged,
  type ApiRequest,
  type ReadJsonText,
  type RouteAnswer,
} from './exchange.ts';
import { readJsonBody } from './json-body.ts';
import { isSafe } from './own-origin.ts';
import { notAllowed } from './refusals.ts';

/** What the routes about saved views answer, by the engine; `textOf` reads a body that is JSON. */
export function viewRoutes(
  engine: Engine,
  textOf: ReadJsonText,
): Readonly<Record<'all' | 'one', RouteAnswer>> {
  return {
    all: async (context, request, response) => {
      refuseWithout(context, request);
      const views = new SavedViewAnswers(engine, context);
      if (request.method === 'POST') {
        refuseParameters(request.url ?? '');
        const made = await views.make(readJsonBody(await textOf(request, response), newViewBody));
        const Location = `${request.baseUrl ?? ''}/views/${made.id}`;
        sendMade(request, response, JSON.stringify(made), { Location, ETag: tagOf(made) });
        return;
      }
      const { values, problems } = readParameters(request.url ?? '', viewsParameters);
      const { count: limit, problems: wrong } = readCount('limit', values.limit, {
        most: mostListed,
      });
      if (problems.length + wrong.length > 0) throw new Refused([...problems, ...wrong]);
      const { table, search, after } = values;
      const wanted = { table, search, after, limit, first: values.first === 'true' };
      sendJson(request, response, JSON.stringify(await views.list(wanted)));
    },
    one: async (context, request, response, { id = '' }) => {
      refuseWithout(context, request);
      const views = new SavedViewAnswers(engine, context);
      refuseParameters(request.url ?? '');
      switch (request.method) {
        case 'DELETE':
          await views.drop(id, versionIn(request, false));
          sendNothing(response);
          return;
        case 'PATCH': {
          const version = versionIn(request, true);
          const change = readJsonBody(await textOf(request, response), viewChangeBody);
          sendView(request, response, await views.change(id, change, version));
          return;
        }
        default:
          sendView(request, response, await views.read(id));
      }
    },
  };
}

/** @throws HttpRefusal where the caller may keep none, or open none */
function refuseWithout({ access }: RequestContext, request: ApiRequest): void {
  const views = access?.may?.views ?? true;
  if (views === false) throw notAllowed('open saved views');
  if (views === 'open' && !isSafe(request)) throw notAllowed('save views');
}

function sendView(request: ApiRequest, response: ServerResponse, view: ViewAnswer): void {
  sendTagged(request, response, JSON.stringify(view), tagOf(view));
}

/** Its version, and what else of its answer may be otherwise: what of it the table still has. */
function tagOf(view: ViewAnswer): string {
  return `"${view.version}-${etag(JSON.stringify(view)).slice(1, -1)}"`;
}

/**
 * The version that If-Match names (RFC 9110, 13.1.1); undefined for `*`. What follows the version in
 * a tag is no part of it, nor whether somebody on the way has made the tag a weak one: the version
 * alone says whether anything would be overwritten. @throws Refused
 */
function versionIn({ headers }: ApiRequest, needed: boolean): number | undefined {
  const { 'if-match': text } = headers;
  if (text === undefined && needed) throw new Refused([problem('if-match-needed', {})]);
  if (text === undefined || text.trim() === '*') return undefined;
  const version = /^\s*(?:W\/)?"(\d{1,9})(?:-[^"]*)?"\s*$/.exec(text)?.[1];
  // What is no tag of a view matches none.
  return version === undefined ? 0 : Number(version);
}
