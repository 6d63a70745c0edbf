/**
 * Words and phrases in double quotes: `heron "north lock"` is two terms. A quote inside a phrase
 * is written twice; one that is never closed ends with the text. Empty phrases count for nothing.
 */
export function parseSearch(text: string): string[] {
  const terms: string[] = [];
  for (const [, phrase, word] of text.matchAll(/"((?:[^"]|"")*)"?|([^\s"]+)/g)) {
    const term = (phrase?.replaceAll('""', '"') ?? word ?? '').trim();
    if (term !== '') terms.push(term);
  }
  return terms;
}

export function printSearch(terms: readonly string[]): string {
  return terms
    .map((term) => (/[\s"]/.test(term) ? `"${term.replaceAll('"', '""')}"` : term))
    .join(' ');
}
