import { keyOfRow, type Row } from '@ephoros/client';
import { mostLevels } from '@ephoros/core/check';
import { property } from '@ephoros/core/expression';
import { termOf } from '@ephoros/core/query';
import type { ColumnDescription } from '@ephoros/core/schema';
import { withLevel } from '@ephoros/core/view';
import { DropdownMenu } from 'radix-ui';
import { useContext, useState, type ReactElement } from 'react';
import type { CopiedRows } from '../copy/copy-cells.ts';
import { useColumnActions } from '../editors/column-actions.ts';
import { isKeyboardFree, useTopLayer } from '../editors/sheet.tsx';
import type { MenuMessages } from '../messages/menu-messages.ts';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { EditingContext } from '../view/edited-parts.tsx';
import { useSheet } from '../view/sheet-context.ts';
import { useValueOffers, type Offer } from './value-offers.ts';
import { sortWays } from '../format/sort-ways.ts';

/** Where a menu was opened. */
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

/** What can be done with a cell, or with a header. */
export function CellMenu(props: CellMenuProps): ReactElement | null {
  const messages = useAnswer(useModel().reader.messages.menu);
  // Where it cannot be had, the menu stays away.
  return messages.state === 'ready' ? <Menu {...props} menu={messages.result} /> : null;
}

type MenuProps = CellMenuProps & { readonly menu: MenuMessages };

function Menu({ at, anchor, close, copy, menu }: MenuProps): ReactElement {
  const layer = useTopLayer(anchor);
  const [headers, setHeaders] = useState(false);
  const { column: columnNamed } = useModel();
  const { handle } = useSheet();
  const column = columnNamed(at.column);
  const ofValue = useValueOffers(column, at.row, menu);
  const ofHeader = useHeaderOffers(column);
  const ofGroup = useGroupOffer(column, menu);
  const ofRow = useRowOffer(at);
  const copies = useCopyOffers(at, headers, copy, menu);
  const isHeader = at.row === undefined;
  const groups = isHeader ? [[...ofHeader, ...ofGroup]] : [ofValue, [...ofGroup, ...ofRow]];
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
            if (isKeyboardFree()) handle.current?.takeKeyboard();
          }}
        >
          {groups
            .filter((offers) => offers.length > 0)
            .map((offers) => (
              <DropdownMenu.Group key={offers[0]?.text} className="eph-menu-group">
                <Offers offers={offers} />
              </DropdownMenu.Group>
            ))}
          {!isHeader && (
            <DropdownMenu.Group className="eph-menu-group">
              <Offers offers={copies} />
              <DropdownMenu.CheckboxItem
                className="eph-menu-item"
                checked={headers}
                onCheckedChange={setHeaders}
                // It says how, and copies nothing.
                onSelect={(event) => event.preventDefault()}
              >
                <span aria-hidden className="eph-menu-tick" data-ticked={headers} />
                {menu.withHeaders}
              </DropdownMenu.CheckboxItem>
            </DropdownMenu.Group>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Offers({ offers }: { readonly offers: readonly Offer[] }): ReactElement {
  return (
    <>
      {offers.map(({ text, choose }) => (
        <DropdownMenu.Item key={text} className="eph-menu-item" onSelect={choose}>
          {text}
        </DropdownMenu.Item>
      ))}
    </>
  );
}

function useGroupOffer(
  column: ColumnDescription | undefined,
  menu: MenuMessages,
): readonly Offer[] {
  const { view, change } = useModel();
  if (column?.groupable !== true || (view.group ?? []).length >= mostLevels) return [];
  const level = termOf(property(column.name));
  return [
    {
      text: menu.groupBy(column.label),
      choose: () => change((last) => withLevel(last, level)),
    },
  ];
}

function useRowOffer({ row, position }: MenuPlace): readonly Offer[] {
  const { table, reader } = useModel();
  const { card, opened } = useSheet();
  const editing = useContext(EditingContext);
  const key = row && keyOfRow(row, table.key);
  const open = { text: reader.messages.openRow, choose: () => opened.open(key ?? '', position) };
  return [
    ...(card === false || key === undefined ? [] : [open]),
    ...(row === undefined ? [] : (editing?.offers(position) ?? [])),
  ];
}

function useHeaderOffers(column: ColumnDescription | undefined): readonly Offer[] {
  const { messages } = useModel().reader;
  const { sortBy, sorted, pinned, pin, hide, fit } = useColumnActions(column?.name ?? '');
  if (column === undefined) return [];
  const [ascending, descending] = sortWays(messages, column.type);
  return [
    ...(column.sortable
      ? [
          { text: ascending, choose: () => sortBy(false) },
          { text: descending, choose: () => sortBy(true) },
        ]
      : []),
    ...(sorted ? [{ text: messages.sortNot, choose: () => sortBy(undefined) }] : []),
    ...(pinned === undefined
      ? [
          { text: messages.pin, choose: () => pin('start') },
          { text: messages.pinEnd, choose: () => pin('end') },
        ]
      : [{ text: messages.unpin, choose: () => pin(undefined) }]),
    { text: messages.fit, choose: fit },
    ...(hide === undefined ? [] : [{ text: messages.hide, choose: hide }]),
  ];
}

function useCopyOffers(
  { column, position }: MenuPlace,
  headers: boolean,
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
  const here = { firstRow: position, lastRow: position };
  const any = selection.chosen.kind === 'matching' || selection.keys.length > 0;
  return [
    {
      text: several ? menu.copyCells : menu.copyCell,
      choose: () => copy(several ? range : here, names, headers),
    },
    { text: menu.copyRow, choose: () => copy(here, shown, headers) },
    ...(any
      ? [{ text: menu.copySelected, choose: () => copy({ selected: true }, shown, headers) }]
      : []),
  ];
}
