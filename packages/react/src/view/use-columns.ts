import { printParameters, type GroupLine } from '@ephoros/client';
import { spokenTerm } from '@ephoros/core/query';
import { createElement, useMemo } from 'react';
import { outlines } from '../outline/loaded.ts';
import { termsOf, withTotals } from '../outline/totals.ts';
import { Later, useLater } from '../later.ts';
import type { FullReader } from '../format/value.ts';
import type { Drawn } from '../records/use-records.ts';
import { useTotals } from '../records/use-totals.ts';
import type { TableColumn } from '../table/column.ts';
import { isOutline } from '../table/row-at.ts';
import { useSame } from '../use-same.ts';
import {
  inView,
  marginColumn,
  pinsOf,
  tableColumn,
  type DefinedColumn,
  type Pins,
} from './columns.tsx';
import type { Paint } from '../paint/paint.ts';

/** Loaded with the first groups whose rows can be selected. */
const groupBoxes = new Later(() => import('../parts/group-box.tsx'));

interface ColumnsOptions {
  readonly records: Drawn;
  readonly defined: readonly DefinedColumn[];
  readonly reader: FullReader;
  readonly selectable: boolean;
  /** Opens a row by its key; undefined where none can be. */
  readonly openRow: ((key: string, position?: number) => void) | undefined;
  /** How rules paint cells; undefined where there are none. */
  readonly paint: Paint | undefined;
  /** Widths that fit the first rows, in px, by column. */
  readonly fitted: Readonly<Record<string, number>>;
}

export interface DrawnColumns {
  readonly columns: readonly TableColumn[];
  /** Names of the table's columns that are shown, in their order. */
  readonly shown: readonly string[];
  /** Those that stay in view. */
  readonly pins: Pins;
  /** What the levels of a grouping are called. */
  readonly levels: readonly string[];
}

/** The columns as they are drawn: of rows, or of an outline with what is made of its groups. */
export function useColumns(options: ColumnsOptions): DrawnColumns {
  const { records, defined, reader, selectable, openRow, fitted, paint } = options;
  const { view, request, match, source, column, selection } = records;
  const { group, aggregate } = view;
  const made = useSame(aggregate, printParameters({ aggregate: aggregate ?? [] }).join());
  const totals = useTotals(request, match, made, records.progress);
  const grouped = isOutline(source);
  const meta = grouped ? source.describe() : undefined;
  const depth = group?.length ?? 0;
  // Groups alone have nothing under most columns.
  const rowsOpen = grouped && source.openGroups().some((path) => path.length === depth);
  // Where one is, and what is open, changes no column.
  const { place, open, ...lasting } = view;
  const drawn = useSame(lasting, JSON.stringify(lasting));
  const searched = records.table.search;
  const { search } = records.query;
  const sought = useSame(search, search?.join('\n') ?? '');
  const pins = useMemo(() => pinsOf(defined, drawn), [drawn, defined]);
  const own = useMemo(
    () =>
      inView(defined, drawn, pins).map((one) =>
        tableColumn(
          one,
          drawn,
          pins,
          reader,
          fitted,
          paint?.cell(one.described.name),
          searched.includes(one.described.name) ? sought : undefined,
        ),
      ),
    [defined, drawn, pins, reader, fitted, paint, searched, sought],
  );
  const levels = useMemo(
    () =>
      (drawn.group ?? []).map(({ expression }) => {
        const labelOf = (name: string): string => {
          const own = defined.find(({ described }) => described.name === name)?.described;
          return (own ?? column(name))?.label ?? name;
        };
        if (expression.kind === 'property') return labelOf(expression.name);
        const text = spokenTerm(expression, labelOf, reader.messages.sentence);
        return text.charAt(0).toUpperCase() + text.slice(1);
      }),
    [drawn, defined, column, reader],
  );
  const { has, toggle, inWindow, toggleWindow, keyOf } = selection;
  const part = useLater(outlines, grouped);
  const makeColumns = part.state === 'ready' ? part.result.outlineColumns : undefined;
  const boxes = useLater(groupBoxes, grouped && selectable);
  const groupParts = boxes.state === 'ready' ? boxes.result : undefined;
  const { chosen } = selection;
  const { group: levelsNow } = drawn;
  const groupBox = useMemo(() => {
    if (groupParts === undefined || request === undefined) return undefined;
    const { GroupBox, GroupCounts } = groupParts;
    const counts = new GroupCounts(request, match, levelsNow, chosen);
    return (line: GroupLine, _depth: number, position: number) =>
      // Another line's box begins again.
      createElement(GroupBox, { key: `${position} ${line.filter ?? ''}`, line, position, counts });
  }, [groupParts, request, match, levelsNow, chosen]);
  const { messages } = reader;
  const { several } = selection;
  const columns = useMemo(() => {
    // In an outline no box stands for all that is shown.
    const headed = several && !grouped;
    const boxes = selectable ? { has, toggle, inWindow, toggleWindow, several, headed } : undefined;
    const opener = openRow && { open: openRow, keyOf };
    // Lines of an outline have no numbers: rows come and go with the groups around them.
    const numbered = !grouped && drawn.rowStyle?.includes('numbered') === true;
    const numbers = numbered ? (at: number) => at.toLocaleString(reader.locale) : undefined;
    const wanted = boxes ?? opener ?? numbers;
    const margin = wanted ? [marginColumn(boxes, opener, numbers, messages)] : [];
    if (grouped) {
      const boxed = several && selectable ? groupBox : undefined;
      const extra = margin.map((one) => ({
        ...one,
        ...(boxed && { group: boxed }),
      }));
      const outline = { view: drawn, columns: own, meta, labels: levels, totals, rowsOpen, reader };
      return makeColumns === undefined ? [] : [...extra, ...makeColumns(outline)];
    }
    const summed = own.map((one) =>
      withTotals(one, termsOf(drawn.aggregate ?? [], one.name), totals, reader),
    );
    return [...margin, ...summed];
  }, [
    grouped,
    drawn,
    own,
    meta,
    levels,
    totals,
    rowsOpen,
    reader,
    selectable,
    openRow,
    keyOf,
    has,
    toggle,
    inWindow,
    toggleWindow,
    messages,
    several,
    makeColumns,
    groupBox,
  ]);
  return { columns, shown: own.map(({ name }) => name), pins, levels };
}
