/** How many pages of `size` rows a total makes; an empty result has one, empty, page. */
export function pageCount(total: number, size: number): number {
  return Math.max(1, Math.ceil(total / size));
}

/**
 * A few page numbers to offer: the first, the last, and those around the current one; null
 * stands for a gap. `pageNumbers(7, 4000)` is `[1, null, 6, 7, 8, null, 4000]`. A gap of a
 * single page is that page.
 */
export function pageNumbers(current: number, count: number): (number | null)[] {
  const around = [1, current - 1, current, current + 1, count];
  const wanted = [...new Set(around)].filter((page) => page >= 1 && page <= count);
  const numbers: (number | null)[] = [];
  let previous = 0;
  for (const page of wanted.sort((one, other) => one - other)) {
    if (page === previous + 2) numbers.push(page - 1);
    else if (page > previous + 2) numbers.push(null);
    numbers.push(page);
    previous = page;
  }
  return numbers;
}
