import type { ServerResponse } from 'node:http';
import { readSpelled, spellAnswer, spelledProblems } from '@ephoros/core/spelling';
import type { SpellingConfiguration } from '../config/index.ts';
import { TableAnswers, type Engine, type RequestContext } from '../engine/index.ts';
import {
  requestOptionsOf,
  sendJson,
  setRoute,
  type ApiRequest,
  type RequestPolicy,
} from '../http/exchange.ts';
import { blockingBudgetOf } from '../http/preferences.ts';
import { methodNotAllowed } from '../http/refusals.ts';
import { decodePairs, Refused } from '../query/index.ts';

/** Where a spelling is served, and of which table. */
interface Place {
  readonly spelling: SpellingConfiguration;
  readonly parts: readonly string[];
}

/** A request that is one of a spelling: of which, and of which table. */
export interface Spelled {
  readonly spelling: SpellingConfiguration;
  /** As it stands in the path, percent-encoded. */
  readonly table: string;
}

/** Finds the spelling that is served at a path; undefined where none is. */
export function spellingsAt(
  spellings: readonly SpellingConfiguration[],
): (path: string) => Spelled | undefined {
  const places: readonly Place[] = spellings.map((spelling) => ({
    spelling,
    parts: spelling.at.split('/'),
  }));
  return (path) => {
    const given = path.split('/');
    const found = places.find(({ parts }) => fits(parts, given));
    if (found === undefined) return undefined;
    const open = found.parts.indexOf('{table}');
    return { spelling: found.spelling, table: found.spelling.table ?? given[open] ?? '' };
  };
}

function fits(parts: readonly string[], given: readonly string[]): boolean {
  return (
    parts.length === given.length &&
    parts.every((part, at) => (part === '{table}' ? given[at] !== '' : part === given[at]))
  );
}

/** Answers requests of spellings by the engine. Rejects with what `problemOf` makes a document of. */
export function createSpelled(
  engine: Engine,
  policy: RequestPolicy,
): (spelled: Spelled, request: ApiRequest, response: ServerResponse) => Promise<void> {
  return async (spelled, request, response) => {
    setRoute(response, spelled.spelling.at);
    const { method = 'GET' } = request;
    if (method !== 'GET' && method !== 'HEAD') {
      response.setHeader('Allow', 'GET, HEAD');
      throw methodNotAllowed(method, 'GET, HEAD');
    }
    const budget = blockingBudgetOf(request, engine);
    const options = { ...(await requestOptionsOf(request, response, policy)), budget };
    await engine.answer(options, (context) => answer(spelled, engine, context, request, response));
  };
}

async function answer(
  { spelling, table: name }: Spelled,
  engine: Engine,
  context: RequestContext,
  request: ApiRequest,
  response: ServerResponse,
): Promise<void> {
  const { catalog } = context;
  const table = new TableAnswers(decodeURIComponent(name), engine, context);
  const { pairs, problems: ofUrl } = decodePairs(request.url ?? '');
  const { query, problems } = readSpelled(pairs, spelling, {
    table: table.description,
    tables: catalog.describe,
    limits: catalog.limits,
  });
  const total = showsTotal(spelling) ? 'exact' : 'none';
  const parameters = {
    values: {},
    problems: [...ofUrl, ...problems],
    query: { ...query, total },
  } as const;
  const rows = await table.rows(parameters).catch((thrown: unknown) => {
    if (!(thrown instanceof Refused)) throw thrown;
    // What reading found is stated in the page's own words already, what the check finds is not.
    const shownProblems = thrown.problems.filter((one) => parameters.problems.includes(one));
    const found = thrown.problems.filter((one) => !shownProblems.includes(one));
    throw new Refused([...shownProblems, ...spelledProblems(found, spelling)]);
  });
  const { json, headers } = spellAnswer(rows, spelling);
  sendJson(request, response, json, headers);
}

/** Whether an answer of a spelling has the number of all rows. */
function showsTotal({ answer }: SpellingConfiguration): boolean {
  const { total, pages, totalHeader, pagesHeader } = answer;
  return [total, pages, totalHeader, pagesHeader].some((place) => place !== undefined);
}
