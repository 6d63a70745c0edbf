import {
  idIn,
  isSetName,
  rowIn,
  rowName,
  setIn,
  setName,
  textOfRow,
  textOfSet,
  type DraftStore,
  type SentSet,
  type StoredRow,
} from './draft-store.ts';
import { setOf, type RowState } from './row-state.ts';

/** What other pages have written. */
export interface ReadRows {
  readonly isChanged: boolean;
  /** Rows whose requests were answered in other pages. */
  readonly answered: ReadonlySet<string>;
}

/**
 * The edited rows of all pages that share a store, each under a name of its own: a page writes the
 * rows that it changes, and reads the others. What the store has no room for stays in this page.
 */
export class SharedRows {
  readonly page: string;
  private readonly store: DraftStore | undefined;
  private readonly known = new Map<string, StoredRow>();
  private readonly sent = new Map<string, SentSet>();
  /** Texts as they were read or written last, by their names. */
  private texts: ReadonlyMap<string, string> = new Map();
  /** Names that the store has no room for. */
  private readonly unstored = new Set<string>();

  constructor(store: DraftStore | undefined, page: string) {
    this.store = store;
    this.page = page;
    this.read();
  }

  get storage(): 'stored' | 'full' {
    return this.unstored.size === 0 ? 'stored' : 'full';
  }

  row(id: string): StoredRow | undefined {
    return this.known.get(id);
  }

  /** In the order in which they were begun. */
  rows(): readonly (readonly [id: string, row: StoredRow])[] {
    return [...this.known].sort(([, one], [, other]) => one.order - other.order);
  }

  sets(): readonly SentSet[] {
    return [...this.sent.values()];
  }

  /** Takes over what other pages have written. */
  read(): ReadRows {
    if (this.store === undefined) return { isChanged: false, answered: new Set() };
    const before = new Map(this.sent);
    const texts = this.store.read();
    const changed = [...new Set([...texts.keys(), ...this.texts.keys()])].filter(
      (name) => texts.get(name) !== this.texts.get(name) && !this.unstored.has(name),
    );
    this.texts = new Map(texts);
    for (const name of changed) this.take(name, texts.get(name));
    // A request whose rows are stored and which is not was ended by its page as it went.
    for (const [id, { state, ...rest }] of this.known) {
      const set = setOf(state);
      if (set === undefined || this.sent.has(set)) continue;
      const draft = state.kind === 'sending' ? state.sent : 'draft' in state && state.draft;
      if (draft) this.known.set(id, { ...rest, state: { kind: 'draft', draft } });
      else this.known.delete(id);
    }
    const ended = [...before.values()].filter(({ key }) => !this.sent.has(key));
    const answered = new Set(ended.flatMap(({ drafts }) => drafts.map(({ id }) => id)));
    return { isChanged: changed.length > 0, answered };
  }

  /** A state as it is stored: as an edit of this page, or where its row stands already. */
  stored(state: RowState, known: StoredRow | undefined): StoredRow {
    const orders = [...this.known.values()].map(({ order }) => order);
    const { page = this.page, order = Math.max(0, ...orders) + 1 } = known ?? {};
    return { state, page, order };
  }

  /** Stores the state of a row; undefined where nothing is edited any more. */
  put(id: string, row: StoredRow | undefined): void {
    const before = this.known.get(id);
    if (row === undefined) this.known.delete(id);
    else this.known.set(id, before === undefined ? row : { ...row, order: before.order });
    const now = this.known.get(id);
    const set = setOf(now?.state);
    // Without its request another page would take the row for one that nobody has sent.
    if (set !== undefined && this.unstored.has(setName(set))) this.hide(rowName(id));
    else if (!this.write(rowName(id), now && textOfRow(now))) this.hide(rowName(id));
  }

  /** A request as all pages know it; undefined once it was answered. */
  set(key: string): SentSet | undefined {
    return this.sent.get(key);
  }

  /** Notes that a request is sent, once more. */
  begin(set: SentSet): void {
    const { sends = 0 } = this.sent.get(set.key) ?? {};
    const sent = { ...set, sends: sends + 1 };
    this.sent.set(set.key, sent);
    const name = setName(set.key);
    const isStored = this.texts.has(name);
    // Without room for how often it was sent the older text stays: other pages wait for the request.
    if (!this.write(name, textOfSet(sent)) && !isStored) this.hide(name);
  }

  end(key: string): void {
    this.sent.delete(key);
    if (!this.write(setName(key), undefined)) this.hide(setName(key));
  }

  private take(name: string, text: string | undefined): void {
    const id = idIn(name);
    if (id !== undefined) {
      const row = text === undefined ? undefined : rowIn(text);
      if (row === undefined) this.known.delete(id);
      else this.known.set(id, row);
      return;
    }
    if (!isSetName(name)) return;
    const set = text === undefined ? undefined : setIn(text);
    if (set !== undefined) this.sent.set(set.key, set);
    else for (const key of this.sent.keys()) if (setName(key) === name) this.forget(key);
  }

  /** Another page has ended a request. What it came to is not known of rows that only this page has. */
  private forget(key: string): void {
    const isNeeded = [...this.known].some(
      ([id, { state }]) => setOf(state) === key && this.unstored.has(rowName(id)),
    );
    if (isNeeded) this.unstored.add(setName(key));
    else this.sent.delete(key);
  }

  /** Writes a text; undefined removes it. False where there is no room for it. */
  private write(name: string, text: string | undefined): boolean {
    if (this.store === undefined) return true;
    const texts = new Map(this.texts);
    this.unstored.delete(name);
    try {
      this.store.write(name, text);
      if (text === undefined) texts.delete(name);
      else texts.set(name, text);
    } catch {
      return false;
    }
    this.texts = texts;
    return true;
  }

  /** Keeps something in this page alone: what the store has of it is older, and may not come back. */
  private hide(name: string): void {
    const texts = new Map(this.texts);
    this.unstored.add(name);
    texts.delete(name);
    this.texts = texts;
    try {
      this.store?.write(name, undefined);
    } catch {
      // Nothing is stored where that is not allowed.
    }
  }
}
