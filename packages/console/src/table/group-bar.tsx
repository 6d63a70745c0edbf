import type { OutlineSource } from '@ephoros/client';
import type { CheckedGrouping } from '@ephoros/core/check';
import type { Term } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import { AggregateOffer } from './aggregate-choices.tsx';
import { GroupOffer } from './group-offer.tsx';
import { Pop } from './pop.tsx';
import { groupTexts, type View } from './view-state.ts';

interface GroupBarProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly grouping: CheckedGrouping;
  readonly source: OutlineSource;
}

/** The levels of the grouping in their order: added, moved (by drag or Shift and arrows), removed. */
export function GroupBar({ view, table, grouping, source }: GroupBarProps): ReactElement {
  const group = view.query.group ?? [];
  const [dragged, setDragged] = useState<number>();
  const [told, setTold] = useState('');
  const list = useRef<HTMLOListElement>(null);
  const focus = useRef<number>(undefined);
  // What was moved by a key keeps the keyboard.
  useEffect(() => {
    if (focus.current === undefined) return;
    const chips = list.current?.querySelectorAll<HTMLElement>('[data-level]');
    chips?.[focus.current]?.focus();
    focus.current = undefined;
  });

  const put = (next: readonly Term[]): void => view.change(groupTexts(next, view));
  const move = (from: number, to: number): void => {
    const term = group[from];
    if (term === undefined || to < 0 || to >= group.length || from === to) return;
    const others = group.filter((_, index) => index !== from);
    put([...others.slice(0, to), term, ...others.slice(to)]);
    setTold(`${grouping.levels[from]?.label ?? ''} is level ${to + 1} of ${group.length}`);
  };
  const remove = (index: number): void => put(group.filter((_, place) => place !== index));
  const onKeyDown = (event: KeyboardEvent, index: number): void => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (event.shiftKey && by !== undefined) {
      event.preventDefault();
      const to = Math.min(group.length - 1, Math.max(0, index + by));
      focus.current = to;
      move(index, to);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      focus.current = Math.max(0, index - 1);
      remove(index);
    }
  };
  return (
    <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 px-6 pb-2 text-sm">
      <span className="font-serif text-faint italic">grouped by</span>
      <ol ref={list} className="flex flex-wrap items-baseline gap-x-2 gap-y-1" aria-label="Levels">
        {grouping.levels.map(({ name, label }, index) => (
          <li
            key={name}
            className="flex items-baseline gap-2 data-[over=true]:text-amber"
            data-over={dragged !== undefined && dragged !== index}
            onDragOver={(event) => event.preventDefault()}
            onDrop={(event) => {
              event.preventDefault();
              if (dragged !== undefined) move(dragged, index);
              setDragged(undefined);
            }}
          >
            {index > 0 && <span className="text-faint">›</span>}
            <span
              data-level={index}
              role="button"
              tabIndex={0}
              draggable
              aria-label={`${label}, level ${index + 1} of ${group.length}`}
              title="Drag it, or Shift and ← →; Delete removes it"
              className="cursor-grab border-b-2 border-amber px-1 font-semibold"
              onDragStart={(event) => {
                event.dataTransfer.effectAllowed = 'move';
                event.dataTransfer.setData('text/plain', name);
                setDragged(index);
              }}
              onDragEnd={() => setDragged(undefined)}
              onKeyDown={(event) => onKeyDown(event, index)}
            >
              {label}
            </span>
            <button
              type="button"
              aria-label={`Do not group by ${label}`}
              className="cursor-pointer text-faint hover:text-amber"
              onClick={() => remove(index)}
            >
              ×
            </button>
          </li>
        ))}
      </ol>
      <Pop
        label="Add a level"
        trigger={
          <button type="button" className="offer">
            + level
          </button>
        }
      >
        {(close) => <GroupOffer view={view} table={table} done={close} />}
      </Pop>
      <Pop
        label="Add a sum"
        trigger={
          <button type="button" className="offer">
            + sum
          </button>
        }
      >
        {() => <AggregateOffer view={view} table={table} />}
      </Pop>
      <span className="grow" />
      <button type="button" className="offer" onClick={() => void source.openLevel()}>
        open one level
      </button>
      <button type="button" className="offer" onClick={source.closeAll}>
        close all
      </button>
      <span className="sr-only" aria-live="polite">
        {told}
      </span>
    </div>
  );
}
