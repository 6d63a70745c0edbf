/**
 * Amounts by index, and how much lies before one: both in O(log n). Only what is not zero takes
 * room. A Fenwick tree (P. Fenwick, "A new data structure for cumulative frequency tables", 1994).
 */
export class PrefixSums {
  private readonly nodes = new Map<number, number>();
  private readonly top: number;

  /** For indexes from 0 up to, not including, `length`. */
  constructor(length: number) {
    let top = 1;
    while (top < length) top *= 2;
    this.top = top;
  }

  add(index: number, amount: number): void {
    for (let node = index + 1; node <= this.top; node += lowestBit(node)) {
      const sum = (this.nodes.get(node) ?? 0) + amount;
      if (sum === 0) this.nodes.delete(node);
      else this.nodes.set(node, sum);
    }
  }

  /** The amounts of all indexes before this one. */
  before(index: number): number {
    let sum = 0;
    for (let node = index; node > 0; node -= lowestBit(node)) sum += this.nodes.get(node) ?? 0;
    return sum;
  }

  /**
   * The last index before which, each index counted as one on top of its amount, no more than
   * `position` lies.
   */
  find(position: number): number {
    let index = 0;
    let left = position;
    for (let step = this.top; step >= 1; step /= 2) {
      const node = index + step;
      if (node > this.top) continue;
      const held = step + (this.nodes.get(node) ?? 0);
      if (held > left) continue;
      index = node;
      left -= held;
    }
    return index;
  }
}

function lowestBit(node: number): number {
  // Bit operations end at 32 bits.
  if (node < 2 ** 31) return node & -node;
  let bit = 1;
  while (node % (bit * 2) === 0) bit *= 2;
  return bit;
}
