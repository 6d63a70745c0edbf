import { isOfGroups, sortInForce, type Term } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import { aggregateTexts } from './aggregate-choices.tsx';
import { groupTexts, sortTermBy, sortTexts, type View } from './view-state.ts';

/** What changes one phrase of the sentence. */
export interface PhraseEditorProps {
  readonly view: View;
  readonly table: TableDescription;
  /** Which level, aggregate, sort term or condition, from 0. */
  readonly index: number;
  readonly done: () => void;
}

/** A level of the grouping: moved among the others, or removed. */
export function LevelEditor({ view, index, done }: PhraseEditorProps): ReactElement {
  const group = view.query.group ?? [];
  const term = group[index];
  const put = (next: readonly Term[]): void => {
    view.change(groupTexts(next, view));
    done();
  };
  const others = group.filter((_, place) => place !== index);
  const movedTo = (place: number): readonly Term[] =>
    term === undefined ? group : [...others.slice(0, place), term, ...others.slice(place)];
  return (
    <div className="grid justify-items-start gap-2">
      <code className="font-mono text-sm">{term?.name}</code>
      {index > 0 && (
        <button type="button" className="offer" onClick={() => put(movedTo(index - 1))}>
          One level further out
        </button>
      )}
      {index < group.length - 1 && (
        <button type="button" className="offer" onClick={() => put(movedTo(index + 1))}>
          One level further in
        </button>
      )}
      <button type="button" className="offer" onClick={() => put(others)}>
        Remove
      </button>
    </div>
  );
}

/** An aggregate: what the groups are sorted by, or removed. */
export function AggregateEditor({ view, table, index, done }: PhraseEditorProps): ReactElement {
  const terms = view.query.aggregate ?? [];
  const term = terms[index];
  const sortBy = (descending: boolean): void => {
    if (term === undefined) return;
    const rows = sortInForce(view.query, table).filter((one) => !isOfGroups(one, view.query));
    view.change(sortTexts([sortTermBy(term.name, descending), ...rows], table, view.query));
    done();
  };
  return (
    <div className="grid justify-items-start gap-2">
      <code className="font-mono text-sm">{term?.name}</code>
      {view.query.group !== undefined && (
        <>
          <button type="button" className="offer" onClick={() => sortBy(true)}>
            Groups with the highest first
          </button>
          <button type="button" className="offer" onClick={() => sortBy(false)}>
            Groups with the lowest first
          </button>
        </>
      )}
      <button
        type="button"
        className="offer"
        onClick={() => {
          view.change(aggregateTexts(terms.filter((_, place) => place !== index)));
          done();
        }}
      >
        Remove
      </button>
    </div>
  );
}

/** A term of the sort: turned around, or removed. */
export function SortEditor({ view, table, index, done }: PhraseEditorProps): ReactElement {
  const terms = sortInForce(view.query, table);
  const turn = (descending: boolean): void => {
    const next = terms.map((term, place) => (place === index ? { ...term, descending } : term));
    view.change(sortTexts(next, table, view.query));
    done();
  };
  const term = terms[index];
  const name = term?.column.name ?? '';
  return (
    <>
      <h2 className="mb-2 font-serif text-lg">{view.column(name)?.label ?? name}</h2>
      <div className="grid justify-items-start gap-2">
        <button
          type="button"
          className="cursor-pointer hover:text-amber"
          onClick={() => turn(false)}
        >
          {term?.descending === false ? '● ' : '○ '}ascending
        </button>
        <button
          type="button"
          className="cursor-pointer hover:text-amber"
          onClick={() => turn(true)}
        >
          {term?.descending === true ? '● ' : '○ '}descending
        </button>
        {view.query.sort !== undefined && (
          <button
            type="button"
            className="offer"
            onClick={() => {
              view.change(
                sortTexts(
                  terms.filter((_, place) => place !== index),
                  table,
                  view.query,
                ),
              );
              done();
            }}
          >
            Remove
          </button>
        )}
      </div>
    </>
  );
}
