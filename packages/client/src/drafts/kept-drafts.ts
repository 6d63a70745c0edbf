import type { RowDraft } from './draft.ts';

/** What was sent and is not answered yet. */
export interface Pending {
  readonly key: string;
  readonly drafts: readonly RowDraft[];
}

const version = 1;

/** What a store keeps. */
export interface KeptDrafts {
  readonly rows: readonly RowDraft[];
  readonly pending: Pending | undefined;
}

/** The text that is kept; empty where there is nothing to keep. */
export function keptText({ rows, pending }: KeptDrafts): string {
  return rows.length === 0 && pending === undefined
    ? ''
    : JSON.stringify({ version, rows, pending });
}

/** What was kept; nothing where it is of another version, or no drafts at all. */
export function keptIn(text: string): KeptDrafts {
  const none = { rows: [], pending: undefined };
  if (text === '') return none;
  try {
    const read = JSON.parse(text) as Readonly<Record<string, unknown>>;
    if (read.version !== version || !areDrafts(read.rows)) return none;
    const { key, drafts } = (read.pending ?? {}) as Readonly<Record<string, unknown>>;
    const pending = typeof key === 'string' && areDrafts(drafts) ? { key, drafts } : undefined;
    return { rows: read.rows, pending };
  } catch {
    return none;
  }
}

function areDrafts(read: unknown): read is readonly RowDraft[] {
  return (
    Array.isArray(read) &&
    read.every((one: unknown) => {
      const { id, kind, seen, values } = (one ?? {}) as Readonly<Record<string, unknown>>;
      const known = kind === 'added' || kind === 'changed' || kind === 'struck';
      return (
        typeof id === 'string' && known && typeof seen === 'object' && typeof values === 'object'
      );
    })
  );
}
