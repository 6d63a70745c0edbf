import { printAnswer } from '@ephoros/core/answer';
import type { Change, ChangesAnswer, HistoryAnswer } from '@ephoros/core/change';
import { withParameters, type Pair, type Transport } from './transport.ts';

/** How a set of changes is saved. */
export interface SaveOptions {
  /** `all` of it or nothing, by default; or `each` change that can be saved. */
  readonly mode?: 'all' | 'each';
  /** Only tries it. */
  readonly dryRun?: boolean;
  /** A set that is sent again under the same key is saved once, and answered the same. */
  readonly idempotencyKey?: string;
}

/**
 * Changes of rows. What is refused rejects with a `ServiceError` whose problems have their change
 * and column; where rows are no longer as they were read (409) its `outcomes` have them as they are.
 */
export interface ChangesClient {
  /** Saves a set; over several tables each change names its own. */
  save(
    changes: readonly Change[],
    options?: SaveOptions & { readonly table?: string },
    signal?: AbortSignal,
  ): Promise<ChangesAnswer>;
  /** Takes a saved set back, where what it left still stands. */
  undo(id: string, options?: SaveOptions, signal?: AbortSignal): Promise<ChangesAnswer>;
  /**
   * Withdraws a request that was not answered, by its idempotency key: it is never saved from then on.
   * Gives the answer where it was saved before, else null.
   */
  withdraw(idempotencyKey: string, signal?: AbortSignal): Promise<ChangesAnswer | null>;
  /** What was changed of a table, or of the row of a key, the newest first. */
  history(
    table: string,
    key?: string,
    options?: { readonly limit?: number; readonly after?: string },
    signal?: AbortSignal,
  ): Promise<HistoryAnswer>;
}

export function changesOver(transport: Transport): ChangesClient {
  const send = async (
    address: string,
    body: object,
    { mode, dryRun, idempotencyKey }: SaveOptions,
    signal: AbortSignal | undefined,
  ): Promise<ChangesAnswer> => {
    const pairs: Pair[] = [
      ...(mode === undefined ? [] : [['mode', mode] as const]),
      ...(dryRun === true ? [['dryRun', 'true'] as const] : []),
    ];
    const headers = idempotencyKey === undefined ? {} : { 'Idempotency-Key': idempotencyKey };
    const to = withParameters(address, pairs);
    return (await transport.send('POST', to, printAnswer(body), signal, headers)) as ChangesAnswer;
  };
  return {
    save: (changes, { table, ...options } = {}, signal) => {
      const address = transport.addressIn('changes');
      const to = table === undefined ? address : `${transport.addressOf(table)}/changes`;
      return send(to, { changes }, options, signal);
    },
    undo: (id, options = {}, signal) =>
      send(`${transport.addressIn('changes', id)}/undo`, {}, options, signal),
    withdraw: async (idempotencyKey, signal) => {
      const headers = { 'Idempotency-Key': idempotencyKey };
      const to = transport.addressIn('changes');
      const answer = await transport.send('DELETE', to, undefined, signal, headers);
      return (answer as { readonly saved: ChangesAnswer | null }).saved;
    },
    history: async (table, key, { limit, after } = {}, signal) => {
      const own = transport.addressOf(table);
      const of = key === undefined ? own : `${own}/rows/${key}`;
      const pairs: Pair[] = [
        ...(limit === undefined ? [] : [['limit', String(limit)] as const]),
        ...(after === undefined ? [] : [['after', after] as const]),
      ];
      return (await transport.get(withParameters(`${of}/history`, pairs), signal)) as HistoryAnswer;
    },
  };
}
