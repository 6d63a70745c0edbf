import { createClient, ServiceError, type ClientOptions } from '@ephoros/client';
import type { CallerAnswer } from '@ephoros/core/answer';
import { readView, viewOfSaved, viewParameters, type View } from '@ephoros/core/view';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { plain } from '../output/plain.ts';
import type { WantedReport } from './report-html.ts';
import { reportFile, reportFormats } from './report-file.ts';
import {
  readerError,
  mostReportRows,
  reportLanguageNames,
  usualLocale,
  usualReportRows,
} from './reader.ts';
import { NoBrowserError } from './find-browser.ts';
import { TooManyPagesError } from './print-queue.ts';

const own = ['format', 'language', 'locale', 'time-zone', 'rows', 'title'] as const;

/** What goes on to the service as the caller: how they are known. */
const passedOn: ReadonlySet<string> = new Set(['authorization', 'cookie']);
/** What is about this one request and its connection, and what only the service itself may say. */
const ofThisRequest =
  /^(?:host|connection|origin|referer|range|te|trailer|upgrade|transfer-encoding|expect|keep-alive|content-.*|accept.*|if-.*|sec-.*|proxy-.*|ephoros-.*)$/;

/** Why there is no report: a status, and a sentence. */
class Refusal extends Error {
  readonly status: number;

  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

/** Logs why a report could not be made. */
export interface ReportLog {
  readonly error: (about: { readonly err: unknown }, message: string) => void;
}

export interface ReportOptions {
  readonly environment: Readonly<Record<string, string | undefined>>;
  /** By what the service knows that a request of its own is made for another one; nothing by default. */
  readonly ownHeaders?:
    ((request: IncomingMessage) => Readonly<Record<string, string>>) | undefined;
}

/**
 * Serves reports: `/tables/passages?filter=…&format=pdf`, the parameters those of the view in the console's address;
 * `/views/{id}`, of a stored one. Every answer in them is requested of the service itself, as the caller.
 */
export function reportRoutes(
  options: ReportOptions,
  log: ReportLog,
): (request: IncomingMessage, response: ServerResponse) => void {
  return (request, response) => {
    const gone = new AbortController();
    response.once('close', () => gone.abort());
    answer(request, response, options, gone.signal).catch((thrown: unknown) => {
      const status = statusOf(thrown);
      if (status === 500 && !gone.signal.aborted) log.error({ err: thrown }, 'A report failed');
      if (!response.headersSent) sendRefusal(response, thrown, status);
    });
  };
}

async function answer(
  request: IncomingMessage,
  response: ServerResponse,
  { environment, ownHeaders }: ReportOptions,
  signal: AbortSignal,
): Promise<void> {
  if (request.method !== 'GET') {
    response.setHeader('Allow', 'GET');
    throw new Refusal(405, 'A report is asked for by GET.');
  }
  const { pathname, searchParams } = new URL(request.url ?? '/', 'http://service');
  const [, kind, name = '', more] = pathname.split('/');
  if ((kind !== 'tables' && kind !== 'views') || name === '' || more !== undefined) {
    throw new Refusal(404, 'Reports are at /report/tables/{table} and /report/views/{id}.');
  }
  const service = serviceOf(request, ownHeaders);
  const caller = await callerOf(service, signal);
  const about = decodeURIComponent(name);
  const options = kind === 'views' ? await savedView(service, about) : { table: about };
  const known: readonly string[] = kind === 'views' ? own : [...own, ...viewParameters];
  for (const parameter of searchParams.keys()) {
    if (!known.includes(parameter)) {
      throw new Refusal(400, `Unknown parameter ${plain(parameter)}.`);
    }
    if (searchParams.getAll(parameter).length > 1) {
      throw new Refusal(400, `The parameter ${parameter} is given more than once.`);
    }
  }
  const wanted = wantedOf(searchParams, options);
  const named = searchParams.get('format') ?? 'html';
  const format = reportFormats.find((one) => one === named);
  if (format === undefined) throw new Refusal(400, 'A report is html or pdf.');
  const body = await reportFile(service, wanted, format, environment, { caller, signal });
  const file = encodeURIComponent(`${wanted.title ?? wanted.table}.${format}`);
  response.writeHead(200, {
    'Content-Type': format === 'pdf' ? 'application/pdf' : 'text/html; charset=utf-8',
    'Content-Disposition': `inline; filename*=UTF-8''${file.replaceAll("'", '%27')}`,
    'Content-Length': body.length,
    'Cache-Control': 'private, no-store',
    // The page has a policy of its own; it says no more of a PDF.
    'Content-Security-Policy': "frame-ancestors 'self'",
  });
  response.end(body);
}

/** The API that this very process serves, requested as the caller for the report. */
function serviceOf(
  request: IncomingMessage,
  ownHeaders: ReportOptions['ownHeaders'],
): { readonly url: string; readonly headers: Record<string, string> } {
  const { socket } = request;
  const { localAddress = '127.0.0.1', localPort = 0 } = socket;
  const host = localAddress.includes(':') ? `[${localAddress}]` : localAddress;
  // By a service of one's own also what a proxy in between says of who asks.
  const isPassed = (name: string): boolean =>
    ownHeaders === undefined ? passedOn.has(name) : !ofThisRequest.test(name);
  // What was sent twice is not sent on as if it were one.
  const passed = Object.entries(request.headersDistinct).flatMap(
    ([name, values = []]): [string, string][] => {
      const [value] = values;
      return value !== undefined && values.length === 1 && isPassed(name) ? [[name, value]] : [];
    },
  );
  const origin = `http://${host}:${localPort}`;
  // What a browser sends by itself counts from a page of the service, as this is.
  return {
    url: `${origin}/api`,
    headers: { ...Object.fromEntries(passed), ...ownHeaders?.(request), Origin: origin },
  };
}

/** Who asks, as far as that is known; a report is a file as well. @throws Refusal, ServiceError */
async function callerOf(
  { url, headers }: Pick<ClientOptions, 'url'> & { readonly headers: Record<string, string> },
  signal: AbortSignal,
): Promise<string> {
  const response = await fetch(`${url}/caller`, { headers, signal });
  const { name, may, detail } = (await response.json()) as Partial<CallerAnswer> & {
    detail?: string;
  };
  if (!response.ok) throw new Refusal(response.status, detail ?? 'The caller is not known.');
  if (may?.exports === false) throw new Refusal(403, 'You may not take rows out as files.');
  return name ?? headers['ephoros-client'] ?? '';
}

interface RequestedView {
  readonly table: string;
  readonly view?: View;
  readonly title?: string;
  readonly note?: string;
}

async function savedView(service: ClientOptions, id: string): Promise<RequestedView> {
  const saved = await createClient(service).views.read(id);
  return {
    table: saved.table,
    view: viewOfSaved(saved.view).view,
    title: saved.name,
    note: saved.note,
  };
}

function wantedOf(parameters: URLSearchParams, wanted: RequestedView): WantedReport {
  const texts = Object.fromEntries(
    viewParameters.flatMap((name) => {
      const text = parameters.get(name);
      return text === null ? [] : [[name, text]];
    }),
  );
  const { view, problems } = readView(texts);
  const [first] = problems;
  if (first !== undefined)
    throw new Refusal(400, `${first.parameter ?? 'The view'}: ${first.message}`);
  // Who reads in another language has a page in English, its numbers and dates as they have them.
  const spoken = parameters.get('language');
  const language = reportLanguageNames.find((one) => one === spoken) ?? 'en';
  const locale = parameters.get('locale') ?? usualLocale(language);
  const timeZone = parameters.get('time-zone') ?? 'UTC';
  const error = readerError(locale, timeZone);
  if (error !== undefined) throw new Refusal(400, plain(error));
  const text = parameters.get('rows') ?? String(usualReportRows);
  const rows = /^\d{1,4}$/.test(text) ? Number(text) : 0;
  if (rows < 1 || rows > mostReportRows) {
    throw new Refusal(400, `A report has 1 to ${mostReportRows} rows.`);
  }
  const title = parameters.get('title') ?? wanted.title;
  return {
    table: wanted.table,
    view: wanted.view ?? view,
    title,
    note: wanted.note,
    rows,
    language,
    locale,
    timeZone,
  };
}

function sendRefusal(response: ServerResponse, thrown: unknown, status: number): void {
  const isReported =
    status < 500 || thrown instanceof NoBrowserError || thrown instanceof ServiceError;
  const detail =
    isReported && thrown instanceof Error ? thrown.message : 'The report could not be made.';
  const problem = {
    type: 'urn:ephoros:problem:no-report',
    title: 'There is no report',
    status,
    detail,
  };
  const retry = thrown instanceof TooManyPagesError ? { 'Retry-After': thrown.retryAfter } : {};
  response.writeHead(status, {
    ...retry,
    'Content-Type': 'application/problem+json; charset=utf-8',
    'Cache-Control': 'no-store',
  });
  response.end(JSON.stringify(problem));
}

function statusOf(thrown: unknown): number {
  if (thrown instanceof Refusal) return thrown.status;
  if (thrown instanceof NoBrowserError) return 501;
  if (thrown instanceof TooManyPagesError) return 429;
  if (thrown instanceof ServiceError) return thrown.status ?? 503;
  return thrown instanceof URIError ? 400 : 500;
}
