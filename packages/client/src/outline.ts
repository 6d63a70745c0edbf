import type { OnProgress } from './transport.ts';
import type { WrittenQuery } from '@ephoros/core/query';
import type { ResultColumn } from '@ephoros/core/schema';
import type { OpenGroup } from '@ephoros/core/view';
import type { LinePath } from '@ephoros/core/window';
import type { GroupLine, GroupsAnswer, Row, RowsAnswer } from '@ephoros/core/answer';
import type { RowSource } from './row-source.ts';

/** A line of an outline, as far as it is there. */
export type OutlineLine =
  | {
      readonly kind: 'group';
      /** The level, from 0. */
      readonly depth: number;
      readonly line: GroupLine;
      readonly open: boolean;
      /** Whether it can be opened: its value can be spelled in a filter. */
      readonly openable: boolean;
    }
  | { readonly kind: 'row'; readonly depth: number; readonly row: Row }
  /** Stands for the lines of an open group in which there are none any more. */
  | { readonly kind: 'empty'; readonly depth: number }
  /** On its way, or failed. */
  | { readonly kind: 'missing'; readonly depth: number; readonly error: Error | undefined };

/** A row source for a grouped view: lines of groups, and under the open ones what lies in them. */
export interface OutlineSource extends RowSource<OutlineLine> {
  /** What the levels and the aggregates are; undefined until the first answer. */
  readonly describe: () =>
    | { readonly levels: readonly ResultColumn[]; readonly aggregates: readonly ResultColumn[] }
    | undefined;
  /** Opens or closes the group at a position; nothing happens to rows. */
  readonly toggle: (position: number) => void;
  /** Opens all groups of the outermost level that has a closed one. */
  readonly openLevel: () => Promise<void>;
  readonly closeAll: () => void;
  /** The open groups, to be opened again in another source. */
  readonly openGroups: () => readonly OpenGroup[];
  /** Which line stands at a position: stays the same whatever is opened and closed. */
  readonly pathAt: (position: number) => LinePath;
  /** Where a line stands now; of one in a closed group, where that group does. */
  readonly positionOf: (path: LinePath) => number;
  /** Just behind the last line of the group of a line. */
  readonly endOf: (path: LinePath) => number;
  /** Another number whenever lines stand elsewhere than they did. */
  readonly generation: () => number;
}

export interface OutlineSourceOptions {
  /** Answers lines of groups, as `client.groups` does. */
  readonly fetchGroups: (
    query: WrittenQuery,
    signal: AbortSignal,
    onProgress?: OnProgress,
  ) => Promise<GroupsAnswer>;
  /** Answers rows, as `client.rows` does. */
  readonly fetchRows: (
    query: WrittenQuery,
    signal: AbortSignal,
    onProgress?: OnProgress,
  ) => Promise<RowsAnswer>;
  /** What to show; it has a grouping. Sort terms that are no levels nor aggregates sort the rows. */
  readonly query: WrittenQuery;
  /** Groups to open as soon as they are visible. */
  readonly open?: readonly OpenGroup[];
  /** Lines of one request; 100 by default. */
  readonly blockSize?: number;
  /** Open groups whose lines are stored at most; 40 by default. Those looked at are always stored. */
  readonly keep?: number;
  /** How long a place must be looked at in flight before it is requested, in ms; 40 by default. */
  readonly settle?: number;
  /** Groups opened at once at most; 5,000 by default. */
  readonly mostAtOnce?: number;
  /** Whether the table has a key; true by default. */
  readonly keyed?: boolean;
  /** The clock, in ms; `performance.now` by default. */
  readonly now?: () => number;
}
