/** What a column or a table is called where nobody has stated: `wait_minutes` → "Wait minutes". */
export function labelOf(name: string): string {
  const words = name.replaceAll('_', ' ').trim();
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** A label in the middle of a sentence: "Passed at" → "passed at", "IBAN" stays. */
export function spoken(label: string): string {
  return /^\p{Lu}\p{Ll}/u.test(label) ? label.charAt(0).toLowerCase() + label.slice(1) : label;
}
