import type { ConditionHas, PartPath } from '@ephoros/core/query';
import { findColumn } from '@ephoros/core/schema';
import { useCallback, useMemo, type ReactElement } from 'react';
import { ModelContext, useModel, type TableModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { BuilderBranch } from './builder-branch.tsx';
import { useBuilder } from './builder-context.ts';
import { Unanswered } from './unanswered.tsx';

interface BuilderHasProps {
  readonly has: ConditionHas;
  readonly path: PartPath;
}

/** That rows of another table refer to the row: what is said of them is about that table. */
export function BuilderHas({ has, path }: BuilderHasProps): ReactElement {
  const { said } = useBuilder();
  const model = useModel();
  const { messages } = model.reader;
  const { other } = model;
  const table = model.table.relationships.find(({ name }) => name === has.relationship)?.table;
  const ask = useCallback(async () => {
    if (table === undefined || other === undefined) throw new Error(messages.notShown);
    return other(table);
  }, [table, other, messages]);
  const answer = useAnswer(ask);
  const known = answer.state === 'ready' ? answer.result : undefined;
  const within = useMemo((): TableModel | undefined => {
    if (known === undefined) return undefined;
    const { filter: _filter, ...view } = model.view;
    return {
      ...model,
      table: known.table,
      columns: known.table.columns,
      column: (name) => {
        const found = findColumn(name, known.table, () => undefined);
        return 'own' in found ? found : undefined;
      },
      ask: known.ask,
      describe: undefined,
      match: {},
      view,
    };
  }, [model, known]);
  return (
    <>
      <p className="eph-has">{said.has(known?.table.title ?? has.relationship)}</p>
      {answer.state !== 'ready' && <Unanswered answer={answer} what={messages.loading} />}
      {within !== undefined && (
        <ModelContext.Provider value={within}>
          <BuilderBranch branch={has.branch} path={path} of={has} />
        </ModelContext.Provider>
      )}
    </>
  );
}
