import type { ReactElement } from 'react';
import { ConditionLine } from './condition-line.tsx';
import { Pop } from './pop.tsx';
import { SearchField } from './search-field.tsx';
import { useModel } from './table-context.ts';

/** The quiet line below the sentence: the condition as text, the search, the columns. */
export function ToolLine({ searchable }: { readonly searchable: boolean }): ReactElement {
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
    </div>
  );
}
