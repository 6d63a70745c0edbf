import type { OutlineLine } from '@ephoros/client';
import { memo, type MouseEvent, type ReactElement } from 'react';
import { activateCell } from './activate-cell.ts';
import { useMessages } from '../messages/use-messages.ts';
import { pinned, type PlacedColumn } from './column.ts';

export type Group = Extract<OutlineLine, { kind: 'group' }>;

interface GroupRowProps {
  readonly activeId: string | undefined;
  readonly line: Group;
  /** Counted from 0 over all lines. */
  readonly position: number;
  readonly columns: readonly PlacedColumn[];
  readonly template: string;
  /** Px from the top of the layer that it stands in. */
  readonly top: number;
  readonly height: number;
  readonly activeColumn: number | undefined;
  /** Whether it stands above the rows that scroll by. */
  readonly stuck?: boolean;
  readonly onActivate: (position: number, column: number) => void;
  /** `top` is where the line stands in the view when it is stuck. */
  readonly onToggle: (position: number, top: number | undefined) => void;
}

/** The line that stands for a group. */
export const GroupRow = memo(function GroupRow(props: GroupRowProps): ReactElement {
  const { line, position, columns, template, top, height, activeColumn, stuck = false } = props;
  const { depth, open, openable } = line;
  const messages = useMessages();
  const onMouseDown = ({ target }: MouseEvent): void => {
    activateCell(target, (column) => props.onActivate(position, column));
  };
  return (
    <div
      role="row"
      className="eph-row eph-group"
      aria-rowindex={position + 2}
      aria-level={depth + 1}
      aria-expanded={openable ? open : undefined}
      aria-hidden={stuck}
      data-active={activeColumn !== undefined}
      data-depth={depth}
      style={{ top, height, gridTemplateColumns: template }}
      onMouseDown={onMouseDown}
    >
      {columns.map((column, index) => (
        <div
          key={column.name}
          id={activeColumn === index ? props.activeId : undefined}
          role="gridcell"
          className="eph-cell"
          aria-colindex={index + 1}
          data-align={column.align ?? 'start'}
          {...pinned(column)}
          data-active={activeColumn === index}
        >
          {column.outline === true ? (
            <button
              type="button"
              tabIndex={-1}
              className="eph-mark"
              title={open ? messages.close : messages.open}
              disabled={!openable}
              data-open={open}
              style={{ paddingInlineStart: depth * indent }}
              onClick={() => props.onToggle(position, stuck ? top : undefined)}
            >
              <span className="eph-fold" aria-hidden="true" />
              {column.group?.(line.line, depth, position)}
            </button>
          ) : (
            column.group?.(line.line, depth, position)
          )}
        </div>
      ))}
    </div>
  );
});

/** Px by which a level stands further in. */
const indent = 20;
