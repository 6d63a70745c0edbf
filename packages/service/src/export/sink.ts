import { once } from 'node:events';
import type { Writable } from 'node:stream';

/** Where the pieces of a file go, each once there is room for it. */
export interface Sink {
  readonly write: (piece: Buffer | string) => Promise<void>;
}

/** A sink over a stream; what waits for it ends when it is closed. */
export function sinkOf(stream: Writable): Sink {
  return {
    write: async (piece) => {
      if (stream.destroyed || stream.write(piece)) return;
      const gone = new AbortController();
      const closed = (): void => gone.abort();
      stream.once('close', closed);
      // Anyone who has gone away has the database's work cancelled elsewhere.
      await once(stream, 'drain', { signal: gone.signal }).catch(() => undefined);
      stream.off('close', closed);
    },
  };
}
