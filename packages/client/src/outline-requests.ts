import type { GroupLine } from '@ephoros/core/answer';
import { pathOf } from '@ephoros/core/expression';
import { groupsPart, rowsPart, type WrittenQuery } from '@ephoros/core/query';
import type { OpenGroup } from '@ephoros/core/view';
import type { LinePath } from '@ephoros/core/window';
import type { OutlineSource, OutlineSourceOptions } from './outline.ts';
import { joinFilters } from './query-builder.ts';
import { remoteRows, type RemoteRows } from './remote-rows.ts';

/** Lines requested at once where all of a level are wanted. */
const wholeWindow = 1_000;

/** What an outline asks for: the lines in each of its open groups. */
export class OutlineRequests {
  private readonly options: Required<Omit<OutlineSourceOptions, 'open'>>;
  private readonly levels: number;
  /** The line of an open group. */
  private readonly lineOf: (path: LinePath) => GroupLine | undefined;
  /** What the levels and the aggregates are; undefined until the first answer. */
  meta: ReturnType<OutlineSource['describe']>;

  constructor(
    options: Required<Omit<OutlineSourceOptions, 'open'>>,
    lineOf: (path: LinePath) => GroupLine | undefined,
  ) {
    this.options = options;
    this.levels = options.query.group?.length ?? 0;
    this.lineOf = lineOf;
  }

  /** What lies in a group: groups of the next level, or rows. */
  linesIn(path: LinePath): RemoteRows<GroupLine> | RemoteRows {
    return path.length === this.levels ? this.rowsIn(path) : this.groupsIn(path);
  }

  /** The values of a group and of those around it. */
  valuesOf(path: LinePath): OpenGroup {
    return path.map((_index, depth) => this.lineOf(path.slice(0, depth + 1))?.value ?? null);
  }

  /** All lines in a group with their numbers, as many as may be opened at once. */
  async *allLines(
    path: LinePath,
    signal: AbortSignal,
  ): AsyncGenerator<readonly [number, GroupLine]> {
    const { fetchGroups, query, mostAtOnce } = this.options;
    const within = this.pathQuery(path);
    let offset = 0;
    while (offset < mostAtOnce) {
      const place = { kind: 'offset', offset } as const;
      const wanted: WrittenQuery = { ...groupsPart(query), ...within, limit: wholeWindow, place };
      const { groups, window } = await fetchGroups(wanted, signal);
      for (const [index, line] of groups.entries()) yield [offset + index, line];
      offset += groups.length;
      if (groups.length === 0 || offset >= (window.total ?? 0)) return;
    }
  }

  private groupsIn(path: LinePath): RemoteRows<GroupLine> {
    const { fetchGroups, blockSize, query, now } = this.options;
    const within = this.pathQuery(path);
    return remoteRows({
      request: async (wanted, signal, onProgress) => {
        const answer = await fetchGroups({ ...wanted, ...within }, signal, onProgress);
        this.meta ??= { levels: answer.levels, aggregates: answer.aggregates };
        return { ...answer, rows: answer.groups };
      },
      query: groupsPart(query),
      blockSize,
      now,
      ...this.knownTotal(path),
    });
  }

  private rowsIn(path: LinePath): RemoteRows {
    const { fetchRows, blockSize, query, keyed, now } = this.options;
    const own = path.map((_index, depth) => {
      const filter = this.lineOf(path.slice(0, depth + 1))?.filter;
      if (typeof filter !== 'string') throw new Error('a group has a filter of its own');
      return filter;
    });
    // A line says what is its own alone: the groups around it and the query itself come to it.
    const filter = own.reduce<WrittenQuery['filter']>(joinFilters, query.filter);
    return remoteRows({
      request: fetchRows,
      query: { ...rowsPart(query), ...(filter === undefined ? {} : { filter }) },
      blockSize,
      now,
      keyed,
      ...this.knownTotal(path),
    });
  }

  private knownTotal(path: LinePath): { total?: number } {
    const line = this.lineOf(path);
    if (line === undefined) return {};
    return { total: path.length === this.levels ? line.count : (line.below ?? 0) };
  }

  private pathQuery(path: LinePath): Pick<WrittenQuery, 'path'> {
    return path.length === 0 ? {} : { path: pathOf(this.valuesOf(path)) };
  }
}
