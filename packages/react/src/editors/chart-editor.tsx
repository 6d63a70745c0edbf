import { call, property, type Expression } from '@ephoros/core/expression';
import { spokenTerm, termOf, type Term } from '@ephoros/core/query';
import {
  columnsToChoose,
  isMeasured,
  isNumeric,
  type AggregateName,
  type ColumnDescription,
} from '@ephoros/core/schema';
import { chartKinds, chartSides, type Chart, type ChartKind, type View } from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { Choices } from './choices.tsx';
import { groupChoices } from './group-choices.ts';
import { Unanswered } from './unanswered.tsx';

interface ChartEditorProps {
  readonly done: () => void;
}

/** What a chart can be by, by its text. */
interface Way {
  readonly text: string;
  readonly term: Term;
  readonly column: ColumnDescription;
}

const made: readonly AggregateName[] = ['sum', 'avg', 'min', 'max', 'median'];

/** What is drawn, how, and where: offered by the types of the columns. */
export function ChartEditor({ done }: ChartEditorProps): ReactElement {
  const { view, change, table, reader } = useModel();
  const { messages } = reader;
  const texts = useAnswer(messages.charts);
  const all = columnsToChoose(table);
  const [kind, setKind] = useState<ChartKind>(view.chart?.kind ?? usualKind(view, all));
  const [by, setBy] = useState(view.chart?.by.name ?? '');
  const [of, setOf] = useState(view.chart?.of?.name ?? view.aggregate?.[0]?.name ?? '');
  if (texts.state !== 'ready') return <Unanswered answer={texts} what={messages.loading} />;
  const words = texts.result;
  const ways =
    kind === 'histogram'
      ? measuredWays(all)
      : groupWays(view, all, reader.timeZone, messages.editors, (expression) =>
          spokenTerm(
            expression,
            (name) => all.find((one) => one.name === name)?.label ?? name,
            messages.sentence,
          ),
        );
  const amounts = all.filter(
    ({ type, aggregates }) =>
      isNumeric(type) && aggregates.includes(kind === 'spread' ? 'median' : 'sum'),
  );
  const ofs =
    kind === 'spread'
      ? amounts.map((column) => ({ text: column.label, term: termOf(property(column.name)) }))
      : amounts.flatMap((column) =>
          made
            .filter((name) => column.aggregates.includes(name))
            .map((name) => ({
              text: `${messages.editors.aggregates[name]}: ${column.label}`,
              term: termOf(call(name, property(column.name))),
            })),
        );
  const way = ways.find(({ term }) => term.name === by) ?? usualWay(kind, ways);
  const amount =
    ofs.find(({ term }) => term.name === of) ?? (kind === 'spread' ? ofs[0] : undefined);
  const isPossible = way !== undefined && (kind !== 'spread' || amount !== undefined);
  return (
    <form
      className="eph-form"
      onSubmit={(event) => {
        event.preventDefault();
        if (way === undefined) return;
        const chart: Chart = {
          kind,
          by: way.term,
          ...(amount !== undefined && kind !== 'histogram' && { of: amount.term }),
        };
        change({ chart });
        done();
      }}
    >
      <Choices
        inLine
        label={words.kind}
        values={chartKinds.map((value) => ({ value, text: words.kinds[value] }))}
        chosen={kind}
        change={setKind}
      />
      {!isPossible && <p className="eph-aside">{words.noColumns}</p>}
      <label className="eph-labelled">
        <span>{words.by}</span>
        <select
          className="eph-field"
          value={way?.term.name ?? ''}
          onChange={({ target }) => setBy(target.value)}
        >
          {ways.map(({ text, term }) => (
            <option key={term.name} value={term.name}>
              {text}
            </option>
          ))}
        </select>
      </label>
      {kind !== 'histogram' && (
        <label className="eph-labelled">
          <span>{words.of}</span>
          <select
            className="eph-field"
            value={amount?.term.name ?? ''}
            onChange={({ target }) => setOf(target.value)}
          >
            {kind !== 'spread' && <option value="">{words.rows}</option>}
            {ofs.map(({ text, term }) => (
              <option key={term.name} value={term.name}>
                {text}
              </option>
            ))}
          </select>
        </label>
      )}
      <Choices
        inLine
        label={words.side}
        values={chartSides.map((value) => ({ value, text: words.sides[value] }))}
        chosen={view.chartSide ?? 'above'}
        change={(side) => change({ chartSide: side === 'above' ? undefined : side })}
      />
      <div className="eph-actions">
        <button type="submit" className="eph-plate" disabled={!isPossible}>
          {words.draw}
        </button>
        {view.chart !== undefined && (
          <button
            type="button"
            className="eph-offer"
            onClick={() => {
              change({ chart: undefined, chartSide: undefined });
              done();
            }}
          >
            {words.drop}
          </button>
        )}
      </div>
    </form>
  );
}

/** Time is a line, and else there are bars. */
function usualKind({ group }: View, columns: readonly ColumnDescription[]): ChartKind {
  const [level] = group ?? [];
  if (level !== undefined) return isOfTime(level.expression, columns) ? 'line' : 'bars';
  return 'bars';
}

function isOfTime(expression: Expression, columns: readonly ColumnDescription[]): boolean {
  if (expression.kind !== 'call' || expression.name !== 'bin') return false;
  const [of] = expression.args;
  const column = of?.kind === 'property' && columns.find(({ name }) => name === of.name);
  return (
    column !== undefined && column !== false && ['date', 'timestamp'].includes(column.type.kind)
  );
}

function usualWay(kind: ChartKind, ways: readonly Way[]): Way | undefined {
  const ofKind = (types: readonly string[]): Way | undefined =>
    ways.find(({ column }) => types.includes(column.type.kind));
  if (kind === 'line') return ofKind(['date', 'timestamp']) ?? ways[0];
  if (kind === 'histogram') return ofKind(['numeric']) ?? ways[0];
  return ofKind(['enum', 'boolean']) ?? ofKind(['text']) ?? ways[0];
}

function measuredWays(columns: readonly ColumnDescription[]): readonly Way[] {
  return columns
    .filter(({ type, filterable }) => isMeasured(type) && filterable)
    .map((column) => ({ text: column.label, term: termOf(property(column.name)), column }));
}

function groupWays(
  { group = [] }: View,
  columns: readonly ColumnDescription[],
  timeZone: string,
  editors: Parameters<typeof groupChoices>[2],
  say: (expression: Expression) => string,
): readonly Way[] {
  const [level] = group;
  const offered = columns
    .filter(({ groupable }) => groupable)
    .flatMap((column) =>
      groupChoices(column, timeZone, editors).map(({ label, expression }, index): Way => ({
        text:
          index === 0 && expression.kind === 'property'
            ? column.label
            : `${column.label}: ${label}`,
        term: termOf(expression),
        column,
      })),
    );
  const [first] = columns;
  if (
    level === undefined ||
    first === undefined ||
    offered.some(({ term }) => term.name === level.name)
  ) {
    return offered;
  }
  return [{ text: say(level.expression), term: level, column: first }, ...offered];
}
