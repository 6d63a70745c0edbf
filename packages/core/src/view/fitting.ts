import { checkAggregates, checkGrouping, checkQuery, type CheckOptions } from '../check/index.ts';
import { and } from '../expression/index.ts';
import type { Problem } from '../problem/index.ts';
import { isOfGroups, termsOf, type Query } from '../query/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { groupingOf } from './chart.ts';
import { changed, type View } from './view.ts';

/** A view with what its table still has of it, and why the rest is left out. */
export interface FittedView {
  readonly view: View;
  readonly problems: readonly Problem[];
}

const nowhere = { start: 0, end: 0 };

type Checked = { readonly checked: unknown } | { readonly problems: readonly Problem[] };

/**
 * What of a view still holds for a table that may have changed since it was saved: each condition,
 * column, term and level by itself. A part that is left out takes nothing else with it.
 */
export function fitView(
  view: View,
  table: TableDescription,
  options: CheckOptions = {},
): FittedView {
  const problems: Problem[] = [];
  const holds = (checked: Checked): boolean => {
    if (!('problems' in checked)) return true;
    problems.push(...checked.problems);
    return false;
  };
  const asRows = (query: Query): Checked => checkQuery(query, table, options);
  const named = (name: string): boolean =>
    !('problems' in asRows({ columns: [{ name, span: nowhere }] }));
  const remaining = <Member>(
    members: readonly Member[] | undefined,
    check: (member: Member) => Checked,
  ): readonly Member[] | undefined => {
    const held = members?.filter((one) => holds(check(one)));
    // That there are none may be stated by an empty list; that none is left says nothing.
    return held?.length === 0 && members?.length !== 0 ? undefined : held;
  };
  const columns = remaining(view.columns, (one) => asRows({ columns: [one] }));
  const group = remaining(view.group, (one) => checkGrouping({ group: [one] }, table, options));
  const aggregate = remaining(view.aggregate, (one) =>
    checkAggregates({ aggregate: [one] }, table, options),
  );
  const conditions = termsOf(view.filter).filter((filter) => holds(asRows({ filter })));
  const grouping: Query = { ...(group && { group }), ...(aggregate && { aggregate }) };
  const { search, pinned, pinnedEnd, widths, open, chart } = view;
  const paint = remaining(view.paint, (rule) =>
    asRows({
      ...(rule.kind === 'tone' && { filter: rule.when }),
      ...(rule.column !== undefined && { columns: [{ name: rule.column, span: nowhere }] }),
    }),
  );
  const charted = chart && checkGrouping(groupingOf(chart), table, options);
  return {
    view: changed(view, {
      columns,
      group,
      aggregate,
      filter: and(conditions),
      search: search !== undefined && holds(asRows({ search })) ? search : undefined,
      sort: remaining(view.sort, (one) =>
        isOfGroups(one, view)
          ? checkGrouping({ ...grouping, sort: [one] }, table, options)
          : asRows({ sort: [one] }),
      ),
      // The appearance of a column goes with it; that is not reported.
      pinned: pinned?.filter(named),
      pinnedEnd: pinnedEnd?.filter(named),
      widths: widths && Object.fromEntries(Object.entries(widths).filter(([name]) => named(name))),
      paint,
      chart: charted !== undefined && holds(charted) ? chart : undefined,
      // Groups within levels that are gone are none.
      open: group?.length === view.group?.length ? open : undefined,
    }),
    problems,
  };
}
