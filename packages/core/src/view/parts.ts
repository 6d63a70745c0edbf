import { and, type Expression } from '../expression/index.ts';
import { sortInForce, termsOf, type SortTerm, type Term, type TotalKind } from '../query/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { withSort } from './sort.ts';
import { changed, type Reading, type View } from './view.ts';

/**
 * A part of a view that one phrase of its sentence says. The sentence is a spelling of a view like
 * any other: cut into parts, and put together of them again.
 */
export type ViewPart =
  /** One of the conditions that the filter joins by AND. */
  | { readonly kind: 'condition'; readonly condition: Expression }
  | { readonly kind: 'search'; readonly words: readonly string[] }
  | { readonly kind: 'group'; readonly term: Term }
  | { readonly kind: 'aggregate'; readonly term: Term }
  | { readonly kind: 'sort'; readonly term: SortTerm }
  /** How the rows are read and counted. */
  | {
      readonly kind: 'reading';
      readonly reading?: Reading;
      readonly limit?: number;
      readonly total?: TotalKind;
    };

/** The parts of a view in the order of its sentence; a sort is always among them, if only the table's own. */
export function partsOf(view: View, table: TableDescription): readonly ViewPart[] {
  const { filter, search, group = [], aggregate = [], reading, limit, total } = view;
  return [
    ...termsOf(filter).map((condition): ViewPart => ({ kind: 'condition', condition })),
    ...(search === undefined ? [] : [{ kind: 'search' as const, words: search }]),
    ...group.map((term): ViewPart => ({ kind: 'group', term })),
    ...aggregate.map((term): ViewPart => ({ kind: 'aggregate', term })),
    ...sortInForce(view, table).map((term): ViewPart => ({ kind: 'sort', term })),
    {
      kind: 'reading',
      ...(reading && { reading }),
      ...(limit !== undefined && { limit }),
      ...(total && { total }),
    },
  ];
}

/** The view with these parts in place of its own; what no sentence says stays, but for its place. */
export function withParts(view: View, parts: readonly ViewPart[], table: TableDescription): View {
  const of = <Kind extends ViewPart['kind']>(kind: Kind): Extract<ViewPart, { kind: Kind }>[] =>
    parts.filter((part): part is Extract<ViewPart, { kind: Kind }> => part.kind === kind);
  const [reading] = of('reading');
  const words = of('search').flatMap((part) => part.words);
  const group = of('group').map(({ term }) => term);
  const aggregate = of('aggregate').map(({ term }) => term);
  const next = changed(view, {
    filter: and(of('condition').map(({ condition }) => condition)),
    search: words.length === 0 ? undefined : words,
    group: group.length === 0 ? undefined : group,
    aggregate: aggregate.length === 0 ? undefined : aggregate,
    sort: undefined,
    reading: reading?.reading,
    limit: reading?.limit,
    total: reading?.total,
    place: undefined,
  });
  return withSort(
    next,
    of('sort').map(({ term }) => term),
    table,
  );
}
