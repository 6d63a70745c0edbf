import { columnsToChoose, type ColumnDescription } from '@ephoros/core/schema';
import { useState, type ReactElement, type ReactNode } from 'react';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { ColumnList } from './column-list.tsx';
import { Finder } from './finder.tsx';
import { Unanswered } from './unanswered.tsx';

interface ColumnFinderProps {
  /** Which columns are offered. */
  readonly offers: (column: ColumnDescription) => boolean;
  readonly choose: (column: ColumnDescription) => void;
  /** Stands below the columns as long as none is sought. */
  readonly children?: ReactNode;
}

/** Columns of the table and of those that it refers to, to be searched and chosen. */
export function ColumnFinder({ offers, choose, children }: ColumnFinderProps): ReactElement {
  const { table, describe, reader } = useModel();
  const { editors, loading } = reader.messages;
  const [sought, setSought] = useState('');
  const around = useAnswer(describe);
  const words = sought.toLowerCase().split(/\s+/);
  const fits = (column: ColumnDescription): boolean => {
    const text = `${column.label} ${column.name}`.toLowerCase();
    return offers(column) && words.every((word) => text.includes(word));
  };
  const own = columnsToChoose(table);
  const related =
    around.state === 'ready'
      ? around.result.filter((one) => fits(one) && !own.some(({ name }) => name === one.name))
      : [];
  return (
    <>
      <Finder label={editors.findColumn} text={sought} change={setSought} />
      <ColumnList columns={own.filter(fits)} choose={choose} />
      {related.length > 0 && <p className="eph-list-title">{editors.ofReferred}</p>}
      <ColumnList columns={related} choose={choose} />
      {describe !== undefined && around.state !== 'ready' && (
        <Unanswered answer={around} what={loading} />
      )}
      {sought === '' && children}
    </>
  );
}
