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
  said: EditingMessages,
): ReadonlyMap<string, RowMarks> {
  const written = (value: Value, column: ColumnDescription): string =>
    formatValue(value, column, reader).text;
  /** A reference is seen by the name that it is shown as. */
  const seenAs = (name: string): readonly string[] => {
    const { shownAs } = columns.find((one) => one.name === name) ?? {};
    return shownAs === undefined ? [name] : [name, shownAs];
  };
  return new Map(
    rows.map((draft) => {
      const { id, kind, seen, values } = draft;
      const cells: Record<string, CellMark> = {};
      const mark = (name: string, more: CellMark): void => {
        for (const one of seenAs(name)) cells[one] = { ...cells[one], ...more };
      };
      const conflict = conflicts.get(id);
      for (const name of kind === 'changed' ? Object.keys(values) : []) {
        for (const one of seenAs(name)) {
          const column = columns.find((other) => other.name === one);
          const known = one in seen || one === name;
          const before = column && known ? written(seen[one] ?? null, column) : undefined;
          cells[one] = { kind: 'changed', ...(before === undefined ? {} : { before }) };
        }
      }
      for (const name of conflict?.columns ?? []) {
        const column = columns.find((one) => one.name === name);
        const theirs = column && written(conflict?.now?.[name] ?? null, column);
        mark(name, { kind: 'conflict', ...(theirs === undefined ? {} : { theirs }) });
      }
      for (const { column, message } of problems.get(id) ?? []) {
        if (column !== undefined) mark(column, { kind: 'wrong', told: message });
      }
      const [loose] = (problems.get(id) ?? []).filter(({ column }) => column === undefined);
      const state =
        conflict?.now === null ? said.gone : kind === 'struck' ? said.struck : undefined;
      const told = loose?.message ?? state ?? (kind === 'added' ? said.newRow : undefined);
      return [id, { kind, cells, ...(told === undefined ? {} : { told }) }];
    }),
  );
}
