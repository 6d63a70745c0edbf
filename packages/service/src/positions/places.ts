import { EntryFile } from './entry-file.ts';
import { readKey, widthOf, writeKey, type PlaceKind } from './place-codec.ts';

export type Key = readonly string[];
type Values = readonly (string | null)[];

/** Rows found to be gone that are remembered; with more the places are of no use. */
export const mostGone = 5_000;

/** Keys that a list has room for in the beginning. */
const firstKeys = 256;

/** Groups whose places are remembered. */
const mostGroups = 100_000;

/** Keys that are found before others that stand before them: as bytes, since they are many. */
export class KeyList {
  /** Whether all of them have room in a place. */
  fits = true;
  private readonly kinds: readonly PlaceKind[];
  private readonly width: number;
  private bytes: Buffer;
  private length = 0;

  constructor(kinds: readonly PlaceKind[]) {
    this.kinds = kinds;
    this.width = widthOf(kinds);
    this.bytes = Buffer.alloc(firstKeys * this.width);
  }

  /** Adds the next key, where it has room. */
  add(key: Values): void {
    if (!this.fits) return;
    if (this.length === this.bytes.length) {
      this.bytes = Buffer.concat([this.bytes, Buffer.alloc(this.bytes.length)]);
    }
    this.fits = writeKey(this.kinds, key, this.bytes, this.length);
    if (this.fits) this.length += this.width;
  }

  get entries(): Buffer {
    return this.bytes.subarray(0, this.length);
  }
}

/** The keys of a result in its order, as far as they are found. */
export class Places {
  readonly kinds: readonly PlaceKind[];
  /** Whether all of them are found. */
  complete = false;
  private readonly file: EntryFile;
  /** Places whose rows are gone, in order. */
  private readonly gone: number[] = [];
  /** Where chunks ended: the sort values of the last row looked at, and how many were found by then. */
  private readonly edges = new Map<string, number>();
  private lastEdge: { readonly values: Values; readonly rows: number } | undefined;
  /** Where the groups begin, by their values, in order; those of the last one. */
  private readonly groups = new Map<string, { from: number; to?: number }>();
  private lastGroup: Values | undefined;
  /** A place that was requested lately: the next one is near. */
  private near = 0;

  private constructor(file: EntryFile, kinds: readonly PlaceKind[]) {
    this.file = file;
    this.kinds = kinds;
  }

  static async create(folder: string, kinds: readonly PlaceKind[]): Promise<Places> {
    return new Places(await EntryFile.create(folder, widthOf(kinds)), kinds);
  }

  /** Rows found so far that are still there, as far as anybody knows. */
  get count(): number {
    return this.file.length - this.gone.length;
  }

  get bytes(): number {
    return this.file.bytes;
  }

  /** Bytes that they take up in memory, about. */
  get held(): number {
    return this.file.held + this.edges.size * 200 + this.gone.length * 8 + this.groups.size * 150;
  }

  get goneCount(): number {
    return this.gone.length;
  }

  /** The sort values of the last row that was looked at; undefined where nobody scans. */
  get edge(): Values | undefined {
    return this.lastEdge?.values;
  }

  /** Rows found up to there: with those found behind it no window goes on at the edge. */
  get countToEdge(): number {
    const rows = this.lastEdge?.rows ?? 0;
    return rows - this.goneBefore(rows);
  }

  /** Adds the next key; false where it has no room in a place. Behind it may stand the values of its group. */
  add(key: Values): boolean {
    const isIn = this.file.add((into, at) => writeKey(this.kinds, key, into, at));
    return isIn && (key.length === this.kinds.length || this.addToGroup(key));
  }

  /** An empty list of keys, which can be added later as a whole. */
  list(): KeyList {
    return new KeyList(this.kinds);
  }

  /** Adds keys by their bytes. */
  addEntries(entries: Buffer): void {
    this.file.addAll(entries);
  }

  /** Resolves when little waits on its way into the file; undefined where that is so. */
  drained(): Promise<void> | undefined {
    return this.file.drained();
  }

  /** The rows of a group; undefined where they are not known, yet. */
  groupOf(values: Values): { readonly begin: number; readonly count: number } | undefined {
    const group = this.groups.get(JSON.stringify(values));
    const end = group?.to ?? (this.complete ? this.file.length : undefined);
    if (group === undefined || end === undefined) return undefined;
    const begin = group.from - this.goneBefore(group.from);
    return { begin, count: end - this.goneBefore(end) - begin };
  }

  /** Says up to which row the result was looked through. */
  reach(edge: Values): void {
    this.lastEdge = { values: edge, rows: this.file.length };
    this.edges.set(JSON.stringify(edge), this.file.length);
  }

  /** Keys from the row on before which `offset` rows lie. */
  async keys(offset: number, count: number): Promise<readonly Key[]> {
    const found: Key[] = [];
    let at = this.placeOf(offset);
    while (found.length < count && at < this.file.length) {
      const read = await this.file.read(at, count - found.length + this.gone.length);
      const width = widthOf(this.kinds);
      const dead = new Set(this.gone);
      for (let index = 0; index * width < read.length && found.length < count; index += 1) {
        if (!dead.has(at)) found.push(readKey(this.kinds, read, index * width));
        at += 1;
      }
    }
    this.near = at;
    return found;
  }

  /** How many rows lie before the row with a key, or up to an edge; undefined where there is none such. */
  async offsetOf(
    key: Values,
    values: Values,
  ): Promise<{ rows: number; self: boolean } | undefined> {
    const edge = this.edges.get(JSON.stringify(values));
    const at = await this.placeOfKey(key);
    if (at !== undefined) return { rows: at - this.goneBefore(at), self: true };
    return edge === undefined ? undefined : { rows: edge - this.goneBefore(edge), self: false };
  }

  /** Takes out the rows with some keys, which lie from `offset` on: they are gone. */
  async lose(keys: readonly Key[], offset: number): Promise<void> {
    for (const key of keys) {
      this.near = this.placeOf(offset);
      const at = await this.placeOfKey(key);
      if (at === undefined || this.gone.includes(at)) continue;
      this.gone.splice(this.goneBefore(at), 0, at);
    }
  }

  /** Says that there are no more. Throws where the file did not take them. */
  async seal(): Promise<void> {
    await this.file.seal();
    this.complete = true;
  }

  close(): Promise<void> {
    return this.file.close();
  }

  private addToGroup(key: Values): boolean {
    const width = this.kinds.length;
    const last = this.lastGroup;
    if (last?.every((value, index) => value === key[width + index]) === true) {
      return true;
    }
    const before = last && this.groups.get(JSON.stringify(last));
    const from = this.file.length - 1;
    if (before !== undefined) before.to = from;
    const values = key.slice(width);
    const name = JSON.stringify(values);
    // A group in two pieces is none.
    if (this.groups.has(name) || this.groups.size >= mostGroups) return false;
    this.groups.set(name, { from });
    this.lastGroup = values;
    return true;
  }

  private async placeOfKey(key: Values): Promise<number | undefined> {
    const entry = Buffer.alloc(widthOf(this.kinds));
    if (!writeKey(this.kinds, key, entry, 0)) return undefined;
    return this.file.find(entry, this.near);
  }

  /** The place of the row before which so many rows lie that are there. */
  private placeOf(offset: number): number {
    let at = offset;
    for (const gone of this.gone) {
      if (gone > at) break;
      at += 1;
    }
    return at;
  }

  private goneBefore(at: number): number {
    const index = this.gone.findIndex((gone) => gone >= at);
    return index === -1 ? this.gone.length : index;
  }
}
