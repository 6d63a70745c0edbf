/** Rows that are passed over without any ado: it takes a few ms. */
export const nearRows = 2_000;

/** What is known of a result when a window of it is requested. */
export interface Landmarks {
  /** The nearest milepost at or before the window's first row: how many rows lie before it. */
  readonly milepost?: number | undefined;
  /** How many rows there are. */
  readonly total?: number | undefined;
}

/** How a window is come to: from where, how many rows are passed over, and how many are read. */
export interface Approach {
  /** The beginning, a milepost, or the end; from the end the rows come in reverse. */
  readonly from: 'start' | 'milepost' | 'end';
  readonly skip: number;
  readonly limit: number;
}

/** The cheapest way to the rows `offset` up to `offset + limit`: the one that passes fewest rows. */
export function approach(offset: number, limit: number, { milepost, total }: Landmarks): Approach {
  const ways: Approach[] = [{ from: 'start', skip: offset, limit }];
  if (milepost !== undefined && milepost <= offset)
    ways.push({ from: 'milepost', skip: offset - milepost, limit });
  // Past the end there is nothing to come to from there.
  if (total !== undefined && offset < total) {
    const read = Math.min(limit, total - offset);
    ways.push({ from: 'end', skip: total - offset - read, limit: read });
  }
  return ways.reduce((best, way) => (way.skip < best.skip ? way : best));
}
