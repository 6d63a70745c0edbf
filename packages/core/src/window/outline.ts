import { PrefixSums } from './prefix-sums.ts';

/**
 * A line of an outline: its number among the lines around it, behind those of the groups that it
 * lies in, the outermost first. Stays the same while groups are opened and closed.
 */
export type LinePath = readonly number[];

/**
 * The lines of a grouped result as they appear when some groups are open. Knows how many there
 * are and where each stands, in O(log n) of the lines of each level, and nothing of what is in
 * them. All paths given must name lines that are there.
 */
export class Outline {
  private readonly root = new Section(0);

  /** All lines that can be visible. */
  get length(): number {
    return this.root.size;
  }

  /** How many lines lie directly in a group; an empty path is the outermost level. */
  count(path: LinePath): number {
    return this.section(path)?.count ?? 0;
  }

  /** Another number of lines directly in an open group, as others write. */
  resize(path: LinePath, count: number): void {
    const section = this.section(path);
    if (section === undefined || section.count === count) return;
    this.grow(path, section.resize(count));
  }

  isOpen(path: LinePath): boolean {
    return this.section(path) !== undefined;
  }

  /** Opens a group in which so many lines lie. The groups around it are open. */
  open(path: LinePath, count: number): void {
    const parent = this.section(path.slice(0, -1));
    const index = path.at(-1);
    if (parent === undefined || index === undefined || parent.children.has(index)) return;
    parent.children.set(index, new Section(count));
    this.grow(path, count);
  }

  /** Closes a group and all in it. */
  close(path: LinePath): void {
    const parent = this.section(path.slice(0, -1));
    const index = path.at(-1);
    const section = index === undefined ? undefined : parent?.children.get(index);
    if (parent === undefined || index === undefined || section === undefined) return;
    this.grow(path, -section.size);
    parent.children.delete(index);
  }

  /** Closes all groups. */
  closeAll(): void {
    for (const index of [...this.root.children.keys()]) this.close([index]);
  }

  /** The open groups in a group, or outermost ones, in no order. */
  openIn(path: LinePath): readonly LinePath[] {
    return [...(this.section(path)?.children.keys() ?? [])].map((index) => [...path, index]);
  }

  /** The line at a position, counted from 0 and less than `length`. */
  at(position: number): LinePath {
    const path: number[] = [];
    let section = this.root;
    let left = position;
    for (;;) {
      const index = section.sums.find(left);
      path.push(index);
      const inside = left - index - section.sums.before(index);
      const child = section.children.get(index);
      if (inside === 0 || child === undefined) return path;
      section = child;
      left = inside - 1;
    }
  }

  /** Where a line stands, counted from 0; of one in a closed group, where that group stands. */
  positionOf(path: LinePath): number {
    let position = -1;
    let section: Section | undefined = this.root;
    for (const wanted of path) {
      if (section === undefined) return position;
      // Others may have taken lines away.
      const index = Math.min(wanted, Math.max(0, section.count - 1));
      position += 1 + index + section.sums.before(index);
      section = index === wanted ? section.children.get(index) : undefined;
    }
    return position;
  }

  /** How many lines a group takes in addition to its own. */
  sizeOf(path: LinePath): number {
    return this.section(path)?.size ?? 0;
  }

  private section(path: LinePath): Section | undefined {
    let section: Section | undefined = this.root;
    for (const index of path) section = section?.children.get(index);
    return section;
  }

  /** Tells the groups around a line that it takes more room. */
  private grow(path: LinePath, amount: number): void {
    let section: Section | undefined = this.root;
    for (const index of path) {
      section?.sums.add(index, amount);
      if (section !== undefined) section.size += amount;
      section = section?.children.get(index);
    }
  }
}

/** The lines directly in one group, some of them open. */
class Section {
  readonly children = new Map<number, Section>();
  count: number;
  /** With all that lies in open ones. */
  size: number;
  sums: PrefixSums;

  constructor(count: number) {
    this.count = count;
    this.size = count;
    this.sums = new PrefixSums(count);
  }

  /** Gives back how much the size has changed. */
  resize(count: number): number {
    const before = this.size;
    for (const index of this.children.keys()) if (index >= count) this.children.delete(index);
    this.count = count;
    this.size = count;
    this.sums = new PrefixSums(count);
    for (const [index, child] of this.children) {
      this.sums.add(index, child.size);
      this.size += child.size;
    }
    return this.size - before;
  }
}
