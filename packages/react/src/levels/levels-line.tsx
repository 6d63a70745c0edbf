import type { OutlineSource } from '@ephoros/client';
import type { Term } from '@ephoros/core/query';
import { moved, withLevels } from '@ephoros/core/view';
import {
  DndContext,
  KeyboardSensor,
  MouseSensor,
  TouchSensor,
  closestCenter,
  pointerWithin,
  type CollisionDetection,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import {
  SortableContext,
  horizontalListSortingStrategy,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable';
import { useLayoutEffect, useRef, useState, type KeyboardEvent, type ReactElement } from 'react';
import { Pop } from '../parts/pop.tsx';
import { useModel } from '../parts/table-context.ts';

interface LevelsLineProps {
  readonly source: OutlineSource;
  /** What the levels are called. */
  readonly labels: readonly string[];
}

/**
 * The levels of the grouping in their order: added, removed, and moved: by mouse or finger, by
 * Space and arrows, or by Shift and arrows at once.
 */
export function LevelsLine({ source, labels }: LevelsLineProps): ReactElement {
  const { view, change, reader } = useModel();
  const { messages } = reader;
  const group = view.group ?? [];
  const [message, setNote] = useState('');
  const list = useRef<HTMLOListElement>(null);
  const focus = useRef<number>(undefined);
  const ids = group.map(({ name }) => name);
  const order = ids.join('\n');
  // What was moved by a key keeps the keyboard. The focus moves in the commit that has the new
  // order: an earlier one would give it to the level that stood there before.
  useLayoutEffect(() => {
    if (focus.current === undefined) return;
    list.current?.querySelectorAll<HTMLElement>('[data-level]')[focus.current]?.focus();
    focus.current = undefined;
  }, [order]);
  const sensors = useSensors(
    // A press without a movement is a press.
    useSensor(MouseSensor, { activationConstraint: { distance: 4 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 150, tolerance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const put = (next: readonly Term[]): void => change((last) => withLevels(last, next));
  const move = (from: number, to: number): void => {
    if (to < 0 || to >= group.length || from === to) return;
    put(moved(group, from, to));
    setNote(messages.levelMoved(labels[from] ?? '', to + 1, group.length));
  };
  const remove = (index: number): void => put(group.filter((_, place) => place !== index));
  const onKeyDown = (event: KeyboardEvent, index: number): boolean => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (event.shiftKey && by !== undefined) {
      const step = messages.direction === 'rtl' ? -by : by;
      const to = Math.min(group.length - 1, Math.max(0, index + step));
      if (to !== index) focus.current = to;
      move(index, to);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      focus.current = Math.max(0, index - 1);
      remove(index);
    } else return false;
    event.preventDefault();
    return true;
  };
  return (
    <div className="eph-line eph-levels">
      <span className="eph-line-title">{messages.groupedBy}</span>
      <DndContext
        sensors={sensors}
        collisionDetection={underPointer}
        onDragEnd={({ active, over }) => {
          if (over !== null) move(ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
        }}
      >
        <SortableContext items={ids} strategy={horizontalListSortingStrategy}>
          <ol ref={list} className="eph-levels-list" aria-label={messages.levels}>
            {ids.map((id, index) => (
              <Level
                key={id}
                id={id}
                index={index}
                of={ids.length}
                label={labels[index] ?? id}
                remove={() => remove(index)}
                onKeyDown={onKeyDown}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      <Pop className="eph-offer" text={messages.editors.addLevel} label={messages.editors.addLevel}>
        {({ GroupOffer }, close) => <GroupOffer done={close} />}
      </Pop>
      <Pop className="eph-offer" text={messages.editors.addSum} label={messages.editors.addSum}>
        {({ AggregateOffer }) => <AggregateOffer />}
      </Pop>
      <span className="eph-grow" />
      <button type="button" className="eph-offer" onClick={() => void source.openLevel()}>
        {messages.openLevel}
      </button>
      <button type="button" className="eph-offer" onClick={source.closeAll}>
        {messages.closeAll}
      </button>
      <span className="eph-unseen" aria-live="polite">
        {message}
      </span>
    </div>
  );
}

/** What lies under the pointer, however wide what is carried is; by keys, what is nearest. */
const underPointer: CollisionDetection = (carried) => {
  const under = pointerWithin(carried);
  return under.length > 0 ? under : closestCenter(carried);
};

interface LevelProps {
  readonly id: string;
  readonly index: number;
  readonly of: number;
  readonly label: string;
  readonly remove: () => void;
  /** True where the key did something. */
  readonly onKeyDown: (event: KeyboardEvent, index: number) => boolean;
}

function Level({ id, index, of, label, remove, onKeyDown }: LevelProps): ReactElement {
  const { messages } = useModel().reader;
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id,
  });
  const lift = listeners?.onKeyDown as ((event: KeyboardEvent) => void) | undefined;
  const moved = transform === null ? {} : { transform: `translateX(${transform.x}px)`, transition };
  return (
    <li ref={setNodeRef} className="eph-level" data-dragged={isDragging} style={moved}>
      {index > 0 && <span className="eph-aside">›</span>}
      <span
        {...attributes}
        {...listeners}
        data-level={index}
        className="eph-level-name"
        aria-label={messages.levelPlace(label, index + 1, of)}
        title={messages.levelHint}
        onKeyDown={(event) => {
          if (!onKeyDown(event, index)) lift?.(event);
        }}
      >
        {label}
      </span>
      <button
        type="button"
        className="eph-drop"
        aria-label={messages.dropLevel(label)}
        onClick={remove}
      >
        ×
      </button>
    </li>
  );
}
