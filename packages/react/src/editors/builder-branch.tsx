import { useDraggable, useDroppable } from '@dnd-kit/core';
import {
  branch as makeBranch,
  type ConditionBranch,
  type ConditionHas,
  type ConditionPart,
  type Joining,
  type PartPath,
} from '@ephoros/core/query';
import { findColumn } from '@ephoros/core/schema';
import {
  useCallback,
  useId,
  useMemo,
  useState,
  type KeyboardEvent,
  type ReactElement,
} from 'react';
import { ModelContext, useModel, type TableModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { useNotice } from '../parts/use-notice.ts';
import { useBuilder } from './builder-context.ts';
import { TermForm } from './term-form.tsx';
import { Unanswered } from './unanswered.tsx';

interface BranchProps {
  readonly branch: ConditionBranch;
  readonly path: PartPath;
  /** What stands before its parts, where that is not how they are joined. */
  readonly of?: ConditionHas;
}

const joinings: readonly Joining[] = ['all', 'any', 'none'];

/** Conditions that are joined: each to be changed, moved and removed, and more to be added. */
export function BuilderBranch({ branch, path, of }: BranchProps): ReactElement {
  const { messages, replace, add } = useBuilder();
  const { table, other } = useModel();
  const [adding, setAdding] = useState<'term' | 'has'>();
  const end: PartPath = [...path, branch.parts.length];
  const many = table.relationships.filter(({ kind }) => kind === 'many');
  return (
    <fieldset className="eph-branch-box">
      <legend>
        <select
          className="eph-field"
          aria-label={messages.joining}
          value={branch.joining}
          onChange={({ target }) => {
            const next = { ...branch, joining: target.value as Joining };
            replace(path, of === undefined ? next : { ...of, branch: next });
          }}
        >
          {joinings.map((one) => (
            <option key={one} value={one}>
              {messages.joinings[one]}
            </option>
          ))}
        </select>
      </legend>
      {branch.parts.length === 0 && <p className="eph-aside">{messages.noTerms}</p>}
      <ul className="eph-plain-list">
        {branch.parts.map((part, index) => (
          // Parts have no name but their place.
          <li key={index}>
            <Slot path={[...path, index]} />
            <Part part={part} path={[...path, index]} />
          </li>
        ))}
        <li>
          <Slot path={end} />
        </li>
      </ul>
      {adding === 'term' && (
        <TermForm
          expression={undefined}
          apply={(expression) => {
            add(end, { kind: 'condition', expression }, false);
            setAdding(undefined);
          }}
          cancel={() => setAdding(undefined)}
        />
      )}
      {adding === 'has' && (
        <ul className="eph-plain-list" aria-label={messages.hasWhich}>
          {many.map(({ name }) => (
            <li key={name}>
              <button
                type="button"
                className="eph-line-button"
                onClick={() => {
                  add(
                    end,
                    { kind: 'has', relationship: name, branch: makeBranch('all', []) },
                    false,
                  );
                  setAdding(undefined);
                }}
              >
                {messages.has(name)}
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="eph-actions">
        <button type="button" className="eph-offer" onClick={() => setAdding('term')}>
          {messages.addTerm}
        </button>
        <button
          type="button"
          className="eph-offer"
          onClick={() => add(end, makeBranch('any', []), false)}
        >
          {messages.addBranch}
        </button>
        {many.length > 0 && other !== undefined && (
          <button type="button" className="eph-offer" onClick={() => setAdding('has')}>
            {messages.addHas}
          </button>
        )}
      </div>
    </fieldset>
  );
}

/** A place that a part can be drawn to. */
function Slot({ path }: { readonly path: PartPath }): ReactElement {
  const { setNodeRef, isOver, active } = useDroppable({ id: `>${path.join('.')}` });
  return (
    <div ref={setNodeRef} className="eph-slot" data-over={isOver} data-open={active !== null} />
  );
}

interface PartProps {
  readonly part: ConditionPart;
  readonly path: PartPath;
}

function Part({ part, path }: PartProps): ReactElement {
  const { messages, edited, edit, replace, step } = useBuilder();
  const say = useNotice();
  const id = useId();
  const what =
    part.kind === 'condition'
      ? say(part.expression)
      : part.kind === 'has'
        ? messages.has(part.relationship)
        : messages.joinings[part.joining];
  const { listeners, setNodeRef, isDragging, transform } = useDraggable({
    id: `<${path.join('.')}`,
    data: { what },
  });
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : undefined;
    if (!event.shiftKey || by === undefined) return;
    event.preventDefault();
    step(path, by, what);
  };
  return (
    <div
      ref={setNodeRef}
      className="eph-part"
      data-dragged={isDragging}
      style={
        transform === null
          ? undefined
          : { transform: `translate(${transform.x}px, ${transform.y}px)` }
      }
    >
      <button
        type="button"
        {...listeners}
        className="eph-handle"
        data-path={path.join('.')}
        aria-label={messages.place(what)}
        title={messages.moveHint}
        onKeyDown={onKeyDown}
      />
      <div className="eph-part-body" id={id}>
        {part.kind === 'branch' ? (
          <BuilderBranch branch={part} path={path} />
        ) : part.kind === 'has' ? (
          <BuilderHas has={part} path={path} />
        ) : edited === part ? (
          <TermForm
            expression={part.expression}
            apply={(expression) => replace(path, { kind: 'condition', expression })}
            cancel={() => edit(undefined)}
          />
        ) : (
          <button
            type="button"
            className="eph-phrase"
            title={messages.change}
            onClick={() => edit(part)}
          >
            {what}
          </button>
        )}
      </div>
      <button
        type="button"
        className="eph-drop"
        aria-label={messages.remove(what)}
        onClick={() => replace(path, undefined)}
      >
        ×
      </button>
    </div>
  );
}

interface BuilderHasProps {
  readonly has: ConditionHas;
  readonly path: PartPath;
}

/** That rows of another table refer to the row: what is stated about them is about that table. */
function BuilderHas({ has, path }: BuilderHasProps): ReactElement {
  const { messages: words } = useBuilder();
  const model = useModel();
  const { messages } = model.reader;
  const { other } = model;
  const table = model.table.relationships.find(({ name }) => name === has.relationship)?.table;
  const request = useCallback(async () => {
    if (table === undefined || other === undefined) throw new Error(messages.notShown);
    return other(table);
  }, [table, other, messages]);
  const answer = useAnswer(request);
  const known = answer.state === 'ready' ? answer.result : undefined;
  const within = useMemo((): TableModel | undefined => {
    if (known === undefined) return undefined;
    const { filter: _filter, ...view } = model.view;
    return {
      ...model,
      table: known.table,
      columns: known.table.columns,
      column: (name) => {
        const found = findColumn(name, known.table, () => undefined);
        return 'own' in found ? found : undefined;
      },
      request: known.request,
      describe: undefined,
      match: {},
      view,
    };
  }, [model, known]);
  return (
    <>
      <p className="eph-has">{words.has(known?.table.title ?? has.relationship)}</p>
      {answer.state !== 'ready' && <Unanswered answer={answer} what={messages.loading} />}
      {within !== undefined && (
        <ModelContext.Provider value={within}>
          <BuilderBranch branch={has.branch} path={path} of={has} />
        </ModelContext.Provider>
      )}
    </>
  );
}
