import { pino } from 'pino';
import { until } from '../../../core/src/testing/until.ts';
import {
  noConfiguration,
  parseConfiguration,
  serve,
  type RunningService,
  type ServeOptions,
} from '../index.ts';

export interface TestService extends RunningService {
  /** The JSON (or text) that a path answers, with its status and headers. */
  get(path: string, headers?: Record<string, string>): Promise<TestAnswer>;
  /** What was logged so far, a line each. */
  readonly log: string[];
}

export interface TestAnswer {
  readonly status: number;
  readonly headers: Headers;
  readonly body: any;
}

/** The real service on a free port of loopback, over a real database. */
export async function startService(
  url: string,
  configuration = '',
  more: Partial<ServeOptions> = {},
): Promise<TestService> {
  const log: string[] = [];
  const service = await serve({
    port: 0,
    configuration:
      configuration === '' ? noConfiguration : parseConfiguration(configuration, 'test.yaml'),
    logger: pino({ level: 'info' }, { write: (line: string) => log.push(line) }),
    version: '0.0.0-test',
    // However busy the machine is: a small table is counted exactly, and answers come whole.
    countingTime: 3_000,
    deferAfter: 5_000,
    ...more,
    database: url,
  });
  return {
    ...service,
    log,
    get: async (path, headers = {}) => {
      const response = await fetch(service.url + path, { headers });
      const text = await response.text();
      const isJson = response.headers.get('content-type')?.includes('json') === true;
      return {
        status: response.status,
        headers: response.headers,
        body: isJson && text !== '' ? JSON.parse(text) : text,
      };
    },
  };
}

/** What a caller gets who comes back for its answer: the answer or, until it is ready, its progress by 202. */
export function poll({ get }: Pick<TestService, 'get'>, path: string): Promise<TestAnswer> {
  return get(path, { Prefer: 'respond-async' });
}

/** The answer of a caller who comes back until it is ready. */
export function ready(service: Pick<TestService, 'get'>, path: string): Promise<TestAnswer> {
  return until(
    () => poll(service, path),
    ({ status }) => status !== 202,
  );
}

/** A path with parameters. */
export function rowsPath(table: string, parameters: Readonly<Record<string, string>> = {}): string {
  const search = new URLSearchParams(parameters).toString();
  return `/api/tables/${encodeURIComponent(table)}/rows${search === '' ? '' : `?${search}`}`;
}

/** What selects the rows of a line: what all lines of its answer meet, and its own condition. */
export function conditionOfLine(
  { filter: above }: { readonly filter: string | null },
  { filter }: { readonly filter: string | null },
): string {
  return [above, filter].flatMap((one) => (one === null ? [] : [`(${one})`])).join(' AND ');
}
