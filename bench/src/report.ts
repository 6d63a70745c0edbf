/** One line of the report. */
export interface Figure {
  readonly what: string;
  readonly ours: string;
  /** The same job done by hand, or whatever else it is held against. */
  readonly against?: string;
  /** Ours divided by the other. */
  readonly ratio?: number;
  /** What was to be reached, in words, and whether it was. */
  readonly target?: string;
  readonly met?: boolean;
}

const columns = ['what', 'Ephoros', 'held against', 'ratio', 'to reach', 'reached'] as const;

/** The figures as a Markdown table (GitHub Flavored Markdown). */
export function asTable(figures: readonly Figure[]): string {
  const lines = figures.map(({ what, ours, against, ratio, target, met }) => [
    what,
    ours,
    against ?? '',
    ratio === undefined ? '' : inWords(ratio),
    target ?? '',
    met === undefined ? '' : met ? 'yes' : '**no**',
  ]);
  const rows = [columns, columns.map(() => '---'), ...lines];
  return rows.map((row) => `| ${row.join(' | ')} |`).join('\n');
}

function inWords(ratio: number): string {
  return ratio >= 0.095 ? ratio.toFixed(2) : `1/${Math.round(1 / ratio)}`;
}

export function milliseconds(value: number): string {
  return value >= 100
    ? `${Math.round(value).toLocaleString('en-GB')} ms`
    : `${value.toFixed(1)} ms`;
}

/** The middle one of some figures. */
export function median(values: readonly number[]): number {
  return [...values].sort((one, other) => one - other)[Math.floor(values.length / 2)] ?? NaN;
}

/** Two ways to do a thing, by the medians of their times in ms. */
export function compared(
  what: string,
  ours: readonly number[],
  theirs: readonly number[],
  against: string,
  most?: number,
): Figure {
  const ratio = median(ours) / median(theirs);
  return {
    what,
    ours: milliseconds(median(ours)),
    against: `${against} ${milliseconds(median(theirs))}`,
    ratio,
    ...(most === undefined ? {} : { target: `at most ${most}`, met: ratio <= most }),
  };
}
