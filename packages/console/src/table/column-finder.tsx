import { columnsAround, type Tables } from '@ephoros/core/check';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { useMemo, useState, type ReactElement } from 'react';
import { ColumnList } from './column-list.tsx';

interface ColumnFinderProps {
  readonly table: TableDescription;
  readonly tables: Tables;
  /** Which columns are offered. */
  readonly offers: (column: ColumnDescription) => boolean;
  readonly choose: (column: ColumnDescription) => void;
}

/** Foreign keys followed to offer related columns. */
const stepsAway = 2;

/** Columns of the table and of those that it refers to, to be searched and chosen. */
export function ColumnFinder({ table, tables, offers, choose }: ColumnFinderProps): ReactElement {
  const [sought, setSought] = useState('');
  const related = useMemo(() => columnsAround(table, tables, stepsAway), [table, tables]);
  const fits = (column: ColumnDescription): boolean =>
    offers(column) && `${column.label} ${column.name}`.toLowerCase().includes(sought.toLowerCase());
  return (
    <>
      <input
        className="field mb-2 w-full"
        type="search"
        placeholder="find a column"
        aria-label="Find a column"
        value={sought}
        onChange={({ target }) => setSought(target.value)}
      />
      <ColumnList columns={table.columns.filter(fits)} choose={choose} />
      {related.some(fits) && (
        <p className="mt-3 mb-1 font-serif text-sm text-faint italic">of what a row refers to</p>
      )}
      <ColumnList columns={related.filter(fits)} choose={choose} />
    </>
  );
}
