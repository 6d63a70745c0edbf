import { sectionsOf, type Section, type TableDescription } from '@ephoros/core/schema';
import type { SectionKind } from '@ephoros/core/schema';

/** A section with the names of its columns that are shown. */
export type ShownSection = { readonly names: readonly string[] } & (
  { readonly title: string } | { readonly kind: SectionKind }
);

/** The shown columns in their sections; what lies in other tables comes last. */
export function sectionsShown(
  table: TableDescription,
  shown: readonly string[],
): readonly ShownSection[] {
  const sections = sectionsOf(table).map((section: Section): ShownSection => {
    const names = section.columns.flatMap(({ name, shownAs }) =>
      [shownAs, name].filter((one): one is string => one !== undefined && shown.includes(one)),
    );
    return 'kind' in section ? { kind: section.kind, names } : { title: section.title, names };
  });
  const placed = new Set(sections.flatMap(({ names }) => names));
  const left = shown.filter((name) => !placed.has(name));
  const more = sections.find((section) => 'kind' in section && section.kind === 'more');
  const others = sections.filter((section) => section !== more);
  return [...others, { kind: 'more', names: [...(more?.names ?? []), ...left] }];
}
