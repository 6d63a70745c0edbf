import { outlineSource, type GroupLine, type OutlineSource } from '@ephoros/client';
import type { CheckedGrouping, CheckedQuery } from '@ephoros/core/check';
import { conditionOf, type Term } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import {
  Cell,
  RecordTable,
  useSource,
  type TableColumn,
  useClosedSource,
  VisibleRows,
} from '@ephoros/react';
import { useEffect, useMemo, useState, type ReactElement, type ReactNode } from 'react';
import { client, reader } from '../service.ts';
import { FailureNote } from '../shell/failure.tsx';
import { AggregateCell, columnOfTerm } from './aggregate-cell.tsx';
import { ColumnCard } from './column-card.tsx';
import { tableColumn } from './columns.tsx';
import { Countdown } from './countdown.tsx';
import { GroupBar } from './group-bar.tsx';
import { groupValue } from './group-value.ts';
import { EmptyNote, NothingMatchesNote } from './notes.tsx';
import { OpenGroups } from './open-groups.ts';
import { OutlineFooter } from './outline-footer.tsx';
import { headerMarks, outlineColumn, sortedBy } from './outline-sort.ts';
import { useFoot } from './use-foot.tsx';
import { openText, type View } from './view-state.ts';

interface OutlineRowsProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly checked: CheckedQuery;
  readonly grouping: CheckedGrouping;
}

/** The rows of the view in groups: the lines of the groups, and the rows of those that are open. */
export function OutlineRows(props: OutlineRowsProps): ReactElement {
  const { view, table, checked, grouping } = props;
  const { query, texts } = view;
  const { filter, search, nulls, columns, group } = texts;
  const placeKey = JSON.stringify([filter, search, nulls, columns, group]);
  const question = placeKey + JSON.stringify([texts.sort, texts.aggregate]);
  // Sorted or summed otherwise, the same groups are open.
  const opened = useMemo(
    () => new OpenGroups(view.open),
    // Of other levels, other groups; what the address says is its beginning only.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [texts.group],
  );
  const source = useMemo(
    () => {
      const names = checked.columns.map(({ name }) => ({ name, span: { start: 0, end: 0 } }));
      return outlineSource({
        askGroups: (asked, signal) => client.groups(table.name, asked, signal),
        askRows: (asked, signal) => client.rows(table.name, asked, signal),
        query: { ...query, ...(query.columns === undefined ? {} : { columns: names }) },
        open: opened.get(),
        keyed: table.key.length > 0,
      });
    },
    // `question` stands for the query; which groups are open is the source's own from then on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, question, opened],
  );
  useClosedSource(source);
  const state = useSource(source);
  const [seen] = useState(() => new VisibleRows());
  const foot = useFoot(view, table);
  // Groups alone have nothing under most columns.
  const { levels } = grouping;
  const rowsOpen = source.openGroups().some((path) => path.length === levels.length);
  const shown = useMemo(
    () => columnsOf(props, foot, rowsOpen),
    // Opening and closing is another view, but the same columns.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [table, question, foot, rowsOpen],
  );
  const { total, error, retryAt } = state;
  const instead =
    total === undefined && error !== undefined ? (
      <FailureNote error={error} retry={source.retry}>
        {retryAt !== undefined && <Countdown until={retryAt} />}
      </FailureNote>
    ) : total === 0 ? (
      query.filter === undefined ? (
        <EmptyNote table={table} />
      ) : (
        <NothingMatchesNote view={view} />
      )
    ) : undefined;
  return (
    <>
      <GroupBar view={view} table={table} grouping={grouping} source={source} />
      <main className="min-h-0 grow border-t border-rule">
        <RecordTable
          // What was made of the rows may change while a card is open.
          key={placeKey}
          source={source}
          columns={shown}
          label={table.title}
          sort={headerMarks(query, table)}
          onSort={(name, add) => view.change(sortedBy(name, add, query, table))}
          onVisibleRowsChange={seen.set}
          instead={instead}
        />
      </main>
      <KeptOpen view={view} source={source} opened={opened} />
      <OutlineFooter state={state} seen={seen} source={source} quiet={instead !== undefined} />
    </>
  );
}

function columnsOf(
  { view, table, checked, grouping }: OutlineRowsProps,
  foot: ReturnType<typeof useFoot>,
  rowsOpen: boolean,
): readonly TableColumn[] {
  const terms = view.query.aggregate ?? [];
  const shown = new Set(checked.columns.map(({ name }) => name));
  const termsUnder = (name: string | undefined): readonly Term[] =>
    terms.filter(({ expression }) => {
      const of = columnOfTerm(expression);
      // What stands under no column stands beside the count.
      return name === undefined ? of === undefined || !shown.has(of) : of === name;
    });
  const { levels, aggregates } = grouping;
  const further = termsUnder(undefined);
  // The number of rows stands beside every group anyway.
  const beside = further.filter(({ expression }) => !isRowCount(expression));
  const besideFoot = foot(undefined, ({ name }) => further.some((term) => term.name === name));
  const outline: TableColumn = {
    name: outlineColumn,
    label: levels.map(({ label }) => label).join(' › '),
    width: 270 + beside.length * 80,
    sortable: true,
    outline: true,
    group: (line, depth) => (
      <GroupLabel line={line} level={levels[depth]}>
        <AggregateCell terms={beside} columns={aggregates} values={line.aggregates} />
      </GroupLabel>
    ),
    foot: () => (
      <span className="flex gap-3">
        <span className="grow">All</span>
        {besideFoot?.()}
      </span>
    ),
  };
  const summed = checked.columns.filter(({ name }) => termsUnder(name).length > 0);
  const others = checked.columns.filter(({ name }) => termsUnder(name).length === 0);
  // What is made of groups stands where one looks first; the rest once there are rows to show.
  const columns = [...summed, ...(rowsOpen ? others : [])].map((column) => {
    const conditioned = conditionOf(view.query.filter, column) !== undefined;
    const card = <ColumnCard view={view} table={table} column={column} conditioned={conditioned} />;
    const own = termsUnder(column.name);
    const under = { foot: foot(column.name), aggregates: own.length };
    return {
      ...tableColumn(column, card, under),
      ...(own.length === 0
        ? {}
        : {
            group: (line: GroupLine) => (
              <AggregateCell terms={own} columns={aggregates} values={line.aggregates} />
            ),
          }),
    };
  });
  return [outline, ...columns];
}

function isRowCount(expression: Term['expression']): boolean {
  return expression.kind === 'call' && expression.name === 'count' && expression.args.length === 0;
}

interface GroupLabelProps {
  readonly line: GroupLine;
  readonly level: CheckedGrouping['levels'][number] | undefined;
  readonly children: ReactNode;
}

/** The value of a group and how many rows it stands for. */
function GroupLabel({ line, level, children }: GroupLabelProps): ReactElement {
  const { value, count } = line;
  return (
    <>
      <span className="min-w-0 grow overflow-hidden text-ellipsis">
        {level === undefined ? null : <Cell value={groupValue(value, level)} />}
      </span>
      <span className="font-normal text-faint">{children}</span>
      <span className="pr-1 font-normal tabular-nums" title={`${count} rows`}>
        {count.toLocaleString(reader.locale)}
      </span>
    </>
  );
}

interface KeptOpenProps {
  readonly view: View;
  readonly source: OutlineSource;
  readonly opened: OpenGroups;
}

/** Keeps in the address which groups are open, as far as there is room, without history entries. */
function KeptOpen({ view, source, opened }: KeptOpenProps): null {
  const { texts, change } = view;
  useSource(source);
  const generation = source.generation();
  const { open } = texts;
  useEffect(() => {
    // Nothing was opened or closed yet: what the address says is still to be opened.
    if (generation === 0) return undefined;
    const groups = source.openGroups();
    opened.keep(groups);
    const text = openText(groups);
    if (text === open) return undefined;
    const timer = setTimeout(() => change({ open: text }, true), 250);
    return () => clearTimeout(timer);
  }, [generation, open, change, source, opened]);
  return null;
}
