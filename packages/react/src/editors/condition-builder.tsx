import {
  DndContext,
  MouseSensor,
  TouchSensor,
  pointerWithin,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { printExpression, type Expression } from '@ephoros/core/expression';
import {
  inserted,
  movedTo,
  partAt,
  partsIn,
  placesIn,
  readTree,
  replaced,
  writeTree,
  type ConditionBranch,
  type ConditionPart,
  type PartPath,
} from '@ephoros/core/query';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { BuilderMessages } from '../messages/builder-messages.ts';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { BuilderBranch } from './builder-branch.tsx';
import { BuilderContext, type BuilderActions } from './builder-context.ts';
import { RecentConditions } from './recent-conditions.tsx';
import { Unanswered } from './unanswered.tsx';

/** The whole condition of a view, as a tree of conditions: each change of it holds at once. */
export function ConditionBuilder({ done }: { readonly done: () => void }): ReactElement {
  const { view, change, reader, fixed } = useModel();
  const { messages } = reader;
  const words = useAnswer(messages.builder);
  if (words.state !== 'ready') return <Unanswered answer={words} what={messages.loading} />;
  return (
    <div className="eph-builder">
      {fixed !== undefined && (
        <p className="eph-aside" title={messages.fixedCondition}>
          <code className="eph-code">
            {typeof fixed === 'string' ? fixed : printExpression(fixed)}
          </code>{' '}
          {messages.fixedCondition}
        </p>
      )}
      <ConditionTree
        filter={view.filter}
        change={(filter) => change({ filter, place: undefined })}
        messages={words.result}
      />
      <div className="eph-actions">
        <button
          type="button"
          className="eph-offer"
          disabled={view.filter === undefined}
          onClick={() => change({ filter: undefined, place: undefined })}
        >
          {words.result.clearAll}
        </button>
      </div>
      <RecentConditions done={done} />
    </div>
  );
}

interface ConditionTreeProps {
  readonly filter: Expression | undefined;
  readonly change: (filter: Expression | undefined) => void;
  readonly messages: BuilderMessages;
}

function textOf(filter: Expression | undefined): string {
  return filter === undefined ? '' : printExpression(filter);
}

/** A tree that follows its filter, and keeps branches that say nothing yet. */
function ConditionTree({ filter, change, messages }: ConditionTreeProps): ReactElement {
  const text = textOf(filter);
  const [held, setHeld] = useState(() => ({ tree: readTree(filter), text }));
  // The condition was changed elsewhere: in the line, in the sentence, at a header.
  const tree = held.text === text ? held.tree : readTree(filter);
  if (held.text !== text) setHeld({ tree, text });
  const [edited, setEdited] = useState<ConditionPart>();
  const [message, setNote] = useState('');
  const around = useRef<HTMLDivElement>(null);
  const focus = useRef<ConditionPart>(undefined);
  const put = (next: ConditionBranch): void => {
    const written = writeTree(next);
    setHeld({ tree: next, text: textOf(written) });
    if (textOf(written) !== text) change(written);
  };
  // What was moved by a key keeps the keyboard.
  useEffect(() => {
    const path = focus.current && pathOf(tree, focus.current);
    focus.current = undefined;
    if (path === undefined) return;
    around.current?.querySelector<HTMLElement>(`[data-path="${path.join('.')}"]`)?.focus();
  });
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 4 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 150, tolerance: 6 } }),
  );
  const move = (from: PartPath, to: PartPath, what: string): void => {
    const next = movedTo(tree, from, to);
    if (next === tree) return;
    put(next);
    setNote(messages.moved(what));
  };
  const actions: BuilderActions = {
    messages,
    edited,
    edit: setEdited,
    replace: (path, part) => {
      put(path.length === 0 ? (part as ConditionBranch) : replaced(tree, path, part));
      setEdited(undefined);
    },
    add: (path, part, editing) => {
      put(inserted(tree, path, part));
      if (editing) setEdited(part);
    },
    step: (path, by, what) => {
      const places = placesIn(tree);
      const at = places.findIndex((one) => one.join() === path.join());
      const ahead = by > 0 ? places.slice(at + 1) : places.slice(0, at).reverse();
      // Places next to the part, or within it, change nothing.
      const shape = JSON.stringify(tree);
      const to = ahead.find((one) => JSON.stringify(movedTo(tree, path, one)) !== shape);
      if (to === undefined) return;
      focus.current = partAt(tree, path);
      move(path, to, what);
    },
  };
  return (
    <BuilderContext.Provider value={actions}>
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        onDragEnd={({ active, over }) => {
          if (over === null) return;
          const what = String(active.data.current?.what ?? '');
          move(pathFrom(active.id), pathFrom(over.id), what);
        }}
      >
        <div ref={around}>
          <BuilderBranch branch={tree} path={[]} />
        </div>
        <span className="eph-unseen" aria-live="polite">
          {message}
        </span>
      </DndContext>
    </BuilderContext.Provider>
  );
}

function pathFrom(id: string | number): PartPath {
  const text = String(id).slice(1);
  return text === '' ? [] : text.split('.').map(Number);
}

/** Where a part stands by now. */
function pathOf(tree: ConditionPart, sought: ConditionPart): PartPath | undefined {
  for (const [index, part] of partsIn(tree).entries()) {
    if (part === sought) return [index];
    const within = pathOf(part, sought);
    if (within !== undefined) return [index, ...within];
  }
  return undefined;
}
