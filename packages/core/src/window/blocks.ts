/** Blocks `first` to `last`, both included; empty when `last` is less than `first`. */
export interface BlockRange {
  readonly first: number;
  readonly last: number;
}

/** The blocks of `size` rows that hold the rows `from` up to, not including, `to`. */
export function blocksOf(from: number, to: number, size: number): BlockRange {
  if (to <= from) return { first: 0, last: -1 };
  return { first: Math.floor(Math.max(0, from) / size), last: Math.floor((to - 1) / size) };
}
