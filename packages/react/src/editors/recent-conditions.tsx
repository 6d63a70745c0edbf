import { printExpression, type Expression } from '@ephoros/core/expression';
import type { ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { useNotice } from '../parts/use-notice.ts';
import { recentConditions } from '../state/recent.ts';
import { readFilter } from './read-filter.ts';

interface RecentConditionsProps {
  readonly done: () => void;
}

/** Conditions of the table that were requested before; nothing where none were. */
export function RecentConditions({ done }: RecentConditionsProps): ReactElement | null {
  const { table, view, change, reader } = useModel();
  const say = useNotice();
  const now = view.filter === undefined ? '' : printExpression(view.filter);
  const others = recentConditions(table.name).flatMap((text): Expression[] => {
    const read = readFilter(text);
    return text === now || 'problems' in read ? [] : [read.expression];
  });
  if (others.length === 0) return null;
  return (
    <>
      <h2 className="eph-list-title">{reader.messages.editors.recent}</h2>
      <ul className="eph-plain-list">
        {others.map((filter) => {
          const text = printExpression(filter);
          return (
            <li key={text}>
              <button
                type="button"
                className="eph-line-button"
                title={text}
                onClick={() => {
                  change({ filter, place: undefined });
                  done();
                }}
              >
                {say(filter)}
              </button>
            </li>
          );
        })}
      </ul>
    </>
  );
}
