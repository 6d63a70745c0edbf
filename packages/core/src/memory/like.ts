/**
 * LIKE: `%` any text, `_` one character, `\` takes the next one literally. Steps through both
 * once, going back to the last `%` at most, so that no pattern makes it slow.
 */
export function isLike(text: string, pattern: string): boolean {
  const characters = [...text];
  const parts = partsOf(pattern);
  let at = 0;
  let part = 0;
  let lastAny = -1;
  let resume = 0;
  while (at < characters.length) {
    const wanted = parts[part];
    if (wanted?.kind === 'any') {
      lastAny = part;
      resume = at;
      part += 1;
    } else if (
      wanted !== undefined &&
      (wanted.kind === 'one' || wanted.character === characters[at])
    ) {
      at += 1;
      part += 1;
    } else if (lastAny !== -1) {
      part = lastAny + 1;
      resume += 1;
      at = resume;
    } else return false;
  }
  return parts.slice(part).every(({ kind }) => kind === 'any');
}

type Part =
  | { readonly kind: 'any' | 'one'; readonly character?: never }
  | { readonly kind: 'literal'; readonly character: string };

function partsOf(pattern: string): Part[] {
  const parts: Part[] = [];
  let escaped = false;
  for (const character of pattern) {
    if (escaped) parts.push({ kind: 'literal', character });
    else if (character === '%') parts.push({ kind: 'any' });
    else if (character === '_') parts.push({ kind: 'one' });
    else if (character !== '\\') parts.push({ kind: 'literal', character });
    escaped = !escaped && character === '\\';
  }
  return parts;
}
