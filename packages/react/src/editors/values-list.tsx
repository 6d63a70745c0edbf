import type { OnProgress, ValuesAnswer } from '@ephoros/client';
import { call } from '@ephoros/core/expression';
import { termOf } from '@ephoros/core/query';
import { toOne, type ColumnDescription } from '@ephoros/core/schema';
import { sortTermOf } from '@ephoros/core/view';
import { useCallback, type ReactElement } from 'react';
import { formatText, plainText, type FullReader } from '../format/value.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { Tick } from './choices.tsx';
import { useFinding } from './finder.tsx';
import { LookUp } from './look-up.tsx';
import { Unanswered } from './unanswered.tsx';
import { ValueLines } from './value-lines.tsx';

interface ValuesListProps {
  readonly column: ColumnDescription;
  readonly chosen: readonly string[];
  readonly change: (chosen: readonly string[]) => void;
  /** The reader wants the rows without a value. */
  readonly chooseMissing: () => void;
}

const rowCount = termOf(call('count'));

/** The values that a column has under the view, with their counts, to be chosen from. */
export function ValuesList(props: ValuesListProps): ReactElement {
  const { table, request } = useModel();
  const { name } = props.column;
  const step = table.related?.some((one) => one.name === name)
    ? toOne(table).find((one) => name.startsWith(`${one.name}.`))
    : undefined;
  if (request === undefined || step === undefined) return <ValuesUnderView {...props} />;
  const label = name.slice(step.name.length + 1);
  return <LookUp {...props} other={step.table} label={label} />;
}

function ValuesUnderView(props: ValuesListProps): ReactElement {
  const { column, chosen, change, chooseMissing } = props;
  const { request, match, reader } = useModel();
  const { editors } = reader.messages;
  const { containing, limit, more, finder } = useFinding();
  const { name, type, valueLabels } = column;
  const options = request?.values;
  // Values are found by what they are called, where that is not what the database has.
  const path = valueLabels === undefined ? containing : '';
  const found = valueLabels === undefined ? '' : containing;
  const queryText = useCallback(
    async (signal: AbortSignal, onProgress: OnProgress): Promise<ValuesAnswer | undefined> => {
      const query = { ...match, sort: [sortTermOf(rowCount, true)], limit };
      return options?.(name, query, path === '' ? {} : { containing: path }, signal, onProgress);
    },
    [options, match, name, path, limit],
  );
  const answer = useAnswer(options && queryText);
  // Where counting takes long, an index may tell what there is to be counted.
  const waits = answer.state === 'loading' && answer.share !== undefined;
  const whole = match.filter === undefined && match.search === undefined && containing === '';
  const quickly = useCallback(
    async (signal: AbortSignal) => options?.(name, { limit }, { counts: false }, signal),
    [options, name, limit],
  );
  const uncounted = useAnswer(waits && whole && column.indexed ? quickly : undefined);
  if (options === undefined) {
    const values = type.kind === 'enum' ? type.values : [];
    return <ValueLines column={column} values={values} chosen={chosen} change={change} />;
  }
  return (
    <div>
      {finder(editors.findValues)}
      {answer.state !== 'ready' ? (
        <>
          <Unanswered answer={answer} what={editors.readingValues} />
          {uncounted.state === 'ready' && uncounted.result !== undefined && (
            <Listed {...props} answer={uncounted.result} more={more} />
          )}
        </>
      ) : (
        answer.result && (
          <Listed
            answer={found === '' ? answer.result : called(found, answer.result, column, reader)}
            column={column}
            chosen={chosen}
            change={change}
            chooseMissing={chooseMissing}
            more={more}
          />
        )
      )}
    </div>
  );
}

function counted({ value, count }: ValuesAnswer['values'][number]): [string, number][] {
  return count === null ? [] : [[plainText(value), count]];
}

/** The values whose names hold a text, letter case ignored. */
function called(
  text: string,
  answer: ValuesAnswer,
  column: ColumnDescription,
  reader: FullReader,
): ValuesAnswer {
  const sought = text.toLocaleLowerCase(reader.locale);
  const values = answer.values.filter(({ value }) =>
    formatText(value, column, reader).toLocaleLowerCase(reader.locale).includes(sought),
  );
  const unread = (answer.window.total ?? 0) - answer.values.length;
  return { ...answer, values, window: { ...answer.window, total: values.length + unread } };
}

interface ListedProps extends ValuesListProps {
  readonly answer: ValuesAnswer;
  readonly more: () => void;
}

function Listed(props: ListedProps): ReactElement {
  const { answer, column, chosen, change, chooseMissing, more } = props;
  const { reader } = useModel();
  const { editors } = reader.messages;
  const written = useCount();
  const { values, window } = answer;
  if (values.length === 0) return <p className="eph-aside">{editors.noSuchValue}</p>;
  const there = values.flatMap(({ value }) => (value === null ? [] : [plainText(value)]));
  const all = there.length > 0 && there.every((one) => chosen.includes(one));
  const some = there.some((one) => chosen.includes(one));
  const missing = values.find(({ value }) => value === null);
  const left = (window.total ?? values.length) - values.length;
  const counts = values.flatMap(counted);
  return (
    <>
      {there.length > 1 && (
        <div className="eph-all">
          <Tick
            checked={all || (some ? 'some' : false)}
            change={() => {
              const others = chosen.filter((one) => !there.includes(one));
              change(all ? others : [...others, ...there]);
            }}
          >
            {editors.allListed(written(there.length))}
          </Tick>
        </div>
      )}
      <ValueLines
        column={column}
        values={there}
        counts={counts.length === 0 ? undefined : new Map(counts)}
        shown={new Map(values.map(({ value }) => [plainText(value), value]))}
        chosen={chosen}
        change={change}
      />
      {missing !== undefined && (
        <button type="button" className="eph-offer eph-missing" onClick={chooseMissing}>
          <i>{editors.missingValue}</i>
          {missing.count !== null && <span className="eph-count">{written(missing.count)}</span>}
        </button>
      )}
      {left > 0 && (
        <button type="button" className="eph-offer" onClick={more}>
          {editors.more(written(left))}
        </button>
      )}
      {window.asOf !== undefined && (
        <p className="eph-aside">
          {editors.countedAt(new Date(window.asOf).toLocaleTimeString(reader.locale))}
        </p>
      )}
    </>
  );
}
