import type { ReactElement, ReactNode } from 'react';
import { ConditionLine } from './condition-line.tsx';
import { Pop } from './pop.tsx';
import { SearchField } from './search-field.tsx';
import { useModel, useRowsOf } from './table-context.ts';

interface ToolLineProps {
  readonly searchable: boolean;
  /** What else stands there, behind the rest. */
  readonly children?: ReactNode;
}

/** The quiet line below the sentence: the condition as text, the search, the columns. */
export function ToolLine({ searchable, children }: ToolLineProps): ReactElement {
  const { reader, columns, request, view } = useModel();
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
      {request !== undefined && columns.length > 0 && view.chart === undefined && (
        <Pop className="eph-offer" text={messages.chart} label={messages.chart}>
          {({ ChartEditor }, close) => <ChartEditor done={close} />}
        </Pop>
      )}
      {columns.length > 0 && (
        <Pop className="eph-offer" text={messages.appearance} label={messages.appearance}>
          {({ AppearanceEditor }) => <AppearanceEditor />}
        </Pop>
      )}
      {children}
      <ChangedNote />
    </div>
  );
}

/** That others have written since, and a way to see it: the rows stay until that is wanted. */
function ChangedNote(): ReactElement | null {
  const { reader } = useModel();
  const { changedSince, refresh } = useRowsOf();
  const { messages, locale, timeZone } = reader;
  if (changedSince === undefined) return null;
  const time = changedSince.toLocaleTimeString(locale, {
    hour: '2-digit',
    minute: '2-digit',
    timeZone,
  });
  return (
    <span role="status" className="eph-aside eph-changed">
      {messages.changedSince(time)}{' '}
      <button type="button" className="eph-offer" onClick={refresh}>
        {messages.showChanged}
      </button>
    </span>
  );
}
