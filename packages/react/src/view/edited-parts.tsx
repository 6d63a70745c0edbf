import { catalogOf, type Change, type Row } from '@ephoros/client';
import {
  createContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
  type ReactElement,
  type ReactNode,
} from 'react';
import type { CellActions, Edited } from '../editing/index.ts';
import { Later, useLater } from '../later.ts';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { useDraftsState } from '../records/use-drafts.ts';
import type { RecordTableProps } from '../table/record-table-props.ts';
import { rowAt } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { useLatest } from '../use-latest.ts';
import { useSheet } from './sheet-context.ts';

/** Loaded with the first table that can be edited. */
const editingPart = new Later(() => import('../editing/index.ts'));

/** Something that can be done with a row. */
interface RowOffer {
  readonly text: string;
  readonly choose: () => void;
}

/** What is done with cells to change them. */
export interface CellEditing {
  readonly marksOf: RecordTableProps['marksOf'];
  readonly edited: RecordTableProps['edited'];
  /** A key on a cell; true where it has changed something, or begun to. */
  readonly onKey: (key: string, event: KeyboardEvent, column: string, position: number) => boolean;
  /** What can be done with a row, or with the selected rows, by its place. */
  readonly offers: (position: number) => readonly RowOffer[];
  /** Begins to change a cell; false where it may not be. */
  readonly begin: (position: number, column: string) => boolean;
  readonly onPaste: (event: ClipboardEvent) => void;
  /** What stands in the foot. */
  readonly line: ReactElement;
}

/** Undefined where nothing can be changed. */
export const EditingContext = createContext<CellEditing | undefined>(undefined);

interface EditedPartsProps {
  readonly children: ReactNode;
  readonly onDraftsChange: ((changes: readonly Change[]) => void) | undefined;
}

/** The parts of a table, of which some change its cells and others tell of it. */
export function EditedParts(props: EditedPartsProps): ReactElement {
  const { children } = props;
  const { drafts } = useRowsOf();
  const state = useDraftsState(drafts);
  const notify = useLatest(props.onDraftsChange);
  useEffect(() => {
    if (state !== undefined) notify(drafts?.changes() ?? []);
  }, [state, drafts, notify]);
  return <EditingContext.Provider value={useEditing()}>{children}</EditingContext.Provider>;
}

function useEditing(): CellEditing | undefined {
  const records = useRowsOf();
  const { drafts, table } = records;
  const { reader, column: columnNamed, columns } = useModel();
  const { handle, client, saving, editors, drawn } = useSheet();
  const state = useDraftsState(drafts);
  const part = useLater(editingPart, drafts !== undefined);
  const words = useAnswer(drafts === undefined ? undefined : reader.messages.editing);
  const [edited, setEdited] = useState<Edited>();
  const [note, setNote] = useState('');
  const [below, setBelow] = useState<readonly Row[]>([]);
  const left = useRef<string>(undefined);
  const messages = words.state === 'ready' ? words.result : undefined;
  const parts = part.state === 'ready' ? part.result : undefined;
  const marks = useMemo(
    () =>
      state === undefined || messages === undefined || parts === undefined
        ? undefined
        : parts.marksOf(state, [...table.columns, ...columns], reader, messages),
    [state, messages, parts, table, columns, reader],
  );
  const marksOf = useMemo<RecordTableProps['marksOf']>(() => {
    if (marks === undefined || drafts === undefined || marks.size === 0) return undefined;
    return (row) => marks.get(drafts.idOf(row) ?? '');
  }, [marks, drafts]);
  useLeaveWarning(state !== undefined && state.rows.length > 0);
  // What references lead to is known before one of them is changed.
  const name = drafts?.table.name;
  useEffect(() => {
    if (client === undefined || name === undefined) return;
    catalogOf(client)
      .around(name, 1)
      .catch(() => undefined);
  }, [client, name]);
  useTakenOnLeaving(edited !== undefined);
  const made =
    drafts !== undefined && messages !== undefined && parts !== undefined
      ? (): CellActions =>
          new parts.CellActions({
            drafts,
            records,
            client,
            columnNamed,
            drawn: drawn.columns.map((one) => one.name),
            handle: handle.current,
            saving,
            reader,
            messages,
            setEdited,
            setNote,
            setBelow,
            left,
          })
      : undefined;
  useSaveKey(
    made !== undefined,
    useLatest(() => {
      // What is being typed is taken first.
      if (edited !== undefined) takeTyped();
      made?.().save();
    }),
  );
  if (
    drafts === undefined ||
    state === undefined ||
    messages === undefined ||
    parts === undefined
  ) {
    return undefined;
  }
  const actions = made ?? neverMade;
  const now = edited && parts.editedNow(edited, { drafts, records });
  const field = edited !== undefined && now !== undefined && (
    <parts.EditedCell
      written={edited.written}
      typed={edited.typed}
      row={now.row}
      reference={parts.referenceOf(edited.written, table, client)}
      own={editors.get(edited.column) ?? editors.get(edited.written.name)}
      reader={reader}
      messages={messages}
      put={(column, value, labels) => actions().put(now.row, column, value, labels)}
      end={(way) => actions().end(way)}
    />
  );
  return {
    marksOf,
    edited: edited && now && { position: now.position, column: edited.column, content: field },
    onKey: (...pressed) => actions().key(...pressed),
    offers: (position) => {
      const row = rowAt(records.source, position);
      if (table.changes?.remove !== true || row === undefined) return [];
      const { selection } = records;
      const count = selection.has(row) ? (selection.count ?? 1) : 1;
      const struck = drafts.of(row)?.kind === 'struck';
      const text = struck
        ? messages.restoreRow
        : messages.removeRows(count, count.toLocaleString(reader.locale));
      return [{ text, choose: () => actions().remove(position) }];
    },
    begin: (position, column) => actions().begin(position, column),
    onPaste: (event) => {
      const isGrid = (event.target as Element).matches('[role=grid], [role=treegrid]');
      const text = event.clipboardData.getData('text/plain');
      if (isGrid && actions().paste(text)) event.preventDefault();
    },
    line: (
      <parts.DraftLine
        drafts={drafts}
        state={state}
        messages={messages}
        note={note}
        below={below}
        setBelow={setBelow}
        client={client}
        adds={table.changes?.add === true}
        actions={actions}
      />
    ),
  };
}

function neverMade(): never {
  throw new Error('what edits cells is there once it is loaded');
}

/** Has the field that is being typed into give its value: it does as it is left. */
function takeTyped(): void {
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
}

/** Control S saves wherever the focus is. */
function useSaveKey(editable: boolean, save: () => void): void {
  useEffect(() => {
    if (!editable) return undefined;
    const press = (event: globalThis.KeyboardEvent): void => {
      const isSave = (event.ctrlKey || event.metaKey) && !event.altKey && !event.shiftKey;
      if (!isSave || event.key.toLowerCase() !== 's' || event.defaultPrevented) return;
      event.preventDefault();
      save();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [editable, save]);
}

/** What is being typed is a draft, and stored, before the page goes. */
function useTakenOnLeaving(typing: boolean): void {
  useEffect(() => {
    if (!typing) return undefined;
    window.addEventListener('pagehide', takeTyped);
    window.addEventListener('beforeunload', takeTyped);
    return () => {
      window.removeEventListener('pagehide', takeTyped);
      window.removeEventListener('beforeunload', takeTyped);
    };
  }, [typing]);
}

/** Has the browser ask before the page is left with something unsaved. */
function useLeaveWarning(unsaved: boolean): void {
  useEffect(() => {
    if (!unsaved) return undefined;
    const request = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', request);
    return () => window.removeEventListener('beforeunload', request);
  }, [unsaved]);
}
