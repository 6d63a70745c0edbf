import type { ServerResponse } from 'node:http';
import { problem, type Problem } from '@ephoros/core/problem';
import { readGivenSet, type SavedAnswer, type SaveOptions } from '../changes/index.ts';
import { ChangeAnswers, type Engine } from '../engine/index.ts';
import {
  historyParameters,
  readCount,
  readParameters,
  refuseParameters,
  Refused,
  savingParameters,
} from '../query/index.ts';
import {
  send,
  sendJson,
  notifyWritten,
  type ApiRequest,
  type ReadJsonText,
  type RouteAnswer,
} from './exchange.ts';
import { sendChangesRefused } from './problems.ts';

/** What the routes about changes answer, by the engine; `textOf` reads a body that is JSON. */
export function changeRoutes(
  engine: Engine,
  textOf: ReadJsonText,
): Readonly<Record<'save' | 'undo' | 'withdraw' | 'history', RouteAnswer>> {
  return {
    save: async (context, request, response, { table }) => {
      const options = optionsOf(request);
      const given = readGivenSet(await textOf(request, response));
      const set = { ...given, ...(table === undefined ? {} : { table }) };
      const answer = await new ChangeAnswers(engine, context).save(set, options);
      sendSaved(request, response, answer);
    },
    undo: async (context, request, response, { id = '' }) => {
      const options = optionsOf(request);
      // What changes something says that it is JSON, also where there is nothing more to say.
      await textOf(request, response);
      const answer = await new ChangeAnswers(engine, context).undo(id, options);
      sendSaved(request, response, answer);
    },
    withdraw: async (context, request, response) => {
      refuseParameters(request.url ?? '');
      const key = keyOf(request);
      if (key === undefined) throw new Refused([problem('malformed-idempotency-key', {})]);
      const answer = await new ChangeAnswers(engine, context).withdraw(key);
      send(request, response, 200, Buffer.from(`{"saved":${answer ?? 'null'}}`), {
        'Cache-Control': 'no-store',
        'Content-Type': 'application/json; charset=utf-8',
      });
    },
    history: async (context, request, response, { table = '', key }) => {
      const { values, problems } = readParameters(request.url ?? '', historyParameters);
      const { count: limit, problems: wrong } = readCount('limit', values.limit, { most: 100 });
      const all: readonly Problem[] = [...problems, ...wrong];
      if (all.length > 0) throw new Refused(all);
      const { after } = values;
      const place = { after, ...(limit === undefined ? {} : { limit }) };
      const answer = await new ChangeAnswers(engine, context).history(table, key, place);
      sendJson(request, response, JSON.stringify(answer));
    },
  };
}

/** @throws Refused */
function optionsOf(request: ApiRequest): SaveOptions {
  const { values, problems } = readParameters(request.url ?? '', savingParameters);
  if (problems.length > 0) throw new Refused(problems);
  return {
    mode: values.mode === 'each' ? 'each' : 'all',
    dryRun: values.dryRun === 'true',
    idempotencyKey: keyOf(request),
  };
}

/** The Idempotency-Key of a request. @throws Refused */
function keyOf(request: ApiRequest): string | undefined {
  const { 'idempotency-key': given } = request.headers;
  // A structured header may have it in quotes.
  const key = typeof given === 'string' ? given.replace(/^"(.*)"$/, '$1') : undefined;
  if (key !== undefined && !/^[\x21-\x7e][\x20-\x7e]{0,199}$/.test(key)) {
    throw new Refused([problem('malformed-idempotency-key', {})]);
  }
  return key;
}

function sendSaved(request: ApiRequest, response: ServerResponse, answer: SavedAnswer): void {
  if (answer.status !== 200) {
    sendChangesRefused(request, response, answer);
    return;
  }
  notifyWritten(response);
  send(request, response, 200, Buffer.from(answer.json), {
    'Cache-Control': 'no-store',
    'Content-Type': 'application/json; charset=utf-8',
  });
}
