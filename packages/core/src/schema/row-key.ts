/** A key as the address of its row has it: its parts percent-encoded, joined by commas. */
export function printKey(parts: readonly string[]): string {
  return parts.map(encodeURIComponent).join(',');
}

/** The parts of a key from its spelling; undefined where that is no percent-encoded text. */
export function parseKey(text: string): readonly string[] | undefined {
  try {
    return text.split(',').map(decodeURIComponent);
  } catch {
    return undefined;
  }
}

/** The values of a row's key as texts, whether an answer has them as texts or as numbers. */
export function keyParts(
  row: Readonly<Record<string, unknown>>,
  key: readonly string[],
): readonly string[] {
  return key.map((name) => {
    const value = row[name] ?? null;
    return typeof value === 'string' ? value : JSON.stringify(value);
  });
}
