import { and, printExpression, type Expression } from '@ephoros/core/expression';
import { byCodePoint, byCollator, type TextOrder } from '@ephoros/core/memory';
import {
  matchPart,
  parseParameters,
  printParameters,
  rowsPart,
  termsOf,
  type WrittenQuery,
} from '@ephoros/core/query';
import { shownNames, type ColumnDescription, type TableDescription } from '@ephoros/core/schema';
import type { OnProgress } from '../transport.ts';
import type { RowsAnswer, ValuesAnswer } from '@ephoros/core/answer';
import type { Client } from '../client.ts';
import { describeColumns } from '../described-columns.ts';
import { queryBuilder } from '../query-builder.ts';
import type { RequestAbout, RequestLog } from '../request-log.ts';
import { ServiceError } from '../service-error.ts';
import type { AnyTables, TableSet } from '../table-types.ts';
import { LocalAnswers } from './answering.ts';

export interface CachingOptions {
  /** Results with so many rows at most are stored whole; 1,000 by default, 0 for none. */
  readonly maxRows?: number;
  /** How long a stored result answers before it is requested again, in ms; 30,000 by default. */
  readonly keepFor?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
  /** Logs what is answered here, as the client's own log has what it requests. */
  readonly log?: Pick<RequestLog, 'cached'>;
}

/** Where a query of a table would be answered now. */
export type CachedState =
  | { readonly where: 'memory'; readonly rows: number; readonly maxRows: number }
  /** `why` says what keeps it from being stored, where anything does. */
  | { readonly where: 'service'; readonly maxRows: number; readonly why?: string };

export interface CachingClient<Tables extends TableSet<Tables> = AnyTables> extends Client<Tables> {
  /** Whether a query would be answered here, and up to how many rows. */
  readonly cached: (table: string, query?: WrittenQuery) => CachedState;
  /** Sets how many rows a stored result has at most; larger ones are no longer stored. */
  readonly setMaxRows: (rows: number) => void;
  /** Reports whenever other results are stored than before; gives back how to stop that. */
  readonly subscribe: (listener: () => void) => () => void;
  /** Forgets what is stored of a table, or of all: after a change, say. */
  readonly forget: (table?: string) => void;
}

/** A result that is stored whole. */
interface StoredResult {
  /** The terms of its filter, and its search: what narrows it further is answered from it. */
  readonly terms: ReadonlySet<string>;
  readonly search: string;
  readonly answers: LocalAnswers;
  readonly rows: number;
  readonly until: number;
}

/**
 * A client that keeps small results whole: they are sorted, filtered, grouped and searched here,
 * and so is all that narrows them, with the same answers. What this side cannot answer as the
 * database would (texts in an order that is not known here, columns that were not fetched, rows
 * that refer to others) is requested as ever.
 */
export function cacheSmallResults<Tables extends TableSet<Tables> = AnyTables>(
  client: Client<Tables>,
  options: CachingOptions = {},
): CachingClient<Tables> {
  return new SmallResultCache(client as unknown as Client, options).client as CachingClient<Tables>;
}

class SmallResultCache {
  readonly client: CachingClient;
  private readonly service: Client;
  private readonly keepFor: number;
  private readonly now: () => number;
  private readonly log: CachingOptions['log'];
  private maxRows: number;
  private readonly entries = new Map<string, StoredResult[]>();
  private readonly listeners = new Set<() => void>();
  private readonly descriptions = new Map<string, TableDescription>();
  private readonly fetching = new Map<string, Promise<boolean>>();
  /** How often something was forgotten: what was on its way by then is not stored. */
  private forgotten = 0;
  /** Results that were found to be larger than they were guessed to be, and until when that holds. */
  private readonly tooLarge = new Map<string, number>();

  constructor(
    service: Client,
    { maxRows = 1_000, keepFor = 30_000, now = Date.now, log }: CachingOptions,
  ) {
    this.service = service;
    this.maxRows = maxRows;
    this.keepFor = keepFor;
    this.now = now;
    this.log = log;
    this.client = {
      ...service,
      table: (table) => queryBuilder(() => this.client, table),
      describe: async (table, signal) => {
        const description = await service.describe(table, signal);
        this.descriptions.set(table, description);
        return description;
      },
      rows: (table, query = {}, signal, onProgress) =>
        this.answer(
          'rows',
          table,
          query,
          async (entry) => asCached(await entry.answers.rows(rowsPart(within(entry, query)))),
          () => this.fetchRows(table, query, signal, onProgress),
        ),
      groups: (table, query, signal, reportProgress) =>
        this.answer(
          'groups',
          table,
          query,
          // The filters of the lines say again what the whole is filtered by.
          async ({ answers }) => asCached(await answers.groups(query)),
          () => service.groups(table, query, signal, reportProgress),
        ),
      aggregates: (table, query = {}, signal, notifyProgress) =>
        this.answer(
          'aggregates',
          table,
          query,
          (cached) => cached.answers.aggregates(within(cached, query)),
          () => service.aggregates(table, query, signal, notifyProgress),
        ),
      mileposts: (table, query = {}, ticks = 200, signal) =>
        this.answer(
          'mileposts',
          table,
          query,
          (results) => results.answers.mileposts(within(results, query), ticks),
          () => service.mileposts(table, query, ticks, signal),
        ),
      values: (table, column, query = {}, about = {}, signal, onProgress) => {
        const request = (): Promise<ValuesAnswer> =>
          service.values(table, column, query, about, signal, onProgress);
        // What the query says of the column itself is left out: that may ask for more rows.
        const local = async ({ answers }: StoredResult): Promise<ValuesAnswer> =>
          asCached(await answers.values(column, query, about));
        return termTexts(query)?.size === 0
          ? this.answer('values', table, query, local, request)
          : request();
      },
      cached: (table, query = {}) => this.state(table, query),
      setMaxRows: (rows) => {
        this.maxRows = rows;
        this.tooLarge.clear();
        for (const [table, all] of this.entries) {
          this.entries.set(
            table,
            all.filter((one) => one.rows <= rows),
          );
        }
        this.notify();
      },
      subscribe: (listener) => {
        this.listeners.add(listener);
        return () => this.listeners.delete(listener);
      },
      forget: (table) => {
        this.forgotten += 1;
        this.fetching.clear();
        if (table === undefined) this.entries.clear();
        else this.entries.delete(table);
        this.notify();
      },
    };
  }

  private async fetchRows(
    table: string,
    query: WrittenQuery,
    signal: AbortSignal | undefined,
    onProgress: OnProgress | undefined,
  ): Promise<RowsAnswer> {
    const answer = await this.service.rows(table, query, signal, onProgress);
    const { total, totalKind, scanned } = answer.window;
    // Nobody waits for it: the next question finds it here. What is still being looked for has no end yet.
    if (scanned === undefined && totalKind !== 'none' && total !== null && total <= this.maxRows) {
      void this.keep(table, query).catch(() => undefined);
    }
    return answer;
  }

  /** From a stored result, where one answers as the service would; else from the service. */
  private async answer<Answer>(
    kind: RequestAbout['kind'],
    table: string,
    query: WrittenQuery,
    local: (entry: StoredResult) => Promise<Answer>,
    request: () => Promise<Answer>,
  ): Promise<Answer> {
    for (const cached of this.candidates(table, query)) {
      try {
        const answer = await local(cached);
        const grouped = kind === 'groups';
        const address = this.service[grouped ? 'groupsUrl' : 'rowsUrl'](table, query);
        this.log?.cached({ kind, table }, address, answer);
        return answer;
      } catch (thrown) {
        // What these rows do not know the service may, and else it refuses in its own words.
        if (!(thrown instanceof ServiceError)) throw thrown;
      }
    }
    return request();
  }

  /** The stored results that hold all rows of a query. */
  private candidates(table: string, query: WrittenQuery): readonly StoredResult[] {
    const terms = termTexts(query);
    if (terms === undefined) return [];
    const search = (query.search ?? []).join('\0');
    return (this.entries.get(table) ?? []).filter(
      (one) =>
        this.now() < one.until &&
        (one.search === '' || one.search === search) &&
        [...one.terms].every((term) => terms.has(term)),
    );
  }

  private state(table: string, query: WrittenQuery): CachedState {
    const { maxRows } = this;
    const entry = this.candidates(table, query).find(
      (one) => one.answers.problemsOf(within(one, query)).length === 0,
    );
    if (entry !== undefined) return { where: 'memory', rows: entry.rows, maxRows };
    const description = this.descriptions.get(table);
    const why = description && orderOf(description.columns.filter(({ shown }) => shown)).why;
    return { where: 'service', maxRows, ...(why === undefined ? {} : { why }) };
  }

  private async describe(table: string): Promise<TableDescription> {
    const known = this.descriptions.get(table) ?? (await this.service.describe(table));
    this.descriptions.set(table, known);
    return known;
  }

  /** Has a result stored, unless it cannot be. */
  private async keep(table: string, query: WrittenQuery): Promise<void> {
    const terms = termTexts(query);
    if (terms === undefined || this.maxRows <= 0) return;
    const about = matchPart(query);
    const name = JSON.stringify([table, printParameters(about)]);
    if (this.now() < (this.tooLarge.get(name) ?? 0)) return;
    const under = this.fetching.get(name) ?? this.fetchWhole(table, query, about, terms);
    this.fetching.set(name, under);
    try {
      const whole = await under;
      if (whole) this.tooLarge.delete(name);
      else this.tooLarge.set(name, this.now() + this.keepFor);
    } finally {
      if (this.fetching.get(name) === under) this.fetching.delete(name);
    }
  }

  /**
   * Fetches a result whole, with all columns that are shown and those that the query names. False
   * where it cannot be stored.
   */
  private async fetchWhole(
    table: string,
    query: WrittenQuery,
    about: WrittenQuery,
    terms: ReadonlySet<string>,
  ): Promise<boolean> {
    const { forgotten } = this;
    const description = await this.describe(table);
    const shown = description.columns.filter((column) => column.shown).map(({ name }) => name);
    const own = new Set([...shown, ...shownNames(description), ...description.key]);
    const names = new Set([...own, ...(query.columns ?? []).map(({ name }) => name)]);
    const found = await describeColumns([...names], description, (other) => this.describe(other));
    const described = found.filter((one) => one !== undefined);
    const { order } = orderOf(described);
    if (order === undefined) return false;
    const columns = [...names].map((one) => ({ name: one, span: { start: 0, end: 0 } }));
    // One more than there may be: without a key nothing else says that there are more.
    const limit = Math.min(this.maxRows + 1, description.rowCap);
    const answer = await this.service.rows(table, { ...about, columns, limit, total: 'none' });
    const count = answer.rows.length;
    const ends = answer.next === null && (count < limit || description.key.length > 0);
    if (!ends || count > this.maxRows) return false;
    const whole: TableDescription = {
      ...description,
      // What was fetched beyond is there for those who name it.
      columns: described.map((one) => (shown.includes(one.name) ? one : { ...one, shown: false })),
      // Nothing that leads out of these rows is known here.
      relationships: [],
      search: searchIn(description, names),
    };
    const entry: StoredResult = {
      terms,
      search: (about.search ?? []).join('\0'),
      answers: new LocalAnswers({ description: whole, rows: answer.rows }, order),
      rows: answer.rows.length,
      until: this.now() + this.keepFor,
    };
    // The caller next begins again.
    if (this.forgotten !== forgotten) return true;
    const others = (this.entries.get(table) ?? []).filter((one) => this.now() < one.until);
    this.entries.set(table, [entry, ...others].slice(0, mostCached));
    this.notify();
    return true;
  }

  private notify(): void {
    for (const listener of [...this.listeners]) listener();
  }
}

/** A query without what all rows of a stored result meet anyway. */
function within(entry: StoredResult, { filter, search, ...query }: WrittenQuery): WrittenQuery {
  const left = termsIn(filter)?.filter((term) => !entry.terms.has(printExpression(term))) ?? [];
  const rest = and(left);
  const searched = (search ?? []).join('\0') === entry.search;
  return { ...query, ...(rest && { filter: rest }), ...(!searched && search && { search }) };
}

/** Results of one table that are stored at most. */
const mostCached = 10;

function asCached<Answer extends { readonly window: object }>(answer: Answer): Answer {
  return { ...answer, window: { ...answer.window, kept: true } };
}

/** The terms that a filter joins by AND, each in its one spelling; undefined for what is no filter. */
function termTexts({ filter }: WrittenQuery): ReadonlySet<string> | undefined {
  const terms = termsIn(filter);
  return terms && new Set(terms.map(printExpression));
}

function termsIn(filter: WrittenQuery['filter']): readonly Expression[] | undefined {
  if (typeof filter !== 'string') return termsOf(filter);
  const read = parseParameters({ filter });
  return read.problems.length > 0 ? undefined : termsOf(read.query.filter);
}

function searchIn(
  { search, fullText }: TableDescription,
  names: ReadonlySet<string>,
): readonly string[] {
  return fullText === undefined && search.every((name) => names.has(name)) ? search : [];
}

/** The order of all texts of some columns, where it is one and known here. */
function orderOf(columns: readonly ColumnDescription[]): { order?: TextOrder; why?: string } {
  const texts = columns.filter(({ type }) => type.kind === 'text');
  const orders = new Set(texts.map(({ textOrder }) => textOrder));
  if (orders.size === 0) return { order: byCodePoint };
  const [order] = orders;
  if (orders.size > 1 || order === undefined) {
    return { why: 'the database sorts texts in an order that is not known here' };
  }
  if (order === 'C') return { order: byCodePoint };
  const collator = new Intl.Collator(order);
  return { order: byCollator((one, other) => collator.compare(one, other)) };
}
