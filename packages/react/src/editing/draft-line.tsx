import { catalogOf, type ChangeOutcome, type Row } from '@ephoros/client';
import type { FollowingRows } from '@ephoros/core/change';
import type { Drafts, DraftsState, RowDraft, SavedSet } from '@ephoros/client/drafts';
import { useMemo, useState, type ComponentProps, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import { Later, useLater } from '../later.ts';
import { formatValue, plainText } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { Pop } from '../parts/pop.tsx';
import { useCount, useModel, useRowsOf } from '../parts/table-context.ts';
import type { RequestClient } from '../records/request-client.ts';
import type { ImportForm } from './import-form.tsx';
import { useAnswer } from '../use-answer.ts';
import type { CellActions } from './cell-actions.ts';
import { countUnmatched } from './chosen-rows.ts';
import { SetSelected } from './set-selected.tsx';

/** Loaded with the first history that is opened. */
const historyList = new Later(() => import('./history-list.tsx'));

/** Loaded with the first file. */
const importForm = new Later(() => import('./import-form.tsx'));

interface DraftLineProps {
  readonly drafts: Drafts;
  readonly state: DraftsState;
  readonly messages: EditingMessages;
  /** What could not be done with what was pasted. */
  readonly note: string;
  /** Rows that were pasted past the last one. */
  readonly below: readonly Row[];
  readonly setBelow: (rows: readonly Row[]) => void;
  /** Who saves what is set in all selected rows. */
  readonly client: RequestClient | undefined;
  /** Whether rows can be added. */
  readonly adds: boolean;
  readonly actions: () => CellActions;
}

/** What waits to be saved, and what is to be done with it. Says nothing where nothing does. */
export function DraftLine(props: DraftLineProps): ReactElement {
  const { drafts, state, messages, note, below, setBelow, adds, actions, client } = props;
  const { selection, table } = useRowsOf();
  const selected = selection.chosen.kind === 'matching' || selection.keys.length > 0;
  const count = useCount();
  const { translate: notify } = useModel().reader.messages;
  const { rows, changes, problems, conflicts, status, error, fromOtherPages } = state;
  const some = rows.length > 0;
  const errors = [...problems.values()].reduce((sum, { length }) => sum + length, 0);
  return (
    <>
      {adds && (
        <button type="button" className="eph-offer" onClick={() => actions().addRow()}>
          {messages.addRow}
        </button>
      )}
      {adds && (
        <Pop className="eph-offer" text={messages.importRows} label={messages.importRows}>
          {(_editors, close) => (
            <FromFile drafts={drafts} client={client} messages={messages} close={close} />
          )}
        </Pop>
      )}
      {client !== undefined && selected && table.changes?.remove === true && (
        <button type="button" className="eph-offer" onClick={() => void actions().removeSelected()}>
          {messages.removeRows(selection.count ?? 0, count(selection.count ?? 0))}
        </button>
      )}
      {client !== undefined && selected && table.changes?.change === true && (
        <Pop className="eph-offer" text={messages.setSelected} label={messages.setSelected}>
          {(_editors, close) => <SetSelected client={client} messages={messages} close={close} />}
        </Pop>
      )}
      {client !== undefined && (
        <Pop className="eph-offer" text={messages.history} label={messages.history}>
          {() => <TableHistory client={client} messages={messages} />}
        </Pop>
      )}
      {(some ||
        note !== '' ||
        below.length > 0 ||
        state.canUndo ||
        state.canRedo ||
        state.saved !== undefined) && (
        <div className="eph-drafts" role="group" aria-label={messages.list}>
          {note !== '' && <span role="status">{note}</span>}
          {below.length > 0 && (
            <button
              type="button"
              className="eph-offer"
              onClick={() => {
                drafts.addAll(below);
                setBelow([]);
              }}
            >
              {messages.addPasted(below.length, count(below.length))}
            </button>
          )}
          {some && (
            <>
              <span role="status">
                {messages.waiting(changes, count(changes), rows.length, count(rows.length))}
                {errors > 0 && (
                  <em className="eph-trouble">, {messages.errors(errors, count(errors))}</em>
                )}
                {conflicts.size > 0 && (
                  <em className="eph-trouble">
                    , {messages.changedByOthers(conflicts.size, count(conflicts.size))}
                  </em>
                )}
                <FollowingNote {...props} />
                {fromOtherPages > 0 && (
                  <>, {messages.fromOtherTabs(fromOtherPages, count(fromOtherPages))}</>
                )}
              </span>
              <button
                type="button"
                className="eph-retry eph-save"
                disabled={status === 'saving'}
                onClick={() => actions().save()}
              >
                {status === 'saving' ? messages.saving : messages.save}
              </button>
              <Pop className="eph-offer" text={messages.review} label={messages.list}>
                {(_editors, close) => (
                  <ul className="eph-draft-list">
                    {errorsFirst(rows, state).map((draft) => (
                      <DraftEntry key={draft.id} {...props} draft={draft} close={close} />
                    ))}
                  </ul>
                )}
              </Pop>
              <button type="button" className="eph-offer" onClick={() => drafts.drop()}>
                {messages.drop}
              </button>
            </>
          )}
          {state.canUndo && (
            <button type="button" className="eph-offer" onClick={drafts.undo}>
              {messages.undo}
            </button>
          )}
          {state.canRedo && (
            <button type="button" className="eph-offer" onClick={drafts.redo}>
              {messages.redo}
            </button>
          )}
          {!some && state.saved !== undefined && (
            <SavedNote {...props} saved={state.saved} key={state.saved.id ?? ''} />
          )}
          {state.storage === 'full' && some && (
            <span role="alert" className="eph-trouble">
              {messages.notStored}
            </span>
          )}
          {status === 'waiting' && <span role="alert">{messages.savedAgain}</span>}
          {status !== 'waiting' && error !== undefined && (
            <span role="alert" className="eph-trouble">
              {notify(error.message)}
            </span>
          )}
        </div>
      )}
    </>
  );
}

/** Removals that are tried to find out what goes with them, at most. */
const mostTried = 500;

/** What the database will remove or change with the rows that are removed, before that is saved. */
function FollowingNote({ client, drafts, state, messages }: DraftLineProps): ReactElement | null {
  const { table } = useRowsOf();
  const count = useCount();
  const isReferred = table.relationships.some(({ kind }) => kind === 'many');
  const struck = state.rows.filter(({ kind }) => kind === 'struck').map(({ id }) => id);
  const path = isReferred && struck.length <= mostTried ? struck.join('\n') : '';
  const query = useMemo(() => {
    const changes = client?.changes;
    if (path === '' || client === undefined || changes === undefined) return undefined;
    return async (signal: AbortSignal) => {
      const removals = drafts.changes().filter(({ kind }) => kind === 'remove');
      const options = { table: table.name, dryRun: true };
      const { outcomes } = await changes.save(removals, options, signal);
      return Promise.all(
        followingIn(outcomes).map(async (one) => {
          const other = await catalogOf(client).describe(one.table);
          return { ...one, title: other.title };
        }),
      );
    };
  }, [path, client, drafts, table.name]);
  const answer = useAnswer(query);
  if (answer.state !== 'ready') return null;
  return (
    <>
      {answer.result.map(({ table: other, title, kind, count: rows }) => (
        <em key={`${kind} ${other}`} className="eph-trouble">
          , {messages.follows(kind, rows, count(rows), title)}
        </em>
      ))}
    </>
  );
}

/** How many rows of each table follow, of all changes together. */
function followingIn(outcomes: readonly ChangeOutcome[]): readonly FollowingRows[] {
  const sums = new Map<string, FollowingRows>();
  for (const outcome of outcomes) {
    const follows = outcome.kind === 'done' && 'follows' in outcome ? outcome.follows : undefined;
    for (const one of follows ?? []) {
      const same = `${one.kind} ${one.table}`;
      sums.set(same, { ...one, count: one.count + (sums.get(same)?.count ?? 0) });
    }
  }
  return [...sums.values()];
}

/** Rows with something wrong before the others. */
function errorsFirst(
  rows: readonly RowDraft[],
  { problems, conflicts }: DraftsState,
): readonly RowDraft[] {
  const isWrong = ({ id }: RowDraft): boolean => problems.has(id) || conflicts.has(id);
  return [...rows.filter(isWrong), ...rows.filter((one) => !isWrong(one))];
}

interface SavedNoteProps extends DraftLineProps {
  readonly saved: SavedSet;
}

/** What was saved, whether the filter still matches it, and a way back. */
function SavedNote({
  saved,
  messages,
  client,
  actions,
  note,
}: SavedNoteProps): ReactElement | null {
  const { table, match } = useRowsOf();
  const count = useCount();
  const { id, rows, keys } = saved;
  const [where] = useState(match);
  const query = useMemo(
    () =>
      client === undefined || keys.length > mostCounted
        ? undefined
        : () => countUnmatched(client, table.name, keys, where),
    [client, table.name, keys, where],
  );
  const answer = useAnswer(query);
  const unmatched = answer.state === 'ready' ? answer.result : 0;
  // What was undone says so itself.
  if (note !== '') return null;
  return (
    <>
      <span role="status">
        {messages.savedRows(rows, count(rows))}
        {unmatched > 0 && <>, {messages.unmatched(unmatched, count(unmatched))}</>}
      </span>
      {id !== null && (
        <button type="button" className="eph-offer" onClick={() => actions().undoSaved(id)}>
          {messages.undo}
        </button>
      )}
    </>
  );
}

/** Saved rows that are held against the filter at most. */
const mostCounted = 500;

/** The history of the table, by what is loaded when it is first opened. */
function TableHistory({
  client,
  messages,
}: {
  readonly client: RequestClient;
  readonly messages: EditingMessages;
}): ReactElement {
  const { table, refresh } = useRowsOf();
  const { reader } = useModel();
  const part = useLater(historyList, true);
  if (part.state !== 'ready') return <Unanswered answer={part} what={reader.messages.loading} />;
  return (
    <part.result.HistoryList
      client={client}
      table={table}
      reader={reader}
      messages={messages}
      onUndone={refresh}
    />
  );
}

/** Rows of a file, by what is loaded with the first of them. */
function FromFile(props: ComponentProps<typeof ImportForm>): ReactElement {
  const { loading } = useModel().reader.messages;
  const part = useLater(importForm, true);
  if (part.state === 'ready') return <part.result.ImportForm {...props} />;
  return <Unanswered answer={part} what={loading} />;
}

interface DraftEntryProps extends DraftLineProps {
  readonly draft: RowDraft;
  readonly close: () => void;
}

/** One row that waits: what it was and will be, what is wrong, whose value it shall have. */
function DraftEntry({
  draft,
  drafts,
  state,
  messages,
  actions,
  close,
}: DraftEntryProps): ReactElement {
  const { column: columnNamed, reader } = useModel();
  const { translate: notify } = reader.messages;
  const { id, kind, observed, values } = draft;
  const conflict = state.conflicts.get(id);
  const problems = state.problems.get(id) ?? [];
  const label = (name: string): string => columnNamed(name)?.label ?? name;
  const written = (name: string, value: RowDraft['values'][string] | undefined): string => {
    const column = columnNamed(name);
    return column === undefined
      ? plainText(value ?? null)
      : formatValue(value ?? null, column, reader).text;
  };
  return (
    <li data-draft={kind}>
      <p>
        <strong>{kind === 'added' ? messages.newRow : decodeURIComponent(id)}</strong>{' '}
        {kind === 'struck' && <em>{messages.struck}</em>}
        <button
          type="button"
          className="eph-offer"
          onClick={() => {
            close();
            actions().goTo(id);
          }}
        >
          {messages.goTo}
        </button>
        <button type="button" className="eph-offer" onClick={() => drafts.drop([id])}>
          {messages.drop}
        </button>
      </p>
      <dl>
        {Object.entries(values).map(([name, value]) => {
          const wrong = problems.filter((one) => one.column === name);
          const contested = conflict?.columns.includes(name) === true;
          return (
            <div key={name}>
              <dt>{label(name)}</dt>
              <dd>
                {kind === 'changed' && (
                  <del className="eph-before">{written(name, observed[name])}</del>
                )}
                <ins>{written(name, value)}</ins>
                {contested && conflict.now !== null && (
                  <>
                    <span className="eph-theirs">{written(name, conflict.now[name])}</span>
                    <button
                      type="button"
                      className="eph-offer"
                      onClick={() => drafts.resolve(id, 'mine', name)}
                    >
                      {messages.mine}
                    </button>
                    <button
                      type="button"
                      className="eph-offer"
                      onClick={() => drafts.resolve(id, 'theirs', name)}
                    >
                      {messages.theirs}
                    </button>
                  </>
                )}
                {wrong.map(({ code, message }) => (
                  <span key={code} className="eph-trouble">
                    {notify(message)}
                  </span>
                ))}
              </dd>
            </div>
          );
        })}
      </dl>
      {problems
        .filter(({ column }) => column === undefined || !Object.hasOwn(values, column))
        .map(({ code, column, message }) => (
          <p key={`${column ?? ''} ${code}`} className="eph-trouble">
            {notify(message)}
          </p>
        ))}
      {conflict !== undefined && (conflict.now === null || kind === 'struck') && (
        <p className="eph-trouble">
          {conflict.now === null
            ? messages.gone
            : conflict.columns
                .map((name) => `${label(name)}: ${written(name, conflict.now?.[name])}`)
                .join(', ')}{' '}
          {conflict.now !== null && (
            <button type="button" className="eph-offer" onClick={() => drafts.resolve(id, 'mine')}>
              {messages.mine}
            </button>
          )}
          <button type="button" className="eph-offer" onClick={() => drafts.resolve(id, 'theirs')}>
            {conflict.now === null ? messages.letGo : messages.theirs}
          </button>
        </p>
      )}
    </li>
  );
}
