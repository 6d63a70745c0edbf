import {
  DndContext,
  MouseSensor,
  TouchSensor,
  closestCenter,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import type { ColumnDescription } from '@ephoros/core/schema';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import type { LayoutMessages } from '../messages/layout-messages.ts';
import { useModel } from '../parts/table-context.ts';
import { Tick } from './choices.tsx';
import { useColumnActions } from './column-actions.ts';

interface ShownColumnsProps {
  /** Which are listed while one is sought. */
  readonly fits: (column: ColumnDescription) => boolean;
  readonly messages: LayoutMessages;
  readonly move: (from: number, to: number) => void;
  readonly hide: (name: string) => void;
}

/**
 * The columns shown, in their order: moved by mouse or finger, or by Shift with the arrow keys;
 * hidden; stored in view at either side.
 */
export function ShownColumns({ fits, messages, move, hide }: ShownColumnsProps): ReactElement {
  const { shown, column: columnNamed } = useModel();
  const list = useRef<HTMLOListElement>(null);
  const focus = useRef<string>(undefined);
  const [message, setNote] = useState('');
  // What was moved by a key keeps the keyboard.
  useEffect(() => {
    if (focus.current === undefined) return;
    const handles = list.current?.querySelectorAll<HTMLElement>('[data-column]') ?? [];
    [...handles].find((one) => one.dataset.column === focus.current)?.focus();
    focus.current = undefined;
  });
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 4 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 150, tolerance: 6 } }),
  );
  const labelOf = (name: string): string => columnNamed(name)?.label ?? name;
  const put = (from: number, to: number): void => {
    if (from === to || from < 0 || to < 0 || to >= shown.length) return;
    move(from, to);
    setNote(messages.moved(labelOf(shown[from] ?? ''), to + 1, shown.length));
  };
  const listed = shown.filter((name) => {
    const column = columnNamed(name);
    return column === undefined || fits(column);
  });
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (over !== null) put(shown.indexOf(String(active.id)), shown.indexOf(String(over.id)));
      }}
    >
      <SortableContext items={[...listed]} strategy={verticalListSortingStrategy}>
        <ol ref={list} className="eph-plain-list eph-ordered" aria-label={messages.shown}>
          {listed.map((name) => (
            <ShownColumn
              key={name}
              name={name}
              label={labelOf(name)}
              messages={messages}
              hide={hide}
              step={(by) => {
                focus.current = name;
                const from = shown.indexOf(name);
                put(from, from + by);
              }}
            />
          ))}
        </ol>
      </SortableContext>
      <span className="eph-unseen" aria-live="polite">
        {message}
      </span>
    </DndContext>
  );
}

interface ShownColumnProps {
  readonly name: string;
  readonly label: string;
  readonly messages: LayoutMessages;
  readonly hide: (name: string) => void;
  /** Moves it by so many places. */
  readonly step: (by: number) => void;
}

function ShownColumn({ name, label, messages, hide, step }: ShownColumnProps): ReactElement {
  const { shown } = useModel();
  const { pinned, pin } = useColumnActions(name);
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: name,
  });
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!event.shiftKey || by === undefined) return;
    event.preventDefault();
    step(by);
  };
  return (
    <li
      ref={setNodeRef}
      data-dragged={isDragging}
      style={transform === null ? {} : { transform: `translateY(${transform.y}px)`, transition }}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        data-column={name}
        className="eph-handle"
        aria-label={messages.place(label, shown.indexOf(name) + 1, shown.length)}
        title={messages.moveHint}
        onKeyDown={onKeyDown}
      />
      <Tick checked change={() => hide(name)}>
        {label}
      </Tick>
      {(['start', 'end'] as const).map((side) => (
        <button
          key={side}
          type="button"
          className="eph-pin"
          data-side={side}
          aria-pressed={pinned === side}
          aria-label={side === 'start' ? messages.atStart(label) : messages.atEnd(label)}
          title={side === 'start' ? messages.atStart(label) : messages.atEnd(label)}
          onClick={() => pin(pinned === side ? undefined : side)}
        />
      ))}
    </li>
  );
}
