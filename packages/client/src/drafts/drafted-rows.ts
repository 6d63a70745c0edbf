import type { Row } from '@ephoros/core/answer';
import type { LinePath } from '@ephoros/core/window';
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

/**
 * The lines of an outline with what is drafted of its rows; new rows stand before all groups. Their
 * paths are one negative number, so that the lines of the source keep their own.
 */
export function draftedOutline(source: OutlineSource, drafts: Drafts): OutlineSource {
  const made = new WeakMap<RowDraft, OutlineLine>();
  const now = remembered(source, drafts);
  const added = (): number => now().added.length;
  const shown = (line: OutlineLine | undefined): OutlineLine | undefined =>
    line?.kind === 'row' ? { ...line, row: drafts.shown(line.row) } : line;
  return {
    ...source,
    state: () => now().state,
    row: (position) => {
      const draft = now().added[position];
      if (draft === undefined) return shown(source.row(position - added()));
      const line = made.get(draft) ?? { kind: 'row', depth: 0, row: newRow(draft) };
      made.set(draft, line);
      return line;
    },
    setVisibleRows: (from, to) =>
      source.setVisibleRows(Math.max(0, from - added()), Math.max(0, to - added())),
    toggle: (position) => {
      if (position >= added()) source.toggle(position - added());
    },
    pathAt: (position) =>
      position < added() ? [position - added()] : source.pathAt(position - added()),
    positionOf: (path) => added() + (isOfNewRow(path) ? path[0] : source.positionOf(path)),
    endOf: (path) => added() + (isOfNewRow(path) ? path[0] + 1 : source.endOf(path)),
    generation: () => source.generation() + now().generation,
    subscribe: (listener) => both(source.subscribe(listener), drafts.subscribe(listener)),
  };
}

function isOfNewRow(path: LinePath): path is readonly [number] {
  return path[0] !== undefined && path[0] < 0;
}

interface Now {
  readonly of: SourceState;
  readonly drafts: DraftsState;
  readonly added: readonly RowDraft[];
  readonly state: SourceState;
  /** Another number whenever rows stand elsewhere because of new ones. */
  readonly generation: number;
}

/** The state of a source, with new rows counted in: another one with each change. */
function remembered(source: { readonly state: () => SourceState }, drafts: Drafts): () => Now {
  let known: Now | undefined;
  return () => {
    const of = source.state();
    const drafted = drafts.state();
    if (known?.of === of && known.drafts === drafted) return known;
    const added = drafted.rows.filter(({ kind }) => kind === 'added');
    const total = of.total === undefined ? undefined : of.total + added.length;
    const { generation = 0, added: last = [] } = known ?? {};
    known = {
      of,
      drafts: drafted,
      added,
      state: { ...of, total },
      generation: added.length === last.length ? generation : generation + 1,
    };
    return known;
  };
}

function both(one: () => void, other: () => void): () => void {
  return () => {
    one();
    other();
  };
}
