import type { Term } from '../query/index.ts';
import { changed, type View } from './view.ts';

/**
 * The view with other levels of its grouping, from its beginning. A sort by a level that is gone
 * goes with it; other groups than were open are not opened.
 */
export function withLevels(view: View, group: readonly Term[]): View {
  const gone = new Set(
    (view.group ?? [])
      .map(({ name }) => name)
      .filter((name) => !group.some((one) => one.name === name)),
  );
  const sort = (view.sort ?? []).filter(
    (term) => !gone.has(term.column.name) && (group.length > 0 || term.expression === undefined),
  );
  return changed(view, {
    group: group.length === 0 ? undefined : group,
    sort: sort.length === 0 ? undefined : sort,
    open: undefined,
    place: undefined,
  });
}

/** The view grouped by one level more, behind the others; as it is where it has that level. */
export function withLevel(view: View, level: Term): View {
  const { group = [] } = view;
  return group.some(({ name }) => name === level.name) ? view : withLevels(view, [...group, level]);
}

/** A list with one member at another place. */
export function moved<Member>(
  list: readonly Member[],
  from: number,
  to: number,
): readonly Member[] {
  const member = list[from];
  if (member === undefined) return list;
  const others = list.filter((_, place) => place !== from);
  return [...others.slice(0, to), member, ...others.slice(to)];
}
