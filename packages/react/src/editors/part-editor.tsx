import { printExpression } from '@ephoros/core/expression';
import { isOfGroups, parseSearch, printSearch, sortInForce, type Term } from '@ephoros/core/query';
import {
  moved,
  namesOf,
  partsOf,
  sortTermOf,
  withLevels,
  withParts,
  withSort,
  type ViewPart,
} from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { Choices } from './choices.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { ReadingEditor } from './reading-editor.tsx';
import { sortWays } from '../format/sort-ways.ts';

interface PartEditorProps {
  /** Which of the view's parts, from 0. */
  readonly part: number;
  readonly done: () => void;
}

/** What changes one phrase of the sentence. */
export function PartEditor({ part: index, done }: PartEditorProps): ReactElement | null {
  const { view, change, table } = useModel();
  const parts = partsOf(view, table);
  const part = parts[index];
  // The phrase has gone meanwhile.
  if (part === undefined) return null;
  const put = (others: readonly ViewPart[]): void => {
    change((last) => withParts(last, others, table));
    done();
  };
  const remove = (): void => put(parts.filter((one) => one !== part));
  switch (part.kind) {
    case 'condition':
      return <TermEditor part={part} remove={remove} done={done} />;
    case 'search':
      return (
        <SearchEditor
          part={part}
          remove={remove}
          put={(next) => put(parts.map((one) => (one === part ? next : one)))}
        />
      );
    case 'group':
      return <LevelEditor term={part.term} done={done} />;
    case 'aggregate':
      return <AggregateEditor term={part.term} remove={remove} done={done} />;
    case 'sort':
      return (
        <SortEditor
          part={part}
          put={(next) => put(parts.map((one) => (one === part ? next : one)))}
          remove={view.sort === undefined ? undefined : remove}
        />
      );
    case 'reading':
      return <ReadingEditor done={done} />;
    default:
      throw new Error(`no editor for ${JSON.stringify(part satisfies never)}`);
  }
}

interface RemoveProps {
  readonly remove: (() => void) | undefined;
}

function Remove({ remove }: RemoveProps): ReactElement | null {
  const { editors } = useModel().reader.messages;
  if (remove === undefined) return null;
  return (
    <button type="button" className="eph-offer" onClick={remove}>
      {editors.remove}
    </button>
  );
}

interface TermEditorProps extends RemoveProps {
  readonly part: Extract<ViewPart, { kind: 'condition' }>;
  readonly done: () => void;
}

/** A condition: by its column's editor where it is about one column, as text otherwise. */
function TermEditor({ part, remove, done }: TermEditorProps): ReactElement {
  const { column: columnNamed, reader } = useModel();
  const names = [...new Set(namesOf(part.condition))];
  const [column] = names.length === 1 ? names.flatMap((name) => columnNamed(name) ?? []) : [];
  return (
    <>
      <p className="eph-code">{printExpression(part.condition)}</p>
      {column !== undefined ? (
        <ConditionEditor column={column} done={done} />
      ) : (
        <>
          <p className="eph-aside">{reader.messages.editors.inTheLine}</p>
          <Remove remove={remove} />
        </>
      )}
    </>
  );
}

interface SearchEditorProps extends RemoveProps {
  readonly part: Extract<ViewPart, { kind: 'search' }>;
  readonly put: (part: ViewPart) => void;
}

/** The words that rows must hold. */
function SearchEditor({ part, put, remove }: SearchEditorProps): ReactElement {
  const { messages } = useModel().reader;
  const [text, setText] = useState(() => printSearch(part.words));
  return (
    <form
      className="eph-form"
      onSubmit={(event) => {
        event.preventDefault();
        put({ kind: 'search', words: parseSearch(text) });
      }}
    >
      <input
        className="eph-field"
        type="search"
        aria-label={messages.search}
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      <div className="eph-actions">
        <button type="submit" className="eph-plate">
          {messages.editors.apply}
        </button>
        <Remove remove={remove} />
      </div>
    </form>
  );
}

interface LevelEditorProps {
  readonly term: Term;
  readonly done: () => void;
}

/** A level of the grouping: moved among the others, or removed. */
function LevelEditor({ term, done }: LevelEditorProps): ReactElement {
  const { view, change, reader } = useModel();
  const { editors } = reader.messages;
  const group = view.group ?? [];
  const index = group.findIndex(({ name }) => name === term.name);
  const put = (next: readonly Term[]): void => {
    change((last) => withLevels(last, next));
    done();
  };
  return (
    <div className="eph-actions-down">
      <code className="eph-code">{term.name}</code>
      {index > 0 && (
        <button
          type="button"
          className="eph-offer"
          onClick={() => put(moved(group, index, index - 1))}
        >
          {editors.furtherOut}
        </button>
      )}
      {index < group.length - 1 && (
        <button
          type="button"
          className="eph-offer"
          onClick={() => put(moved(group, index, index + 1))}
        >
          {editors.furtherIn}
        </button>
      )}
      <Remove remove={() => put(group.filter((one) => one !== group[index]))} />
    </div>
  );
}

interface AggregateEditorProps extends LevelEditorProps, RemoveProps {}

/** An aggregate: what the groups are sorted by, or removed. */
function AggregateEditor({ term, remove, done }: AggregateEditorProps): ReactElement {
  const { view, change, table, reader } = useModel();
  const { editors } = reader.messages;
  const sortBy = (descending: boolean): void => {
    const rows = sortInForce(view, table).filter((one) => !isOfGroups(one, view));
    change((last) => withSort(last, [sortTermOf(term, descending), ...rows], table));
    done();
  };
  return (
    <div className="eph-actions-down">
      <code className="eph-code">{term.name}</code>
      {(view.group ?? []).length > 0 && (
        <>
          <button type="button" className="eph-offer" onClick={() => sortBy(true)}>
            {editors.highestFirst}
          </button>
          <button type="button" className="eph-offer" onClick={() => sortBy(false)}>
            {editors.lowestFirst}
          </button>
        </>
      )}
      <Remove remove={remove} />
    </div>
  );
}

interface SortEditorProps extends RemoveProps {
  readonly part: Extract<ViewPart, { kind: 'sort' }>;
  readonly put: (part: ViewPart) => void;
}

/** A term of the sort: turned around, or removed. */
function SortEditor({ part, put, remove }: SortEditorProps): ReactElement {
  const { column, reader } = useModel();
  const { editors } = reader.messages;
  const { term } = part;
  const { name } = term.column;
  const [ascending, descending] = sortWays(reader.messages, column(name)?.type);
  return (
    <>
      <h2 className="eph-sheet-title">{column(name)?.label ?? name}</h2>
      <Choices
        label={editors.sortSheet}
        values={[
          { value: 'ascending', text: ascending },
          { value: 'descending', text: descending },
        ]}
        chosen={term.descending ? 'descending' : 'ascending'}
        change={(way) => put({ kind: 'sort', term: { ...term, descending: way === 'descending' } })}
      />
      <Remove remove={remove} />
    </>
  );
}
