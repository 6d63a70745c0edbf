/** How a question names a stored selection among keys: no address of a row has a bare colon. */
const prefix = 'stored:';

/** The id that a member of SELECTED names; undefined for a key. */
export function storedSelectionId(member: string): string | undefined {
  return member.startsWith(prefix) ? member.slice(prefix.length) : undefined;
}

/** A stored selection as a member of SELECTED. */
export function storedSelectionMember(id: string): string {
  return `${prefix}${id}`;
}

/** The ids that some texts of a question may name: all of them, and perhaps more. */
export function storedSelectionIds(texts: Iterable<string | undefined>): readonly string[] {
  const ids = [...texts].flatMap((text) =>
    [...(text ?? '').matchAll(/stored:([\w-]+)/g)].map(([, id = '']) => id),
  );
  return [...new Set(ids)];
}
