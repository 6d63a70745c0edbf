import type { AdviceAnswer } from '@ephoros/core/answer';
import { ServiceError } from './service-error.ts';

/** What a request is about, as its address says. */
export interface RequestAbout {
  readonly kind:
    | 'tables'
    | 'description'
    | 'rows'
    /** How many rows match: a window of one row, counted. */
    | 'total'
    | 'row'
    | 'groups'
    | 'values'
    | 'aggregates'
    | 'mileposts'
    | 'changes'
    | 'history'
    | 'selections'
    | 'views'
    | 'other';
  readonly table?: string;
  readonly column?: string;
}

/** A stage of the service's work, as its `Server-Timing` has it. */
export interface RequestStage {
  readonly name: string;
  readonly milliseconds: number;
}

/** A request to a service, and what has become of it by now. */
export interface LoggedRequest {
  /** Counts the requests of a log. */
  readonly id: number;
  /** When it was sent, in ms since 1970. */
  readonly at: number;
  readonly method: string;
  /** As it was requested: relative to the page where the client's address is. */
  readonly address: string;
  /** The text of its body, where it has one that is not long. */
  readonly body?: string;
  /** Whether it has a body that is too long to be remembered. */
  readonly long?: boolean;
  readonly about: RequestAbout;
  readonly state: 'under-way' | 'answered' | 'failed' | 'abandoned';
  readonly status?: number;
  /**
   * From where it was answered: by the database, by what the service remembers, by what the browser
   * has had before, by a result that the client keeps.
   */
  readonly from?: 'database' | 'service-cache' | 'not-modified' | 'browser-cache';
  /** Until the answer was read, in ms. */
  readonly milliseconds?: number;
  /** Empty where the service reports none. */
  readonly stages: readonly RequestStage[];
  /** Rows, lines or values of the answer. */
  readonly count?: number;
  /** Characters of the answer. */
  readonly length?: number;
  /** Why there is no answer. */
  readonly message?: string;
}

/** How an answer came about, as the service shows where it may. */
export interface RequestExplanation {
  readonly sql: string;
  /** What is bound to $1, $2, … */
  readonly parameters: readonly unknown[];
  readonly indexes: readonly string[];
  /** The steps of the plan, outermost first. */
  readonly steps: readonly {
    readonly depth: number;
    readonly step: string;
    readonly rows: number;
    readonly milliseconds: number;
    readonly ownMilliseconds: number;
  }[];
  /** Rows of tables and indexes that were read for it. */
  readonly rowsRead: number;
}

/** Sends a request once more, otherwise. */
export type RepeatRequest = (
  address: string,
  body: string | undefined,
  signal: AbortSignal | undefined,
) => Promise<{ readonly answer: unknown }>;

/** Questions that the service explains. */
const explained: ReadonlySet<RequestAbout['kind']> = new Set(['rows', 'groups', 'aggregates']);

/** Whether a request is one that the service can tell how it came about. */
export function isExplained({ about, from, long = false }: LoggedRequest): boolean {
  return explained.has(about.kind) && from !== 'browser-cache' && !long;
}

/** Whether a request can be answered with the indexes that would help it. */
export function isAdvised(entry: LoggedRequest): boolean {
  return entry.about.kind === 'rows' && isExplained(entry);
}

/** A request as it is sent. */
interface Begun {
  readonly method: string;
  readonly address: string;
  readonly body: string | undefined;
  /** Where the API is: what its addresses begin with. */
  readonly base: string;
}

/** Notes the progress of one request in the log. */
export interface Logging {
  answered(response: Response): void;
  read(answer: unknown, length: number): void;
  failed(thrown: unknown): void;
}

export interface RequestLogOptions {
  /** Requests that are remembered; 200 by default. */
  readonly most?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/**
 * The requests of a client, the last of them, as they happen: `createClient({ url, log })`. Made to
 * be shown to developers; it holds addresses and bodies, and no answers.
 */
export class RequestLog {
  private readonly most: number;
  private readonly now: () => number;
  private known: readonly LoggedRequest[] = [];
  private last = 0;
  private readonly again = new Map<number, RepeatRequest>();
  /** Requests whose answers were stated to be the same as before. */
  private readonly unmodified = new Set<number>();
  private watching = false;
  private readonly listeners = new Set<() => void>();

  constructor({ most = 200, now = Date.now }: RequestLogOptions = {}) {
    this.most = most;
    this.now = now;
  }

  /** The oldest first; another list whenever one of them is another one. */
  readonly entries = (): readonly LoggedRequest[] => this.known;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly clear = (): void => this.put([]);

  /** How the answer to a question came about: it is sent once more. @throws ServiceError */
  async explain(id: number, signal?: AbortSignal): Promise<RequestExplanation> {
    const { entry, request } = this.request(id, isExplained);
    const { address, body } = entry;
    const read =
      body === undefined
        ? await request(
            `${address}${address.includes('?') ? '&' : '?'}explain=true`,
            undefined,
            signal,
          )
        : await request(address, explaining(body), signal);
    return (read.answer as { explanation: RequestExplanation }).explanation;
  }

  /** Which indexes a question about rows would want. @throws ServiceError */
  async advise(id: number, signal?: AbortSignal): Promise<AdviceAnswer['advice']> {
    const { entry, request } = this.request(id, isAdvised);
    const address = entry.address.replace(/\/(?:rows|query)(?=\?|$)/, '/advice');
    return ((await request(address, entry.body, signal)).answer as AdviceAnswer).advice;
  }

  /** @throws ServiceError for what nobody requested, or is no such question */
  private request(
    id: number,
    fits: (entry: LoggedRequest) => boolean,
  ): { entry: LoggedRequest; request: RepeatRequest } {
    const entry = this.known.find((one) => one.id === id);
    const request = this.again.get(id);
    if (entry !== undefined && request !== undefined && fits(entry)) return { entry, request };
    throw new ServiceError('refused', 'This request is not explained.');
  }

  /** For a client that has answered a question itself. */
  cached(about: RequestAbout, address: string, answer: unknown): void {
    this.last += 1;
    const count = countOf(answer);
    this.add({
      id: this.last,
      at: this.now(),
      method: 'GET',
      address,
      about,
      state: 'answered',
      from: 'browser-cache',
      milliseconds: 0,
      stages: [],
      ...(count === undefined ? {} : { count }),
    });
  }

  /** For the client, whose API is at `base`. */
  begin({ method, address, body, base }: Begun, again: RepeatRequest): Logging {
    this.last += 1;
    const id = this.last;
    const at = this.now();
    const about = aboutOf(address.slice(base.length));
    this.again.set(id, again);
    this.watch();
    let remembered = false;
    const first: LoggedRequest = {
      id,
      at,
      method,
      address,
      about,
      state: 'under-way',
      stages: [],
      ...(body === undefined ? {} : body.length > longBody ? { long: true } : { body }),
    };
    this.add(first);
    const change = (more: Partial<LoggedRequest>): void => {
      if (!this.known.some((one) => one.id === id)) return;
      this.put(this.known.map((one) => (one.id === id ? { ...one, ...more } : one)));
    };
    const spent = (): { milliseconds: number } => ({ milliseconds: this.now() - at });
    return {
      answered: ({ status, headers }) => {
        const stages = stagesIn(headers.get('Server-Timing') ?? '');
        const startedAt = stages.some(({ name }) => name === 'database');
        remembered = headers.has('Age') || (stages.length > 0 && !startedAt);
        change({ status, stages });
      },
      read: (answer, length) => {
        const count = countOf(answer);
        const counted = count === undefined ? {} : { count };
        const served = remembered || ofCatalog.has(about.kind) ? 'service-cache' : 'database';
        const from = this.unmodified.has(id) ? 'not-modified' : served;
        change({ state: 'answered', from, length, ...counted, ...spent() });
      },
      failed: (thrown) => {
        const refused = thrown instanceof ServiceError ? thrown : undefined;
        const abandoned =
          refused === undefined && (thrown as { name?: string }).name === 'AbortError';
        change({
          state: abandoned ? 'abandoned' : 'failed',
          message: thrown instanceof Error ? thrown.message : String(thrown),
          ...(refused?.status === undefined ? {} : { status: refused.status }),
          ...spent(),
        });
      },
    };
  }

  /** A browser shows how it came by an answer, sometimes after that was read. */
  private watch(): void {
    const { location } = globalThis as { readonly location?: { readonly href: string } };
    if (this.watching || location === undefined) return;
    this.watching = true;
    const observer = new PerformanceObserver((entries) => {
      for (const entry of entries.getEntries() as readonly Fetched[]) {
        if (entry.transferSize !== bytesOfHeaders || entry.encodedBodySize === 0) continue;
        const sent = performance.timeOrigin + entry.startTime;
        const [of] = this.known
          .filter(({ address }) => new URL(address, location.href).href === entry.name)
          .sort((one, other) => Math.abs(one.at - sent) - Math.abs(other.at - sent));
        if (of === undefined) continue;
        this.unmodified.add(of.id);
        const { id } = of;
        this.put(
          this.known.map((one) =>
            one.id === id && one.state === 'answered' ? { ...one, from: 'not-modified' } : one,
          ),
        );
      }
    });
    observer.observe({ type: 'resource' });
  }

  private add(entry: LoggedRequest): void {
    const entries = [...this.known, entry].slice(-this.most);
    this.put(entries);
  }

  private put(entries: readonly LoggedRequest[]): void {
    this.known = entries;
    const [oldest] = entries;
    for (const id of this.again.keys()) {
      if (oldest !== undefined && id >= oldest.id) break;
      this.again.delete(id);
      this.unmodified.delete(id);
    }
    for (const listener of [...this.listeners]) listener();
  }
}

/** A question in a body, whose members are texts, that asks for its explanation as well. */
function explaining(body: string): string {
  return JSON.stringify({ ...(JSON.parse(body) as object), explain: true });
}

/** `parse;dur=0.10, database;dur=1.20` (W3C Server Timing). */
function stagesIn(header: string): readonly RequestStage[] {
  return [...header.matchAll(/([\w-]+);dur=([\d.]+)/g)].map(([, name = '', milliseconds]) => ({
    name,
    milliseconds: Number(milliseconds),
  }));
}

function countOf(answer: unknown): number | undefined {
  const { rows, groups, values, tables, row } = (answer ?? {}) as Record<string, unknown>;
  const list = [rows, groups, values, tables].find((one) => Array.isArray(one));
  if (Array.isArray(list)) return list.length;
  return row === undefined ? undefined : 1;
}

const ofTable: Readonly<Record<string, RequestAbout['kind']>> = {
  rows: 'rows',
  query: 'rows',
  groups: 'groups',
  values: 'values',
  aggregates: 'aggregates',
  mileposts: 'mileposts',
  changes: 'changes',
  history: 'history',
};

/** Characters of a body that is remembered: questions have fewer, selections may have millions. */
const longBody = 100_000;

/** What a path within the API is about. */
function aboutOf(path: string): RequestAbout {
  const [way = '', parameters = ''] = path.split('?');
  const [things = '', name, what, detail, more] = way.split('/').slice(1);
  if (things !== 'tables') {
    const kind = (['selections', 'views', 'changes'] as const).find((one) => one === things);
    return { kind: kind ?? 'other' };
  }
  if (name === undefined) return { kind: 'tables' };
  const table = decodeURIComponent(name);
  if (what === undefined) return { kind: 'description', table };
  if (what === 'rows' && detail !== undefined) {
    return { kind: more === 'history' ? 'history' : 'row', table };
  }
  const kind = isTotal(what, parameters) ? 'total' : (ofTable[what] ?? 'other');
  return detail === undefined
    ? { kind, table }
    : { kind, table, column: decodeURIComponent(detail) };
}

function isTotal(what: string, parameters: string): boolean {
  const given = new URLSearchParams(parameters);
  return what === 'rows' && given.get('limit') === '1' && given.get('total') === 'exact';
}

/** Answered by what the service has read of the database before. */
const ofCatalog: ReadonlySet<RequestAbout['kind']> = new Set(['tables', 'description']);

/** Of an answer that was only stated to be the same as before 300 bytes are counted (Resource Timing, 4.3). */
const bytesOfHeaders = 300;

/** The entry of a browser's resource timing. */
interface Fetched {
  readonly name: string;
  readonly startTime: number;
  readonly transferSize?: number;
  readonly encodedBodySize?: number;
}
