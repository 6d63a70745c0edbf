import { keyOfRow, type Row, type Value } from '@ephoros/client';
import { termOf, withCondition, withoutValue } from '@ephoros/core/query';
import { conditionOf } from '@ephoros/core/query';
import { property, type Expression } from '@ephoros/core/expression';
import { isComparable, isMeasured, type ColumnDescription } from '@ephoros/core/schema';
import { withLevels, withSort } from '@ephoros/core/view';
import { DropdownMenu } from 'radix-ui';
import type { ReactElement } from 'react';
import { formatText, plainText } from '../format/value.ts';
import type { MenuMessages } from '../messages/menu-messages.ts';
import { useAnswer } from '../use-answer.ts';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { useTopLayer } from '../editors/sheet.tsx';
import type { CopiedRows } from '../copy/copy-cells.ts';
import { useSheet } from '../view/sheet-context.ts';

/** Where a menu was asked for. */
export interface MenuPlace {
  /** Px from the corner of the window. */
  readonly x: number;
  readonly y: number;
  readonly column: string;
  /** Undefined on a header. */
  readonly row: Row | undefined;
  readonly position: number;
}

interface CellMenuProps {
  readonly at: MenuPlace;
  readonly anchor: { readonly current: HTMLElement | null };
  readonly close: () => void;
  readonly copy: (rows: CopiedRows, columns: readonly string[], headers: boolean) => void;
}

interface Offer {
  readonly text: string;
  readonly choose: () => void;
}

/** What can be done with a cell, or with a header. */
export function CellMenu(props: CellMenuProps): ReactElement | null {
  const said = useAnswer(useModel().reader.messages.menu);
  // Where it cannot be had, the menu stays away.
  return said.state === 'ready' ? <Menu {...props} menu={said.result} /> : null;
}

type MenuProps = CellMenuProps & { readonly menu: MenuMessages };

function Menu({ at, anchor, close, copy, menu }: MenuProps): ReactElement {
  const layer = useTopLayer(anchor);
  const ofCell = useCellOffers(at, menu);
  const ofHeader = useHeaderOffers(at, menu);
  const ofCopies = useCopyOffers(at, copy, menu);
  const { handle } = useSheet();
  const groups = at.row === undefined ? [ofHeader] : [...ofCell, ofCopies];
  return (
    <DropdownMenu.Root open modal={false} onOpenChange={close}>
      <DropdownMenu.Trigger asChild>
        <span aria-hidden className="eph-menu-place" style={{ left: at.x, top: at.y }} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal container={layer}>
        <DropdownMenu.Content
          aria-label={menu.label}
          align="start"
          collisionPadding={8}
          className="eph-sheet eph-menu"
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            // What opens a card gives it the keyboard.
            if (!document.activeElement?.closest('.eph-card')) handle.current?.takeKeyboard();
          }}
        >
          {groups
            .filter((offers) => offers.length > 0)
            .map((offers, index) => (
              <DropdownMenu.Group
                key={offers[0]?.text}
                className="eph-menu-group"
                data-first={index === 0}
              >
                {offers.map(({ text, choose }) => (
                  <DropdownMenu.Item key={text} className="eph-menu-item" onSelect={choose}>
                    {text}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Group>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Conditions that the value says, what groups by its column, and the row itself. */
function useCellOffers(
  { column: name, row, position }: MenuPlace,
  menu: MenuMessages,
): readonly (readonly Offer[])[] {
  const { view, change, column: columnNamed, reader, table } = useModel();
  const { card, opened } = useSheet();
  const column = columnNamed(name);
  const key = row && keyOfRow(row, table.key);
  const open =
    card === false || key === undefined
      ? []
      : [{ text: reader.messages.openRow, choose: () => opened.open(key, position) }];
  if (column === undefined || row === undefined) return [open];
  const value = row[name] ?? null;
  const put = (filter: Expression | undefined): void => change({ filter, place: undefined });
  const zone = reader.timeZone;
  const conditions = conditionsOf(value, column);
  const shown = formatText(value, column, reader);
  const quoted = shown.length > 30 ? `${shown.slice(0, 29)}…` : shown;
  return [
    conditions.map((kind): Offer => {
      const text = menu[kind](column.label, quoted);
      const exact = plainText(value);
      switch (kind) {
        case 'only':
          return {
            text,
            choose: () =>
              put(
                withCondition(
                  view.filter,
                  column,
                  value === null
                    ? { kind: 'missing', missing: true }
                    : { kind: 'equals', value: exact },
                  zone,
                ),
              ),
          };
        case 'but':
          return {
            text,
            choose: () =>
              put(
                value === null
                  ? withCondition(view.filter, column, { kind: 'missing', missing: false }, zone)
                  : withoutValue(view.filter, column, exact, zone),
              ),
          };
        case 'from':
        case 'upTo':
          return {
            text,
            choose: () =>
              put(withEnd(view.filter, column, kind === 'from' ? 'from' : 'to', exact, zone)),
          };
        default:
          throw new Error(`unknown condition ${String(kind satisfies never)}`);
      }
    }),
    [...groupOffer(column, menu.groupBy(column.label), change), ...open],
  ];
}

type ConditionOffer = 'only' | 'but' | 'from' | 'upTo';

/** Which conditions a value says; none where its type cannot be compared. */
function conditionsOf(
  value: Value,
  { filterable, type }: ColumnDescription,
): readonly ConditionOffer[] {
  if (!filterable) return [];
  if (value === null) return ['only', 'but'];
  if (!isComparable(type) || typeof value === 'object') return [];
  return isMeasured(type) ? ['only', 'but', 'from', 'upTo'] : ['only', 'but'];
}

/** A range of the column with one end at a value; the other end stays. */
function withEnd(
  filter: Expression | undefined,
  column: ColumnDescription,
  end: 'from' | 'to',
  value: string,
  zone: string,
): Expression | undefined {
  const now = conditionOf(filter, column, zone);
  const { from, to } = now?.kind === 'range' ? now : {};
  const range = { ...(from && { from }), ...(to && { to }), [end]: value };
  return withCondition(filter, column, { kind: 'range', ...range }, zone);
}

function groupOffer(
  { name, groupable }: ColumnDescription,
  text: string,
  change: ReturnType<typeof useModel>['change'],
): readonly Offer[] {
  if (!groupable) return [];
  const term = termOf(property(name));
  return [
    {
      text,
      choose: () =>
        change((view) => {
          const group = view.group ?? [];
          return group.some((one) => one.name === term.name)
            ? view
            : withLevels(view, [...group, term]);
        }),
    },
  ];
}

function useHeaderOffers({ column: name }: MenuPlace, menu: MenuMessages): readonly Offer[] {
  const { view, change, column: columnNamed, table, shown, pinned, fit, reader } = useModel();
  const { messages } = reader;
  const column = columnNamed(name);
  if (column === undefined) return [];
  const span = { start: 0, end: 0 };
  const sortBy = (descending: boolean | undefined): void => {
    const terms = descending === undefined ? [] : [{ column: { name, span }, descending }];
    change((last) => withSort(last, terms, table));
  };
  const sorts: readonly Offer[] = column.sortable
    ? [
        { text: messages.sortAscending, choose: () => sortBy(false) },
        { text: messages.sortDescending, choose: () => sortBy(true) },
        ...(view.sort?.some((term) => term.column.name === name) === true
          ? [{ text: messages.sortNot, choose: () => sortBy(undefined) }]
          : []),
      ]
    : [];
  const isPinned = pinned.includes(name);
  return [
    ...sorts,
    ...groupOffer(column, menu.groupBy(column.label), change),
    {
      text: isPinned ? messages.unpin : messages.pin,
      choose: () =>
        change({ pinned: isPinned ? pinned.filter((one) => one !== name) : [...pinned, name] }),
    },
    { text: messages.fit, choose: () => fit([name]) },
    ...(shown.length > 1
      ? [
          {
            text: messages.hide,
            choose: () => {
              const others = shown.filter((one) => one !== name);
              change({ columns: others.map((one) => ({ name: one, span })) });
            },
          },
        ]
      : []),
  ];
}

function useCopyOffers(
  { column, position }: MenuPlace,
  copy: CellMenuProps['copy'],
  menu: MenuMessages,
): readonly Offer[] {
  const { shown } = useModel();
  const { handle, drawn } = useSheet();
  const { selection } = useRowsOf();
  const range = handle.current?.cells();
  const several =
    range !== undefined && (range.lastRow > range.firstRow || range.lastColumn > range.firstColumn);
  const names = several
    ? drawn.columns.slice(range.firstColumn, range.lastColumn + 1).map(({ name }) => name)
    : [column];
  const rows = several ? range : { firstRow: position, lastRow: position };
  const any = selection.chosen.kind === 'matching' || selection.keys.length > 0;
  return [
    {
      text: several ? menu.copyCells : menu.copyCell,
      choose: () => copy(rows, names, false),
    },
    ...(several ? [{ text: menu.copyWithHeaders, choose: () => copy(rows, names, true) }] : []),
    {
      text: menu.copyRow,
      choose: () => copy({ firstRow: position, lastRow: position }, shown, true),
    },
    ...(any
      ? [{ text: menu.copySelected, choose: () => copy({ selected: true }, shown, true) }]
      : []),
  ];
}
