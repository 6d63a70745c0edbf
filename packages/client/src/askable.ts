import type { WrittenQuery } from '@ephoros/core/query';
import type { AggregatesAnswer, GroupsAnswer, RowsAnswer } from '@ephoros/core/answer';

/** Whom questions about tables are put to. */
export interface Askable {
  rows(table: string, query?: WrittenQuery, signal?: AbortSignal): Promise<RowsAnswer>;
  groups(table: string, query: WrittenQuery, signal?: AbortSignal): Promise<GroupsAnswer>;
  aggregates(table: string, query?: WrittenQuery, signal?: AbortSignal): Promise<AggregatesAnswer>;
  rowsUrl(table: string, query?: WrittenQuery): string;
  groupsUrl(table: string, query: WrittenQuery): string;
}
