import { printExpression, and } from '@ephoros/core/expression';
import { sortInForce, termsOf } from '@ephoros/core/query';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import { formatText, sentence, type Phrase } from '@ephoros/react';
import { useState, type ReactElement, type ReactNode } from 'react';
import { reader } from '../service.ts';
import { ColumnFinder } from './column-finder.tsx';
import { ColumnList } from './column-list.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { GroupOffer } from './group-offer.tsx';
import {
  AggregateEditor,
  LevelEditor,
  SortEditor,
  type PhraseEditorProps,
} from './phrase-editors.tsx';
import { Pop } from './pop.tsx';
import { sortTermBy, sortTexts, type View } from './view-state.ts';

interface SentenceProps {
  readonly view: View;
  readonly table: TableDescription;
}

/** The query said as one sentence; every phrase opens what changes it. */
export function ViewSentence({ view, table }: SentenceProps): ReactElement {
  const phrases = sentence(view.query, table, {
    show: (value, column) => (column === undefined ? value : formatText(value, column, reader)),
    column: view.column,
  });
  const grouped = view.query.group !== undefined;
  return (
    <p className="font-serif text-[1.45rem] leading-relaxed" data-testid="sentence">
      {phrases.map((phrase, index) => (
        <Unbroken key={index} comma={phrases[index + 1]?.text.startsWith(',') === true}>
          <PhraseText
            phrase={{ ...phrase, text: phrase.text.replace(/^,/, '') }}
            view={view}
            table={table}
          />
        </Unbroken>
      ))}
      {!grouped && (
        <>
          , <ReadingPhrase view={view} table={table} />
        </>
      )}
      .&ensp;
      <Pop
        label="Add a condition"
        trigger={
          <button type="button" className="offer">
            + where
          </button>
        }
      >
        {(close) => <ColumnThenCondition view={view} table={table} done={close} />}
      </Pop>
      &ensp;
      <Pop
        label="Add a sort term"
        trigger={
          <button type="button" className="offer">
            + sort
          </button>
        }
      >
        {(close) => <SortOffer view={view} table={table} done={close} />}
      </Pop>
      &ensp;
      <Pop
        label="Group by"
        trigger={
          <button type="button" className="offer">
            + group
          </button>
        }
      >
        {(close) => <GroupOffer view={view} table={table} done={close} />}
      </Pop>
    </p>
  );
}

/** A comma stays with the phrase before it: between a button and text a line may break. */
function Unbroken({ comma, children }: { comma: boolean; children: ReactNode }): ReactNode {
  return comma ? (
    <span className="whitespace-nowrap *:whitespace-normal">{children},</span>
  ) : (
    children
  );
}

interface PhraseProps extends SentenceProps {
  readonly phrase: Phrase;
}

function PhraseText({ phrase, view, table }: PhraseProps): ReactElement {
  const trigger = (
    <button type="button" className="phrase">
      {phrase.text}
    </button>
  );
  switch (phrase.kind) {
    case 'table':
      return <strong className="font-semibold">{phrase.text}</strong>;
    case 'plain':
      return <span>{phrase.text}</span>;
    case 'condition':
      return (
        <Pop label="Condition" trigger={trigger}>
          {(close) => (
            <TermEditor view={view} table={table} index={phrase.index ?? 0} done={close} />
          )}
        </Pop>
      );
    case 'group':
      return (
        <Pop label="Level" trigger={trigger}>
          {(close) => (
            <LevelEditor view={view} table={table} index={phrase.index ?? 0} done={close} />
          )}
        </Pop>
      );
    case 'aggregate':
      return (
        <Pop label="Aggregate" trigger={trigger}>
          {(close) => (
            <AggregateEditor view={view} table={table} index={phrase.index ?? 0} done={close} />
          )}
        </Pop>
      );
    case 'sort':
      return (
        <Pop label="Sort" trigger={trigger}>
          {(close) => (
            <SortEditor view={view} table={table} index={phrase.index ?? 0} done={close} />
          )}
        </Pop>
      );
    default:
      throw new Error(`unknown phrase ${JSON.stringify(phrase.kind satisfies never)}`);
  }
}

/** A condition: by its column's editor where it is about one column, as text otherwise. */
function TermEditor({ view, table, index, done }: PhraseEditorProps): ReactElement {
  const terms = termsOf(view.query.filter);
  const term = terms[index];
  const text = term === undefined ? '' : printExpression(term);
  const columns = [...namesIn(text)].flatMap((name) => view.column(name) ?? []);
  const [column] = columns;
  const remove = (): void => {
    const kept = and(terms.filter((_, place) => place !== index));
    view.change({ filter: kept && printExpression(kept), page: undefined, offset: undefined });
    done();
  };
  return (
    <>
      <p className="mb-3 max-w-72 font-mono text-sm break-words">{text}</p>
      {columns.length === 1 && column !== undefined ? (
        <ConditionEditor view={view} table={table} column={column} done={done} />
      ) : (
        <>
          <p className="mb-3 max-w-72 text-sm text-faint">
            Change it in the line below the sentence.
          </p>
          <button type="button" className="plate" onClick={remove}>
            Remove
          </button>
        </>
      )}
    </>
  );
}

function namesIn(text: string): Set<string> {
  // Outside of quotes, words of the filter that are names of columns.
  return new Set(text.replace(/'(?:[^']|'')*'/g, ' ').match(/[\p{L}_][\p{L}\p{N}_.]*/gu) ?? []);
}

function SortOffer({ view, table, done }: SentenceProps & { done: () => void }): ReactElement {
  const terms = sortInForce(view.query, table);
  const sorted = new Set(terms.map(({ column }) => column.name));
  const free = table.columns.filter(({ name, sortable }) => sortable && !sorted.has(name));
  return (
    <ColumnList
      columns={free}
      remark={(column) => (column.indexed ? '' : 'no index: slow on many rows')}
      choose={({ name }) => {
        view.change(sortTexts([...terms, sortTermBy(name, false)], table, view.query));
        done();
      }}
    />
  );
}

function ColumnThenCondition(props: SentenceProps & { done: () => void }): ReactElement {
  const { view, table, done } = props;
  const [column, setColumn] = useState<ColumnDescription>();
  if (column !== undefined) {
    return (
      <>
        <h2 className="mb-2 font-serif text-lg">{column.label}</h2>
        <ConditionEditor view={view} table={table} column={column} done={done} />
      </>
    );
  }
  return (
    <ColumnFinder
      table={table}
      tables={view.tables}
      offers={({ filterable }) => filterable}
      choose={setColumn}
    />
  );
}

const countings = [
  { kind: undefined, words: 'exactly' },
  { kind: 'estimate', words: 'about' },
  { kind: 'none', words: 'not at all' },
] as const;

/** "50 a page" or "as one scroll", and how the rows are counted. */
function ReadingPhrase({ view, table }: SentenceProps): ReactElement {
  const size = view.query.limit ?? table.pageSizes[0] ?? 50;
  const trigger = (
    <button type="button" className="phrase">
      {view.reading === 'scroll' ? 'as one scroll' : `${size.toLocaleString(reader.locale)} a page`}
      {view.query.total === 'none' && ', uncounted'}
      {view.query.total === 'estimate' && ', counted about'}
    </button>
  );
  const begin = { page: undefined, offset: undefined };
  return (
    <Pop label="How to read" trigger={trigger}>
      {(close) => (
        <ul className="grid gap-1">
          {table.pageSizes.map((one, index) => (
            <li key={one}>
              <button
                type="button"
                className="cursor-pointer hover:text-amber"
                onClick={() => {
                  const limit = index === 0 ? undefined : String(one);
                  view.change({ ...begin, limit, reading: undefined });
                  close();
                }}
              >
                {view.reading === 'pages' && one === size ? '● ' : '○ '}
                {one.toLocaleString(reader.locale)} a page
              </button>
            </li>
          ))}
          <li>
            <button
              type="button"
              className="cursor-pointer hover:text-amber"
              onClick={() => {
                view.change({ ...begin, limit: undefined, reading: 'scroll' });
                close();
              }}
            >
              {view.reading === 'scroll' ? '● ' : '○ '}as one scroll
            </button>
          </li>
          <li className="mt-2 border-t border-rule pt-2 text-sm text-faint">counted</li>
          {countings.map(({ kind, words }) => (
            <li key={words}>
              <button
                type="button"
                className="cursor-pointer hover:text-amber"
                onClick={() => {
                  view.change({ total: kind });
                  close();
                }}
              >
                {(view.query.total ?? 'exact') === (kind ?? 'exact') ? '● ' : '○ '}
                {words}
              </button>
            </li>
          ))}
        </ul>
      )}
    </Pop>
  );
}
