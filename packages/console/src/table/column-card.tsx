import { typeName, type ColumnDescription, type TableDescription } from '@ephoros/core/schema';
import type { ReactElement, ReactNode } from 'react';
import { AggregateChoices } from './aggregate-choices.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { GroupWays } from './group-offer.tsx';
import { Pop } from './pop.tsx';
import type { View } from './view-state.ts';

interface ColumnCardProps {
  readonly view: View;
  readonly table: TableDescription;
  readonly column: ColumnDescription;
  /** Whether the filter says something about the column. */
  readonly conditioned: boolean;
}

function Section({ title, children }: { title: string; children: ReactNode }): ReactElement {
  return (
    <details className="mt-4 border-t border-rule pt-2 text-sm">
      <summary className="cursor-pointer font-serif italic hover:text-amber">{title}</summary>
      <div className="mt-2">{children}</div>
    </details>
  );
}

/** What stands behind a column's label: its description, its condition, groups, aggregates. */
export function ColumnCard({ view, table, column, conditioned }: ColumnCardProps): ReactElement {
  const mark = (
    <button
      type="button"
      aria-label={`Condition on ${column.label}`}
      data-conditioned={conditioned}
      className="cursor-pointer px-1 text-faint hover:text-amber data-[conditioned=true]:text-amber data-[state=open]:text-amber"
    >
      {conditioned ? '●' : '○'}
    </button>
  );
  return (
    <Pop trigger={mark} label={column.label}>
      {(close) => (
        <>
          <h2 className="font-serif text-lg">{column.label}</h2>
          <p className="mb-3 max-w-72 text-sm text-faint">
            <code className="font-mono text-xs">{column.name}</code> · {typeName(column.type)}
            {column.comment !== undefined && ` · ${column.comment}`}
          </p>
          {column.filterable ? (
            <ConditionEditor view={view} table={table} column={column} done={close} />
          ) : (
            <p className="text-sm">Values of this type cannot be compared.</p>
          )}
          {column.groupable && (
            <Section title="Group by it">
              <GroupWays view={view} column={column} done={close} />
            </Section>
          )}
          <Section title="Made of it, for groups and the whole">
            <AggregateChoices view={view} column={column} />
          </Section>
        </>
      )}
    </Pop>
  );
}
