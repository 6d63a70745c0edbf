import type { Row } from '@ephoros/core/answer';
import type { OutlineLine, OutlineSource } from '../outline.ts';
import type { RowSource, SourceState } from '../row-source.ts';
import { newRow, type RowDraft } from './draft.ts';
import type { DraftsState } from './drafts-state.ts';
import type { Drafts } from './drafts.ts';

/** The rows of a source with what is drafted of them; new rows stand before all others. */
export function draftedRows(source: RowSource, drafts: Drafts): RowSource {
  const made = new WeakMap<RowDraft, Row>();
  const now = remembered(source, drafts);
  return {
    ...source,
    state: () => now().state,
    row: (position) => {
      const { added } = now();
      const draft = added[position];
      if (draft === undefined) {
        const row = source.row(position - added.length);
        return row && drafts.shown(row);
      }
      const row = made.get(draft) ?? newRow(draft);
      made.set(draft, row);
      return row;
    },
    setVisibleRows: (from, to) => {
      const { length } = now().added;
      source.setVisibleRows(Math.max(0, from - length), Math.max(0, to - length));
    },
    subscribe: (listener) => both(source.subscribe(listener), drafts.subscribe(listener)),
  };
}

/** The lines of an outline with what is drafted of its rows. New rows stand in no group yet. */
export function draftedOutline(source: OutlineSource, drafts: Drafts): OutlineSource {
  const now = remembered(source, drafts, false);
  const shown = (line: OutlineLine | undefined): OutlineLine | undefined =>
    line?.kind === 'row' ? { ...line, row: drafts.shown(line.row) } : line;
  return {
    ...source,
    state: () => now().state,
    row: (position) => shown(source.row(position)),
    subscribe: (listener) => both(source.subscribe(listener), drafts.subscribe(listener)),
  };
}

interface Now {
  readonly of: SourceState;
  readonly drafts: DraftsState;
  readonly added: readonly RowDraft[];
  readonly state: SourceState;
}

/** The state of a source, with new rows counted in where these are shown: another one with each change. */
function remembered(
  source: { readonly state: () => SourceState },
  drafts: Drafts,
  shown = true,
): () => Now {
  let known: Now | undefined;
  return () => {
    const of = source.state();
    const drafted = drafts.state();
    if (known?.of === of && known.drafts === drafted) return known;
    const added = shown ? drafted.rows.filter(({ kind }) => kind === 'added') : [];
    const total = of.total === undefined ? undefined : of.total + added.length;
    known = { of, drafts: drafted, added, state: { ...of, total } };
    return known;
  };
}

function both(one: () => void, other: () => void): () => void {
  return () => {
    one();
    other();
  };
}
