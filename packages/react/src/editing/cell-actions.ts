import type { Row, Value } from '@ephoros/client';
import { isNew, type Drafts } from '@ephoros/client/drafts';
import type { ColumnDescription } from '@ephoros/core/schema';
import type { KeyboardEvent } from 'react';
import type { FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import type { RequestClient } from '../records/request-client.ts';
import type { Drawn } from '../records/use-records.ts';
import type { TableHandle } from '../table/record-table-props.ts';
import { groupsAt, isOutline, rowAt } from '../table/row-at.ts';
import type { Way } from './cell-editor.tsx';
import { mostRemoved, readChosen } from './chosen-rows.ts';
import { cellsIn } from './table-text.ts';
import { valueTyped } from './value-text.ts';

/** A cell that is being changed. */
export interface Edited {
  readonly position: number;
  /** As it is shown, and as it is written: a reference is shown by a name. */
  readonly column: string;
  readonly written: ColumnDescription;
  readonly row: Row;
  /** What was typed to begin with. */
  readonly typed: string | undefined;
}

/** What cells are changed in. */
export interface CellActionOptions {
  readonly drafts: Drafts;
  readonly records: Drawn;
  /** Loads the rows that are selected and not in memory. */
  readonly client: RequestClient | undefined;
  /** A column as it is defined. */
  readonly columnNamed: (name: string) => ColumnDescription | undefined;
  /** Names of the columns as they are drawn, the margin's among them. */
  readonly drawn: readonly string[];
  readonly handle: TableHandle | null;
  readonly saving: 'together' | 'row' | 'cell';
  readonly reader: FullReader;
  readonly messages: EditingMessages;
  readonly setEdited: (edited: Edited | undefined) => void;
  readonly setNote: (note: string) => void;
  /** Rows that were pasted past the last one, to be added where that is wanted. */
  readonly setBelow: (rows: readonly Row[]) => void;
  /** The row that was changed last, where each is saved as one leaves it. */
  readonly left: { current: string | undefined };
}

const ways: Readonly<Record<Way, readonly [rows: number, columns: number]>> = {
  stay: [0, 0],
  down: [1, 0],
  up: [-1, 0],
  next: [0, 1],
  previous: [0, -1],
};

/** What keys, presses and the clipboard do to cells. */
export class CellActions {
  private readonly options: CellActionOptions;

  constructor(options: CellActionOptions) {
    this.options = options;
  }

  /** Whether new rows can be added. */
  get addsRows(): boolean {
    return this.options.records.table.changes?.add === true;
  }

  /** A key on a cell; true where it has changed something, or begun to. */
  key(key: string, event: KeyboardEvent, name: string, position: number): boolean {
    const { drafts } = this.options;
    const row = this.rowAt(position);
    if (row === undefined) return false;
    this.leaveFor(row);
    if ((event.ctrlKey || event.metaKey) && !event.altKey) {
      return this.command(key.toLowerCase(), event.shiftKey);
    }
    switch (key) {
      case 'Enter':
      case 'F2':
        return this.begin(position, name);
      case 'Delete':
        return this.remove(position);
      case 'Insert':
        if (this.addsRows) this.addRow();
        return this.addsRows;
      case 'Backspace': {
        const column = this.writtenFor(name, row);
        if (column === undefined || drafts.of(row)?.kind === 'struck') return false;
        const { shownAs } = column;
        this.put(row, column.name, null, shownAs === undefined ? undefined : { [shownAs]: null });
        return true;
      }
      default: {
        // What can be typed begins the cell; a question mark shows the keys, a blank selects.
        const types = [...key].length === 1 && key !== ' ' && key !== '?' && !event.altKey;
        return types && this.begin(position, name, key);
      }
    }
  }

  private command(key: string, shifted: boolean): boolean {
    const { drafts } = this.options;
    switch (key) {
      case 'z':
        if (shifted) drafts.redo();
        else this.undo();
        return true;
      case 'y':
        drafts.redo();
        return true;
      case 's':
        this.save();
        return true;
      case 'd':
        return this.fillDown();
      default:
        return false;
    }
  }

  /** Begins to change a cell; false where it may not be. */
  begin(position: number, column: string, typed?: string): boolean {
    const { drafts, handle, setNote, setEdited } = this.options;
    const row = this.rowAt(position);
    const written = row && this.writtenFor(column, row);
    if (row === undefined || written === undefined) return false;
    if (drafts.of(row)?.kind === 'struck') return false;
    setNote('');
    // The cell may have been scrolled away.
    handle?.goTo(position, true);
    setEdited({ position, column, written, row, typed });
    return true;
  }

  /** A new value of a cell, saved at once where that is how it is done. */
  put(row: Row, column: string, value: Value, labels?: Row): void {
    const { drafts, saving } = this.options;
    drafts.edit([{ row, column, value, ...(labels && { labels }) }]);
    if (saving === 'cell') this.save([row]);
    else this.leaveFor(row);
  }

  /** Ends the change of a cell, and goes on. */
  end(way: Way): void {
    const { handle, setEdited } = this.options;
    setEdited(undefined);
    const [rows, columns] = ways[way];
    if (way === 'stay') handle?.takeKeyboard();
    else handle?.move(rows, columns);
  }

  /** Saves; where that cannot be, goes to the first row that is in the way. */
  save(rows?: readonly (Row | string)[]): void {
    const { drafts } = this.options;
    void drafts.save(rows).then((done) => {
      if (done) return;
      const { rows: all, problems, conflicts } = drafts.state();
      const first = all.find(({ id }) => problems.has(id) || conflicts.has(id));
      if (first !== undefined) this.goTo(first.id);
    });
  }

  /** Undoes the last step; where there is none, what was saved last. */
  undo(): void {
    const { drafts } = this.options;
    const { canUndo, saved } = drafts.state();
    if (canUndo) drafts.undo();
    else if (saved?.id != null) this.undoSaved(saved.id);
  }

  /** Has the service undo a set of changes that was saved. */
  undoSaved(id: string): void {
    const { client, records, setNote, messages, reader } = this.options;
    client?.changes?.undo(id).then(
      ({ outcomes }) => {
        records.refresh();
        setNote(messages.undone(outcomes.length, outcomes.length.toLocaleString(reader.locale)));
      },
      (thrown: unknown) =>
        setNote(thrown instanceof Error ? reader.messages.translate(thrown.message) : ''),
    );
  }

  /** Begins a new row; in an outline with the values of the groups that the active cell lies in. */
  addRow(): void {
    const { drafts, records } = this.options;
    const id = drafts.add(this.groupValues());
    records.change({ place: undefined }, { passing: true });
    // As soon as it is drawn.
    requestAnimationFrame(() => this.goTo(id));
  }

  private groupValues(): Row {
    const { records, handle } = this.options;
    const { source, table, view } = records;
    const at = handle?.cells()?.firstRow;
    if (!isOutline(source) || at === undefined) return {};
    const values = groupsAt(source, at).flatMap(({ value }, depth): [string, Value][] => {
      // A part of a value, such as the year of a day, is no value of the column.
      const expression = view.group?.[depth]?.expression;
      const grouped = expression?.kind === 'property' ? expression.name : undefined;
      const column = table.columns.find(({ name }) => name === grouped);
      return column?.writing?.add === true ? [[column.name, value]] : [];
    });
    return Object.fromEntries(values);
  }

  goTo(id: string): void {
    const { records, handle } = this.options;
    const go = (): void => {
      const position = positionOf(id, this.options);
      if (position !== undefined) handle?.goTo(position);
    };
    // New rows stand on the first page.
    if (!isNew(id) || records.view.place === undefined) {
      go();
      return;
    }
    records.change({ place: undefined }, { passing: true });
    requestAnimationFrame(go);
  }

  /** A rectangle of cells from the clipboard, from the active one on; false where there is none. */
  paste(text: string): boolean {
    const { handle, drafts, drawn, setNote, setBelow, messages, reader } = this.options;
    const range = handle?.cells();
    if (range === undefined || text === '') return false;
    let left = 0;
    const lines = cellsIn(text);
    const below = this.linesBelow(lines, range.firstRow);
    const edits = lines.slice(0, lines.length - below.length).flatMap((texts, down) =>
      texts.flatMap((one, across) => {
        const row = this.rowAt(range.firstRow + down);
        const column = row && this.writtenFor(drawn[range.firstColumn + across] ?? '', row);
        // A name may be that of several rows: what it refers to is chosen.
        if (row === undefined || column === undefined || column.shownAs !== undefined) {
          left += 1;
          return [];
        }
        return [{ row, column: column.name, value: valueTyped(one, column, reader.timeZone) }];
      }),
    );
    drafts.edit(edits);
    setNote(left === 0 ? '' : messages.notPasted(left, left.toLocaleString(reader.locale)));
    setBelow(below.map((texts) => this.pastedRow(texts, range.firstColumn)));
    return true;
  }

  /** The lines that would be pasted past the last row. */
  private linesBelow(
    lines: readonly (readonly string[])[],
    firstRow: number,
  ): readonly (readonly string[])[] {
    const { total, open, source } = this.options.records;
    if (!this.addsRows || total === undefined || open || isOutline(source)) return [];
    return lines.slice(Math.max(0, total - firstRow));
  }

  /** A line of cells as the values of a new row. */
  private pastedRow(texts: readonly string[], firstColumn: number): Row {
    const { drawn, records, columnNamed, reader } = this.options;
    const values = texts.flatMap((text, across): [string, Value][] => {
      const name = drawn[firstColumn + across];
      const known = records.table.columns.find((one) => one.name === name);
      if (known?.writing?.add !== true || known.shownAs !== undefined) return [];
      const column = columnNamed(known.name) ?? known;
      return [[column.name, valueTyped(text, column, reader.timeZone)]];
    });
    return Object.fromEntries(values);
  }

  /** The values of the first of the marked rows, in all of them. */
  private fillDown(): boolean {
    const { handle, drafts, drawn } = this.options;
    const range = handle?.cells();
    const first = range && this.rowAt(range.firstRow);
    if (range === undefined || first === undefined || range.firstRow === range.lastRow)
      return false;
    const rows = Array.from({ length: range.lastRow - range.firstRow }, (_, index) =>
      this.rowAt(range.firstRow + 1 + index),
    );
    drafts.edit(
      drawn.slice(range.firstColumn, range.lastColumn + 1).flatMap((name) => {
        const column = this.writtenFor(name, first);
        if (column === undefined) return [];
        const { shownAs } = column;
        const labels = shownAs === undefined ? {} : { [shownAs]: first[shownAs] ?? null };
        const value = first[column.name] ?? null;
        return rows.flatMap((row) =>
          row === undefined || this.writtenFor(name, row) === undefined
            ? []
            : [{ row, column: column.name, value, labels }],
        );
      }),
    );
    return true;
  }

  /** Removes the selected rows, where the row of the cell is one of them; else the marked ones. */
  remove(position: number): boolean {
    const { records } = this.options;
    const row = this.rowAt(position);
    if (row === undefined || !records.selection.has(row)) return this.strike(position);
    if (records.table.changes?.remove === true) void this.removeSelected();
    return records.table.changes?.remove === true;
  }

  /** Strikes all selected rows, also those that are not loaded, until that is saved. */
  async removeSelected(): Promise<void> {
    const { drafts, records, client, setNote, messages, reader } = this.options;
    const { selection } = records;
    if (client === undefined) return;
    try {
      const rows = await readChosen(client, records, selection.chosen);
      if (rows === undefined) {
        setNote(messages.tooManyToRemove(mostRemoved.toLocaleString(reader.locale)));
        return;
      }
      drafts.strike(rows.filter((row) => drafts.of(row)?.kind !== 'struck'));
      selection.clear();
    } catch (thrown) {
      setNote(thrown instanceof Error ? reader.messages.translate(thrown.message) : '');
    }
  }

  /** Strikes the marked rows, or the one of the active cell. */
  private strike(position: number): boolean {
    const { drafts, records, handle } = this.options;
    const { firstRow = position, lastRow = position } = handle?.cells() ?? {};
    const rows: Row[] = [];
    for (let at = firstRow; at <= lastRow; at += 1) {
      const row = this.rowAt(at);
      if (row === undefined) continue;
      const may = records.table.changes?.remove === true || drafts.of(row)?.kind === 'added';
      if (may) rows.push(row);
    }
    if (rows.length > 0) drafts.strike(rows);
    return rows.length > 0;
  }

  /** Where each row is saved for itself, going to another one saves it. */
  private leaveFor(row: Row): void {
    const { drafts, saving, left } = this.options;
    const id = drafts.idOf(row);
    const last = left.current;
    left.current = id;
    if (saving !== 'row' || last === undefined || last === id) return;
    if (drafts.of(last) !== undefined) this.save([last]);
  }

  /** The column that is written where one is shown; undefined where it may not be. */
  private writtenFor(name: string, row: Row): ColumnDescription | undefined {
    const { drafts, records, columnNamed } = this.options;
    const { columns } = records.table;
    const known = columns.find((one) => one.name === name || one.shownAs === name);
    const action = drafts.of(row)?.kind === 'added' ? 'add' : 'change';
    return known?.writing?.[action] === true ? (columnNamed(known.name) ?? known) : undefined;
  }

  private rowAt(position: number): Row | undefined {
    return rowAt(this.options.records.source, position);
  }
}

/** Where the row of a draft lies, as far as that is in view. */
function positionOf(
  id: string,
  { drafts, records }: Pick<CellActionOptions, 'drafts' | 'records'>,
): number | undefined {
  const added = drafts.state().rows.filter(({ kind }) => kind === 'added');
  const fresh = added.findIndex((one) => one.id === id);
  if (fresh !== -1) return fresh;
  const { from, to } = records.window;
  for (let position = from; position < to; position += 1) {
    const row = rowAt(records.source, position);
    if (row !== undefined && drafts.idOf(row) === id) return position;
  }
  return undefined;
}

/** Where the row of the cell that is being changed lies by now, and what it is. */
export function editedNow(
  { position, row }: Edited,
  options: Pick<CellActionOptions, 'drafts' | 'records'>,
): { readonly position: number; readonly row: Row } | undefined {
  const { drafts, records } = options;
  const id = drafts.idOf(row);
  const there = rowAt(records.source, position);
  if (there !== undefined && drafts.idOf(there) === id) return { position, row: there };
  const at = id === undefined ? undefined : positionOf(id, options);
  const moved = at === undefined ? undefined : rowAt(records.source, at);
  return at === undefined || moved === undefined ? undefined : { position: at, row: moved };
}
