import { Database, type DatabaseOptions } from '../run/index.ts';

/** What may be exported. */
interface ExportBounds {
  /** Rows of one file at most; as many as there are by default. */
  readonly rows?: number | undefined;
  /** Files at the same time, in each process; 2 by default. */
  readonly atOnce?: number | undefined;
  /** Seconds that one may take; 3,600 by default. */
  readonly seconds?: number | undefined;
}

/** Connections of their own for exports, so that no page waits behind them. */
export function exportPool(
  options: DatabaseOptions,
  { atOnce = 2, seconds = 3_600 }: ExportBounds,
): Database {
  return new Database({ ...options, connections: atOnce, timeLimit: seconds * 1_000 });
}
