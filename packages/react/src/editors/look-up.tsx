import { fetchWhole, type Row } from '@ephoros/client';
import { property } from '@ephoros/core/expression';
import { termOf, withCondition } from '@ephoros/core/query';
import type { ColumnDescription } from '@ephoros/core/schema';
import { sortTermOf } from '@ephoros/core/view';
import { useCallback, type ReactElement } from 'react';
import { plainText } from '../format/value.ts';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { useFinding } from './finder.tsx';
import { Unanswered } from './unanswered.tsx';
import { ValueLines } from './value-lines.tsx';

const span = { start: 0, end: 0 };

interface LookUpProps {
  readonly column: ColumnDescription;
  readonly chosen: readonly string[];
  readonly change: (chosen: readonly string[]) => void;
  /** The table that is looked through, and its column that names rows. */
  readonly other: string;
  readonly label: string;
}

/** The names of another table's rows, to be searched while one types and chosen from. */
export function LookUp({ other, label, column, chosen, change }: LookUpProps): ReactElement {
  const { request, reader } = useModel();
  const { editors } = reader.messages;
  const { containing, limit, more, finder } = useFinding();
  const options = request?.others;
  const queryText = useCallback(
    async (signal: AbortSignal) => {
      const own = { ...column, name: label };
      const kind = column.type.kind === 'text' ? ('contains' as const) : ('equals' as const);
      const filter =
        containing === ''
          ? undefined
          : withCondition(undefined, own, { kind, value: containing }, 'UTC');
      const query = {
        columns: [{ name: label, span }],
        sort: [sortTermOf(termOf(property(label)), false)],
        ...(filter && { filter }),
      };
      return options === undefined
        ? undefined
        : fetchWhole<Row>(
            (window) => options(other, window, signal),
            { ...query, limit, place: { kind: 'offset', offset: 0 } },
            true,
          );
    },
    [options, other, label, column, containing, limit],
  );
  const answer = useAnswer(queryText);
  const rows = answer.state === 'ready' ? (answer.result?.rows ?? []) : [];
  const names = rows.flatMap((row) => {
    const value = row[label] ?? null;
    return value === null ? [] : [plainText(value)];
  });
  const listed = [...new Set([...chosen, ...names])];
  return (
    <div>
      {finder(editors.findValues)}
      <ValueLines column={column} values={listed} chosen={chosen} change={change} />
      {answer.state !== 'ready' && <Unanswered answer={answer} what={editors.readingValues} />}
      {answer.state === 'ready' && names.length === 0 && (
        <p className="eph-aside">{editors.noSuchValue}</p>
      )}
      {answer.state === 'ready' && answer.result?.next != null && (
        <button type="button" className="eph-offer" onClick={more}>
          {editors.further}
        </button>
      )}
    </div>
  );
}
