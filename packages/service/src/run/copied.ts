import { setImmediate } from 'node:timers/promises';
import type pg from 'pg';
import { to as copyTo } from 'pg-copy-streams';

/** Ms after which others get their turn between two pieces: they come faster than they are taken. */
const longestTurn = 10;

interface CopyOptions {
  readonly signal: AbortSignal | undefined;
  /** Cancels the statement. */
  readonly cancel: () => Promise<void>;
}

/**
 * Runs a COPY on a session, and gives what comes piece by piece, each once the last one was taken; the database
 * waits meanwhile. Gives the number of rows. What `take` throws cancels it; when the signal aborts, what still comes is
 * passed over.
 */
export async function copied(
  client: pg.PoolClient,
  text: string,
  take: (piece: Buffer) => Promise<void> | void,
  { signal, cancel }: CopyOptions,
): Promise<number> {
  const stream = client.query(copyTo(text));
  let refusal: { readonly thrown: unknown } | undefined;
  let cancelling: Promise<void> | undefined;
  let since = performance.now();
  try {
    for await (const piece of stream) {
      // The connection is good again only when everything has come.
      if (refusal !== undefined || signal?.aborted === true) continue;
      try {
        await take(piece as Buffer);
        if (performance.now() - since < longestTurn) continue;
        await setImmediate();
        since = performance.now();
      } catch (thrown) {
        refusal = { thrown };
        cancelling = cancel();
      }
    }
  } catch (thrown) {
    if (refusal === undefined) throw thrown;
  } finally {
    await cancelling;
  }
  if (refusal !== undefined) throw refusal.thrown;
  return stream.rowCount;
}
