/** The order of texts: negative, zero or positive, as a collation has it. */
export type TextOrder = (one: string, other: string) => number;

/** The order of the collations "C", "POSIX" and C.UTF-8: by code point. */
export const byCodePoint: TextOrder = (one, other) => {
  const [a, b] = [[...one], [...other]];
  for (let at = 0; at < a.length && at < b.length; at += 1) {
    const difference = (a[at]?.codePointAt(0) ?? 0) - (b[at]?.codePointAt(0) ?? 0);
    if (difference !== 0) return difference;
  }
  return a.length - b.length;
};

/**
 * The order of a deterministic ICU collation, such as `und-x-icu`: by the collator of its
 * language, and by code point where that sees no difference.
 */
export function byCollator(compare: (one: string, other: string) => number): TextOrder {
  return (one, other) => compare(one, other) || byCodePoint(one, other);
}

const collator = new Intl.Collator('und');

/** The order of Unicode's root collation, `und-x-icu`. */
export const unicodeOrder: TextOrder = byCollator((one, other) => collator.compare(one, other));
