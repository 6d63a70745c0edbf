import { StoredSelectionAnswers, type Engine } from '../engine/index.ts';
import { refuseParameters } from '../query/index.ts';
import {
  sendJson,
  sendMade,
  sendNothing,
  type ReadJsonText,
  type RouteAnswer,
} from './exchange.ts';
import { readKeyChange, readWantedSelection } from './selection-body.ts';

/** What the routes about stored selections answer, by the engine; `textOf` reads a body that is JSON. */
export function selectionRoutes(
  engine: Engine,
  textOf: ReadJsonText,
): Readonly<Record<'all' | 'one', RouteAnswer>> {
  return {
    all: async (context, request, response) => {
      refuseParameters(request.url ?? '');
      const selections = new StoredSelectionAnswers(engine, context);
      const made = await selections.make(readWantedSelection(await textOf(request, response)));
      const Location = `${request.baseUrl ?? ''}/selections/${made.id}`;
      sendMade(request, response, JSON.stringify(made), { Location });
    },
    one: async (context, request, response, { id = '' }) => {
      refuseParameters(request.url ?? '');
      const selections = new StoredSelectionAnswers(engine, context);
      switch (request.method) {
        case 'DELETE':
          await selections.drop(id);
          sendNothing(response);
          return;
        case 'PATCH': {
          const change = readKeyChange(await textOf(request, response));
          sendJson(request, response, JSON.stringify(await selections.change(id, change)));
          return;
        }
        default:
          sendJson(request, response, JSON.stringify(await selections.read(id)));
      }
    },
  };
}
