import type { ReactElement, ReactNode } from 'react';
import { ConditionLine } from './condition-line.tsx';
import { Pop } from './pop.tsx';
import { SearchField } from './search-field.tsx';
import { useModel } from './table-context.ts';

interface ToolLineProps {
  readonly searchable: boolean;
  /** What else stands there, behind the rest. */
  readonly children?: ReactNode;
}

/** The quiet line below the sentence: the condition as text, the search, the columns. */
export function ToolLine({ searchable, children }: ToolLineProps): ReactElement {
  const { reader, columns } = useModel();
  const { messages } = reader;
  return (
    <div className="eph-tools">
      <ConditionLine />
      {searchable && <SearchField />}
      {columns.length > 0 && (
        <Pop className="eph-offer" text={messages.columns} label={messages.columns}>
          {({ ColumnsEditor }) => <ColumnsEditor />}
        </Pop>
      )}
      {children}
    </div>
  );
}
