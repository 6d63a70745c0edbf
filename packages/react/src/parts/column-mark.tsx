import type { ReactElement } from 'react';
import { Pop } from './pop.tsx';
import { useModel } from './table-context.ts';
import { isConditioned } from '@ephoros/core/query';

/** Behind a column's label: whether the filter speaks of it, and all that can be done with it. */
export function ColumnMark({ name }: { readonly name: string }): ReactElement {
  const { view, column, reader } = useModel();
  const label = column(name)?.label ?? name;
  const conditioned = isConditioned(view.filter, name);
  return (
    <Pop
      className="eph-mark-button"
      text={conditioned ? '●' : '○'}
      name={reader.messages.conditionOn(label)}
      label={label}
      marked={conditioned}
      tabbable={false}
    >
      {({ ColumnSheet }, close) => <ColumnSheet name={name} done={close} />}
    </Pop>
  );
}
