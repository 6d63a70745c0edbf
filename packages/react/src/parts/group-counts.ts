import {
  chosenQuery,
  filterText,
  joinFilters,
  type ChosenRows,
  type GroupLine,
  type WrittenQuery,
} from '@ephoros/client';
import { pathOf } from '@ephoros/core/expression';
import type { OpenGroup } from '@ephoros/core/view';
import type { QueryOptions } from '../records/request-client.ts';

/** How many rows of a group are selected; undefined where its level has too many lines to tell. */
export type CountOf = (line: GroupLine) => number | undefined;

/** Lines of one answer, and answers that are requested at most for one level. */
const atOnce = 1_000;
const mostAnswers = 5;

/**
 * How many rows of each group are selected. All lines of a level are counted by one question: the
 * same groups, of the selected rows alone.
 */
export class GroupCounts {
  private readonly request: QueryOptions;
  private readonly match: WrittenQuery;
  private readonly group: WrittenQuery['group'];
  private readonly chosen: ChosenRows;
  private readonly levels = new Map<string, Promise<CountOf>>();

  constructor(
    request: QueryOptions,
    match: WrittenQuery,
    group: WrittenQuery['group'],
    chosen: ChosenRows,
  ) {
    this.request = request;
    this.match = match;
    this.group = group;
    this.chosen = chosen;
  }

  /** The same where nobody has to be requested. */
  plain({ count }: GroupLine): number | undefined {
    const { chosen, match } = this;
    if (chosen.kind === 'keys') return chosen.keys.length === 0 ? 0 : undefined;
    return isSame(chosen, match) && chosen.except.length === 0 ? count : undefined;
  }

  /** Of the lines in a group, by its values and those of the groups around it. Rejects as the client does. */
  in(path: OpenGroup): Promise<CountOf> {
    const key = JSON.stringify(path);
    const pending = this.levels.get(key) ?? this.count(path);
    this.levels.set(key, pending);
    // What failed is requested again by the next who wants it.
    pending.catch(() => this.levels.delete(key));
    return pending;
  }

  private async count(path: OpenGroup): Promise<CountOf> {
    const { chosen, match, group, request } = this;
    // Of all that match it is quicker to count the exceptions.
    const same = isSame(chosen, match);
    const counted: ChosenRows =
      same && chosen.kind === 'matching' ? { kind: 'keys', keys: chosen.except } : chosen;
    const { filter: own, search = [] } = chosenQuery(await request.queryable(counted));
    const words = [...new Set([...(match.search ?? []), ...search])];
    const filter = own === undefined ? match.filter : joinFilters(match.filter, own);
    const query: WrittenQuery = {
      ...(group && { group }),
      ...(filter !== undefined && { filter }),
      ...(words.length > 0 && { search: words }),
      ...(path.length > 0 && { path: pathOf(path) }),
    };
    const counts = new Map<string, number>();
    let left = 0;
    for (let answers = 0; answers < mostAnswers; answers += 1) {
      const place = { kind: 'offset', offset: counts.size } as const;
      const { groups, window } = await request.groups({ ...query, limit: atOnce, place });
      for (const { value, count } of groups) counts.set(JSON.stringify(value), count);
      left = (window.total ?? 0) - counts.size;
      if (groups.length === 0 || left <= 0) break;
    }
    return ({ value, count }) => {
      const found = counts.get(JSON.stringify(value)) ?? (left > 0 ? undefined : 0);
      return same && found !== undefined ? Math.max(0, count - found) : found;
    };
  }
}

/** Whether what is chosen is all that the view shows, but for exceptions. */
function isSame(chosen: ChosenRows, match: WrittenQuery): boolean {
  return (
    chosen.kind === 'matching' &&
    filterText(chosen.filter) === filterText(match.filter) &&
    JSON.stringify(chosen.search ?? []) === JSON.stringify(match.search ?? [])
  );
}
