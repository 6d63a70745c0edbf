import { JsonText } from '@ephoros/core/answer';
import type { Problem } from '@ephoros/core/problem';
import type { DraftConflict, RowDraft } from './draft.ts';
import type { RowState } from './row-state.ts';

/**
 * Where drafts are stored while a page is loaded again: a text for each row, so that several pages of
 * one browser can share a store without writing over each other's rows.
 */
export interface DraftStore {
  /** All texts, by their names. */
  readonly read: () => ReadonlyMap<string, string>;
  /** Stores a text under a name; undefined removes it. @throws where there is no room left */
  readonly write: (name: string, text: string | undefined) => void;
  /** Notifies when another page has written. */
  readonly subscribe?: (listener: () => void) => () => void;
}

/** A request that was sent and is not answered yet: its key, and what it saves. */
export interface SentSet {
  readonly key: string;
  readonly drafts: readonly RowDraft[];
  /** How often it was sent, by whichever page. */
  readonly sends: number;
}

/** The state of a row as it is stored: with the page in which it was edited last, and its place. */
export interface StoredRow {
  readonly state: RowState;
  readonly page: string;
  /** Rows are listed by it. */
  readonly order: number;
}

const version = 2;

const rowPrefix = 'row ';
const setPrefix = 'set ';

export function rowName(id: string): string {
  return `${rowPrefix}${id}`;
}

export function setName(key: string): string {
  return `${setPrefix}${key}`;
}

/** The id of the row that a name is of; undefined of other names. */
export function idIn(name: string): string | undefined {
  return name.startsWith(rowPrefix) ? name.slice(rowPrefix.length) : undefined;
}

export function isSetName(name: string): boolean {
  return name.startsWith(setPrefix);
}

export function textOfRow(row: StoredRow): string {
  return JSON.stringify({ version, ...row }, withExactJson);
}

export function textOfSet(set: SentSet): string {
  return JSON.stringify({ version, ...set }, withExactJson);
}

/** A row from its text; undefined where that is of another version, or no row. */
export function rowIn(text: string): StoredRow | undefined {
  const { state, page, order } = membersOf(text);
  return isState(state) && typeof page === 'string' && typeof order === 'number'
    ? { state, page, order }
    : undefined;
}

export function setIn(text: string): SentSet | undefined {
  const { key, drafts, sends } = membersOf(text);
  const isWhole = typeof key === 'string' && typeof sends === 'number';
  return isWhole && Array.isArray(drafts) && drafts.every(isDraft)
    ? { key, drafts, sends }
    : undefined;
}

/** The member under which JSON with more digits than JavaScript holds is stored as a text. */
const exactMember = 'ephoros:json';

function withExactJson(this: unknown, name: string, value: unknown): unknown {
  const own = (this as Readonly<Record<string, unknown>>)[name];
  return own instanceof JsonText ? { [exactMember]: own.text } : value;
}

function exactJson(_name: string, value: unknown): unknown {
  const text =
    typeof value === 'object' && value !== null && exactMember in value
      ? value[exactMember]
      : undefined;
  return typeof text === 'string' ? new JsonText(text) : value;
}

function membersOf(text: string): Readonly<Record<string, unknown>> {
  try {
    const read = JSON.parse(text, exactJson) as Readonly<Record<string, unknown>> | null;
    return read?.version === version ? read : {};
  } catch {
    return {};
  }
}

function isState(read: unknown): read is RowState {
  const { kind, draft, sent, set, conflict, problems } = (read ?? {}) as Readonly<
    Record<string, unknown>
  >;
  switch (kind) {
    case 'draft':
      return isDraft(draft);
    case 'sending':
      return isDraft(sent) && typeof set === 'string';
    case 'changed-since':
      return isDraft(sent) && typeof set === 'string' && (draft === undefined || isDraft(draft));
    case 'conflict':
      return isDraft(draft) && isConflict(conflict);
    case 'refused':
      return isDraft(draft) && areProblems(problems);
    default:
      return false;
  }
}

function isDraft(read: unknown): read is RowDraft {
  const { id, kind, observed, values } = (read ?? {}) as Readonly<Record<string, unknown>>;
  const known = kind === 'added' || kind === 'changed' || kind === 'struck';
  return (
    typeof id === 'string' && known && typeof observed === 'object' && typeof values === 'object'
  );
}

function isConflict(read: unknown): read is DraftConflict {
  const { columns, now } = (read ?? {}) as Readonly<Record<string, unknown>>;
  return Array.isArray(columns) && typeof now === 'object';
}

function areProblems(read: unknown): read is readonly Problem[] {
  return Array.isArray(read);
}
