/** What a look means: from calm to at fault. Each has a tint and a mark of its own. */
export const tones = ['calm', 'note', 'good', 'warn', 'fault'] as const;

export type Tone = (typeof tones)[number];

/** The ends of a scale; the least and the greatest value that is shown, where they are absent. */
interface ScaleEnds {
  readonly from?: number | undefined;
  readonly to?: number | undefined;
}

/**
 * A rule from a condition to a look, as JSON and YAML have it: `{"when":"toll > 100","tone":"warn",
 * "column":"toll"}` (of the row without a column), `{"bar":"toll"}`, `{"scale":"toll","from":0}`.
 */
export type WrittenPaintRule =
  | { readonly when: string; readonly tone: Tone; readonly column?: string | undefined }
  | ({ readonly bar: string } & ScaleEnds)
  | ({ readonly scale: string } & ScaleEnds);

/** Rules that a view or a table has at most. */
export const mostPaintRules = 50;
