import type { IncomingMessage } from 'node:http';
import { printParameters, printWithoutValues } from '@ephoros/core/query';
import type { Logger } from 'pino';
import { senderOf, type Configuration } from '../config/index.ts';
import type { Tally } from '../query/index.ts';
import { routeOf, type CountedRequest, type RequestPolicy } from './exchange.ts';
import { tooMuch } from './refusals.ts';
import { secondsOf, reportRemaining, type RateCounters } from './rates.ts';

/** Whose requests are counted together: a caller's, or those of an address where callers are not known. */
type NameOf = (options: CountedRequest) => string;

/** By name where there is one; else by the address that a request comes from. */
export function callerOrAddress(addressOf: (request: IncomingMessage) => string): NameOf {
  return ({ request, access }) =>
    access?.caller === undefined
      ? `address ${senderOf(addressOf(request))}`
      : `caller ${access.caller}`;
}

/** Counts what callers ask, and refuses what is more than they may. */
export function countingBy(
  progressStore: RateCounters,
  bounds: Configuration['rates'],
  nameOf: NameOf,
): NonNullable<RequestPolicy['count']> {
  return async (options) => {
    const name = nameOf(options);
    const left = await progressStore.take(name);
    const wait = reportRemaining(left, secondsOf(bounds), options.response);
    if (wait !== undefined) throw tooMuch(wait);
    return (tally) => progressStore.spend(name, tally.rows, tally.of('database'));
  };
}

/** What a line of the audit says of the values in a query. */
type AuditDetail = NonNullable<NonNullable<Configuration['audit']>['questions']>;

/** Writes a line of the log for each question: who sent which query, and the outcome. */
export function auditIn(
  logger: Logger,
  message: Exclude<AuditDetail, 'nothing'>,
  addressOf: (request: IncomingMessage) => string,
): NonNullable<RequestPolicy['note']> {
  // It is written whatever the level of all else is.
  const lines = logger.child({}, { level: 'info' });
  return ({ request, response, access }, tally) => {
    const { method } = request;
    const { wanted, changed } = tally;
    const isRead = method === 'GET' || method === 'HEAD' || wanted !== undefined;
    lines.info({
      audit: changed !== undefined ? 'change' : isRead ? 'question' : 'action',
      requestId: response.getHeader('X-Request-Id'),
      caller: access?.caller ?? null,
      address: addressOf(request),
      method,
      route: routeOf(response),
      ...(wanted && { table: wanted.table }),
      ...(wanted?.query && { query: printed(wanted.query, message) }),
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
  query: NonNullable<NonNullable<Tally['wanted']>['query']>,
  message: Exclude<AuditDetail, 'nothing'>,
): string {
  if (message === 'names') return printWithoutValues(query);
  return printParameters(query)
    .map(([name, value]) => `${name}=${value}`)
    .join('&');
}
