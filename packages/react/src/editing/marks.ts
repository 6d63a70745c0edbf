import type { Value } from '@ephoros/client';
import type { DraftsState } from '@ephoros/client/drafts';
import type { ColumnDescription } from '@ephoros/core/schema';
import { formatValue, type FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import type { CellMark, RowMarks } from '../table/draft-marks.tsx';

/** How drafted rows and cells are marked, by the id of their row. */
export function marksOf(
  { rows, problems, conflicts }: DraftsState,
  columns: readonly ColumnDescription[],
  reader: FullReader,
  messages: EditingMessages,
): ReadonlyMap<string, RowMarks> {
  const written = (value: Value, column: ColumnDescription): string =>
    formatValue(value, column, reader).text;
  /** A reference is read by its label. */
  const readAs = (name: string): readonly string[] => {
    const { shownAs } = columns.find((one) => one.name === name) ?? {};
    return shownAs === undefined ? [name] : [name, shownAs];
  };
  return new Map(
    rows.map((draft) => {
      const { id, kind, observed, values } = draft;
      const cells: Record<string, CellMark> = {};
      const mark = (name: string, more: CellMark): void => {
        for (const one of readAs(name)) cells[one] = { ...cells[one], ...more };
      };
      const conflict = conflicts.get(id);
      for (const name of kind === 'changed' ? Object.keys(values) : []) {
        for (const one of readAs(name)) {
          const column = columns.find((other) => other.name === one);
          const known = one in observed || one === name;
          const before = column && known ? written(observed[one] ?? null, column) : undefined;
          cells[one] = { kind: 'changed', ...(before === undefined ? {} : { before }) };
        }
      }
      for (const name of conflict?.columns ?? []) {
        const column = columns.find((one) => one.name === name);
        const theirs = column && written(conflict?.now?.[name] ?? null, column);
        mark(name, { kind: 'conflict', ...(theirs === undefined ? {} : { theirs }) });
      }
      for (const { column, message } of problems.get(id) ?? []) {
        if (column !== undefined) mark(column, { kind: 'wrong', message: message });
      }
      const [loose] = (problems.get(id) ?? []).filter(({ column }) => column === undefined);
      const state =
        conflict?.now === null ? messages.gone : kind === 'struck' ? messages.struck : undefined;
      const text = loose?.message ?? state ?? (kind === 'added' ? messages.newRow : undefined);
      return [id, { kind, cells, ...(text === undefined ? {} : { message: text }) }];
    }),
  );
}
