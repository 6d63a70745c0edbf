import type { LiveChanges, LiveGrade } from '@ephoros/core/answer';
import { printParameters, type WrittenQuery } from '@ephoros/core/query';
import { pauseAfter } from '../back-off.ts';
import { pause } from '../pause.ts';
import { ServiceError } from '../service-error.ts';
import { Transport, withParameters, type ClientOptions, type Pair } from '../transport.ts';

/** What a watcher of rows is notified of. */
export interface RowWatcher {
  /**
   * How much is reported from now on: "log" and "triggers", which rows were written, within a second; "counters", that
   * something was, a few seconds late.
   */
  readonly grade?: (grade: LiveGrade) => void;
  /** Rows of the question that were written, at most once a second. */
  readonly changed: (changes: LiveChanges) => void;
  /** Something was written, or may have been: what is shown is requested again by anyone who wants it newest. */
  readonly written: () => void;
  /** Why nothing is reported at the moment; it is tried again. */
  readonly away?: (error: ServiceError) => void;
}

/** Ms between two tellings. */
const least = 1_000;

/** Which rows are watched, wherever they lie. */
export type WatchedRows = Pick<WrittenQuery, 'filter' | 'search'>;

/**
 * Watches what others write to rows of a table, until the signal aborts; a connection that breaks is made again.
 * Rejects with a ServiceError where the question itself is refused, or nobody is known to ask it.
 */
export async function watchRows(
  options: ClientOptions,
  table: string,
  rows: WatchedRows,
  watcher: RowWatcher,
  signal: AbortSignal,
): Promise<void> {
  const transport = new Transport(options);
  const pairs: readonly Pair[] = printParameters(rows);
  const address = withParameters(`${transport.addressOf(table)}/live`, pairs);
  const gathered = new Gathered(watcher, signal);
  let failures = 0;
  let again = false;
  const isOver = (): boolean => signal.aborted;
  while (!isOver()) {
    try {
      const headers = { Accept: 'text/event-stream' };
      const response = await transport.respond(address, signal, undefined, { headers });
      // Nobody has reported what was written while there was no connection.
      if (again) gathered.written();
      for await (const { event, data } of eventsOf(response)) {
        failures = 0;
        if (event === 'grade') watcher.grade?.((data as { grade: LiveGrade }).grade);
        else if (event === 'changed') gathered.changed(data as LiveChanges);
        else if (event === 'written') gathered.written();
      }
    } catch (thrown) {
      if (isOver()) return;
      if (!(thrown instanceof ServiceError)) {
        watcher.away?.(new ServiceError('unavailable', 'The connection broke.', { cause: thrown }));
      } else if (thrown.kind === 'refused') throw thrown;
      else watcher.away?.(thrown);
    }
    again = true;
    failures += 1;
    await pause(pauseAfter(failures), signal).catch(() => undefined);
  }
}

/** Gathers what is reported, and passes it on at most once a second. */
class Gathered {
  private readonly watcher: RowWatcher;
  private readonly signal: AbortSignal;
  private readonly rows = new Map<string, keyof LiveChanges>();
  private isWritten = false;
  private last = -Infinity;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(watcher: RowWatcher, signal: AbortSignal) {
    this.watcher = watcher;
    this.signal = signal;
    signal.addEventListener('abort', () => clearTimeout(this.timer), { once: true });
  }

  changed(changes: LiveChanges): void {
    for (const part of ['added', 'changed', 'removed'] as const) {
      for (const key of changes[part]) {
        const text = JSON.stringify(key);
        const isNew = part === 'changed' && this.rows.get(text) === 'added';
        this.rows.set(text, isNew ? 'added' : part);
      }
    }
    this.later();
  }

  written(): void {
    this.isWritten = true;
    this.later();
  }

  private later(): void {
    this.timer ??= setTimeout(() => this.notify(), Math.max(0, this.last + least - Date.now()));
  }

  private notify(): void {
    this.timer = undefined;
    if (this.signal.aborted) return;
    this.last = Date.now();
    const of = (part: keyof LiveChanges): string[][] =>
      [...this.rows].flatMap(([key, what]) => (what === part ? [JSON.parse(key) as string[]] : []));
    const changes = { added: of('added'), changed: of('changed'), removed: of('removed') };
    const { isWritten } = this;
    this.rows.clear();
    this.isWritten = false;
    if (Object.values(changes).some((part) => part.length > 0)) this.watcher.changed(changes);
    if (isWritten) this.watcher.written();
  }
}

/** The events of a stream (HTML standard, 9.2.6), those alone that have a name and data in JSON. */
async function* eventsOf(
  response: Response,
): AsyncGenerator<{ readonly event: string; readonly data: unknown }> {
  if (response.body === null) return;
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let text = '';
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      text += value;
      for (;;) {
        const end = text.indexOf('\n\n');
        if (end === -1) break;
        const lines = text.slice(0, end).split('\n');
        text = text.slice(end + 2);
        const event = lines.find((line) => line.startsWith('event: '))?.slice(7);
        const data = lines.find((line) => line.startsWith('data: '))?.slice(6);
        if (event !== undefined && data !== undefined) yield { event, data: JSON.parse(data) };
      }
    }
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}
