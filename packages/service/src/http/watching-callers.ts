import type { IncomingMessage } from 'node:http';
import { printParameters, printWithoutValues } from '@ephoros/core/query';
import type { Logger } from 'pino';
import { senderOf, type Configuration } from '../config/index.ts';
import type { Tally } from '../question/index.ts';
import { routeOf, type CountedRequest, type Door } from './exchange.ts';
import { tooMuch } from './refusals.ts';
import { secondsOf, tellLeft, type RateBoard } from './rates.ts';

/** Whose requests are counted together: a caller's, or those of an address where callers are not known. */
type NameOf = (asking: CountedRequest) => string;

/** By name where there is one; else by the address that a request comes from. */
export function callerOrAddress(addressOf: (request: IncomingMessage) => string): NameOf {
  return ({ request, access }) =>
    access?.caller === undefined
      ? `address ${senderOf(addressOf(request))}`
      : `caller ${access.caller}`;
}

/** Counts what callers ask, and refuses what is more than they may. */
export function countingBy(
  board: RateBoard,
  bounds: Configuration['rates'],
  nameOf: NameOf,
): NonNullable<Door['count']> {
  return async (asking) => {
    const name = nameOf(asking);
    const left = await board.take(name);
    const wait = tellLeft(left, secondsOf(bounds), asking.response);
    if (wait !== undefined) throw tooMuch(wait);
    return (tally) => board.spend(name, tally.rows, tally.of('database'));
  };
}

/** What a line of the audit tells of the values in a question. */
type Told = NonNullable<NonNullable<Configuration['audit']>['questions']>;

/** Writes a line of the log for each question: who asked what, and what it came to. */
export function auditIn(
  logger: Logger,
  told: Exclude<Told, 'nothing'>,
  addressOf: (request: IncomingMessage) => string,
): NonNullable<Door['note']> {
  // It is written whatever the level of all else is.
  const lines = logger.child({}, { level: 'info' });
  return ({ request, response, access }, tally) => {
    const { method } = request;
    const { asked, changed } = tally;
    const isQuestion = method === 'GET' || method === 'HEAD' || asked !== undefined;
    lines.info({
      audit: changed !== undefined ? 'change' : isQuestion ? 'question' : 'action',
      requestId: response.getHeader('X-Request-Id'),
      caller: access?.caller ?? null,
      address: addressOf(request),
      method,
      route: routeOf(response),
      ...(asked && { table: asked.table }),
      ...(asked?.query && { query: printed(asked.query, told) }),
      ...(changed && { tables: changed.tables, changes: changed.changes }),
      ...(changed?.dryRun === true && { dryRun: true }),
      status: response.statusCode,
      rows: tally.rows,
      databaseMs: Math.round(tally.of('database')),
      ...(response.writableFinished ? {} : { brokenOff: true }),
    });
  };
}

function printed(
  query: NonNullable<NonNullable<Tally['asked']>['query']>,
  told: Exclude<Told, 'nothing'>,
): string {
  if (told === 'names') return printWithoutValues(query);
  return printParameters(query)
    .map(([name, value]) => `${name}=${value}`)
    .join('&');
}
