import type { TableDescription } from '@ephoros/core/schema';
import type { WrittenQuery } from '@ephoros/core/query';
import type {
  AggregatesAnswer,
  GroupsAnswer,
  RowsAnswer,
  ValuesAnswer,
} from '@ephoros/core/answer';
import type { OnProgress } from './transport.ts';

/** Whom questions about tables are put to. */
export interface QueryClient {
  describe(table: string, signal?: AbortSignal): Promise<TableDescription>;
  rows(
    table: string,
    query?: WrittenQuery,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<RowsAnswer>;
  groups(
    table: string,
    query: WrittenQuery,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<GroupsAnswer>;
  aggregates(
    table: string,
    query?: WrittenQuery,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<AggregatesAnswer>;
  values(
    table: string,
    column: string,
    query?: WrittenQuery,
    options?: ValuesOptions,
    signal?: AbortSignal,
    onProgress?: OnProgress,
  ): Promise<ValuesAnswer>;
  rowsUrl(table: string, query?: WrittenQuery): string;
  groupsUrl(table: string, query: WrittenQuery): string;
}

export interface ValuesOptions {
  /** Only values with this text in them, letter case ignored. */
  readonly containing?: string;
  /** Bins of a histogram, 1 to 200; none by default. */
  readonly bins?: number;
  /** Whether the rows of each value are counted; `false` leaves that out where it takes long. */
  readonly counts?: boolean;
}
