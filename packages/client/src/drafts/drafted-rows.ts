import type { Row } from '@ephoros/core/answer';
import type { OutlineLine, OutlineSource } from '../outline.ts';
import type { RowSource, SourceState } from '../row-source.ts';
import { newRow, type Drafts } from './drafts.ts';
import type { RowDraft } from './draft.ts';

/** The rows of a source with what is drafted of them; new rows stand before all others. */
export function draftedRows(source: RowSource, drafts: Drafts): RowSource {
  const made = new WeakMap<RowDraft, Row>();
  let known:
    { readonly of: SourceState; readonly added: number; readonly state: SourceState } | undefined;
  const added = (): readonly RowDraft[] =>
    drafts.state().rows.filter(({ kind }) => kind === 'added');
  return {
    ...source,
    state: () => {
      const of = source.state();
      const count = added().length;
      if (count === 0) return of;
      if (known?.of !== of || known.added !== count) {
        const { total } = of;
        known = {
          of,
          added: count,
          state: { ...of, total: total === undefined ? total : total + count },
        };
      }
      return known.state;
    },
    row: (position) => {
      const rows = added();
      const draft = rows[position];
      if (draft === undefined) {
        const row = source.row(position - rows.length);
        return row && drafts.shown(row);
      }
      const row = made.get(draft) ?? newRow(draft);
      made.set(draft, row);
      return row;
    },
    setVisibleRows: (from, to) => {
      const count = added().length;
      source.setVisibleRows(Math.max(0, from - count), Math.max(0, to - count));
    },
    subscribe: (listener) => both(source.subscribe(listener), drafts.subscribe(listener)),
    retry: () => source.retry(),
    refresh: () => source.refresh(),
    close: () => source.close(),
  };
}

/** The lines of an outline with what is drafted of its rows. New rows stand in no group yet. */
export function draftedOutline(source: OutlineSource, drafts: Drafts): OutlineSource {
  const shown = (line: OutlineLine | undefined): OutlineLine | undefined =>
    line?.kind === 'row' ? { ...line, row: drafts.shown(line.row) } : line;
  return {
    ...source,
    row: (position) => shown(source.row(position)),
    subscribe: (listener) => both(source.subscribe(listener), drafts.subscribe(listener)),
  };
}

function both(one: () => void, other: () => void): () => void {
  return () => {
    one();
    other();
  };
}
