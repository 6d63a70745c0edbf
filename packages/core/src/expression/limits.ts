/** What a filter may be at most. */
export interface ExpressionLimits {
  /** Levels of parentheses, NOT and function calls inside each other. */
  readonly depth: number;
  /** Members of one IN list. */
  readonly members: number;
  /** Columns, values, functions and conditions of a whole filter, members of lists apart. */
  readonly parts: number;
}

export const defaultLimits: ExpressionLimits = { depth: 100, members: 10_000, parts: 5_000 };
