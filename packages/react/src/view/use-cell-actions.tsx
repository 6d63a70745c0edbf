import {
  useCallback,
  useRef,
  useState,
  type MouseEvent,
  type ReactElement,
  type TouchEvent,
} from 'react';
import type { Copied, CopiedRows } from '../copy/copy-cells.ts';
import { Later, useLater } from '../later.ts';
import type { MenuPlace } from '../menu/index.ts';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { columnUnder, lineUnder, positionUnder } from '../table/line-under.ts';
import { rowAt } from '../table/row-at.ts';
import { useSheet } from './sheet-context.ts';

/** Loaded with the first menu or copy. */
const menus = new Later(() => import('../menu/index.ts'));

/** Ms after which a finger that rests asks for the menu. */
const longPress = 550;
/** Px that a finger at rest may move. */
const tremor = 10;

/** What is done with cells by their menu and by copying. */
export interface CellActions {
  /** Of the element that holds the rows and their header. */
  readonly handlers: {
    readonly onContextMenu: (event: MouseEvent) => void;
    readonly onTouchStart: (event: TouchEvent) => void;
    readonly onTouchMove: (event: TouchEvent) => void;
    readonly onTouchEnd: () => void;
    readonly onTouchCancel: () => void;
  };
  /** Copies the marked cells, or the active one. */
  readonly copyMarked: () => void;
  readonly shown: ReactElement | null;
}

export function useCellActions(): CellActions {
  const records = useRowsOf();
  const { column, reader } = useModel();
  const { drawn, handle } = useSheet();
  const [at, setAt] = useState<MenuPlace>();
  const [copied, setCopied] = useState<Copied>();
  const anchor = useRef<HTMLElement>(null);
  const pressed = useRef<{ x: number; y: number; timer: ReturnType<typeof setTimeout> }>(undefined);
  const part = useLater(menus, at !== undefined || copied !== undefined);
  const { source } = records;
  const copy = useCallback(
    async (rows: CopiedRows, names: readonly string[], headers: boolean) => {
      const columns = names.flatMap((name) => column(name) ?? []);
      if (columns.length === 0) return;
      try {
        const { copyCells } = await menus.request();
        setCopied(await copyCells(rows, { records, columns, reader, headers }));
      } catch (thrown) {
        setCopied(thrown instanceof Error ? thrown : new Error(String(thrown)));
      }
    },
    [column, reader, records],
  );
  const openAt = (target: Element, within: Element, x: number, y: number): boolean => {
    const grid = target.closest('[role=grid], [role=treegrid]');
    const active = grid?.getAttribute('aria-activedescendant');
    // By a key it is the active cell that is meant.
    const keyed = target === grid && active != null ? document.getElementById(active) : null;
    const cell = keyed ?? target.closest<HTMLElement>('[aria-colindex]');
    if (cell === null || lineUnder(cell, within) === null) return false;
    const position = positionUnder(cell, within);
    const row = position < 0 ? undefined : rowAt(source, position);
    const name = columnUnder(cell, drawn.columns) ?? '';
    if (position < 0 ? name === '' : row === undefined) return false;
    const box = cell.getBoundingClientRect();
    anchor.current = cell;
    setAt({
      x: keyed === null ? x : box.left,
      y: keyed === null ? y : box.bottom,
      column: name,
      row,
      position,
    });
    return true;
  };
  const letGo = (): void => clearTimeout(pressed.current?.timer);
  const Menu = part.state === 'ready' ? part.result : undefined;
  return {
    handlers: {
      onContextMenu: (event) => {
        letGo();
        const target = event.target as Element;
        // The browser's own menu is there for links, fields and marked text, and with Shift.
        if (event.shiftKey && event.button === 2) return;
        const byKey = target.matches('[role=grid], [role=treegrid]');
        if (!byKey && (ownMenu(target) || !getSelection()?.isCollapsed)) return;
        if (openAt(target, event.currentTarget, event.clientX, event.clientY)) {
          event.preventDefault();
        }
      },
      onTouchStart: ({ target, currentTarget, touches }) => {
        letGo();
        const touch = touches[0];
        if (touch === undefined || touches.length > 1 || ownMenu(target as Element)) return;
        const { clientX, clientY } = touch;
        const open = (): boolean => openAt(target as Element, currentTarget, clientX, clientY);
        pressed.current = { x: clientX, y: clientY, timer: setTimeout(open, longPress) };
      },
      onTouchMove: ({ touches }) => {
        const { x, y } = pressed.current ?? { x: 0, y: 0 };
        const { clientX, clientY } = touches[0] ?? { clientX: 0, clientY: 0 };
        if (Math.hypot(clientX - x, clientY - y) > tremor) letGo();
      },
      onTouchEnd: letGo,
      onTouchCancel: letGo,
    },
    copyMarked: () => {
      const range = handle.current?.cells();
      if (range === undefined) return;
      const { firstColumn, lastColumn } = range;
      const names = drawn.columns.slice(firstColumn, lastColumn + 1).map(({ name }) => name);
      void copy(range, names, false);
    },
    shown: (
      <>
        {at !== undefined && Menu !== undefined && (
          <Menu.CellMenu
            key={`${at.x} ${at.y}`}
            at={at}
            anchor={anchor}
            close={() => setAt(undefined)}
            copy={(rows, names, headers) => void copy(rows, names, headers)}
          />
        )}
        <span aria-live="polite" className="eph-copied" onAnimationEnd={() => setCopied(undefined)}>
          {copied !== undefined && Menu !== undefined && <Menu.CopyNote copied={copied} />}
        </span>
      </>
    ),
  };
}

/** Whether the browser has a menu of its own for what lies there. */
function ownMenu(target: Element): boolean {
  return target.closest('a, input, textarea') !== null;
}
