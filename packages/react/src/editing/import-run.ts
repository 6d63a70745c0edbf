import { ServiceError, type ChangesClient, type Row } from '@ephoros/client';

/** Rows that are saved by one request. */
const inSet = 1_000;
/** How often a request is sent while the service cannot be reached. */
const tries = 4;

export interface ImportRun {
  readonly changes: ChangesClient;
  readonly table: string;
  readonly rows: readonly Row[];
  /** Rows that are saved already. */
  readonly saved: number;
  /** The first part of the idempotency keys: another one once rows were corrected. */
  readonly key: string;
  readonly signal: AbortSignal;
  readonly onSaved: (saved: number) => void;
}

/**
 * Saves new rows in sets, one after the other; each set is saved as a whole or not at all, and once.
 * @throws ServiceError whose changes are counted from the first row of the set that was refused
 */
export async function saveImported(run: ImportRun): Promise<void> {
  const { rows, onSaved, signal } = run;
  for (let at = run.saved; at < rows.length; at += inSet) {
    signal.throwIfAborted();
    await saveSet(run, at);
    onSaved(Math.min(rows.length, at + inSet));
  }
}

async function saveSet(run: ImportRun, at: number): Promise<void> {
  const { changes, table, rows, key, signal } = run;
  const set = rows.slice(at, at + inSet).map((values) => ({ kind: 'add' as const, values }));
  for (let failures = 1; ; failures += 1) {
    try {
      await changes.save(set, { table, idempotencyKey: `${key} ${at}` }, signal);
      return;
    } catch (thrown) {
      const isUnavailable = thrown instanceof ServiceError && thrown.kind === 'unavailable';
      if (!isUnavailable || failures === tries) throw thrown;
      const seconds = thrown.retryAfter ?? failures;
      await new Promise((resolve) => setTimeout(resolve, seconds * 1000));
      signal.throwIfAborted();
    }
  }
}
