/** A text as a string of JavaScript. */
export function quoted(text: string): string {
  if (text.includes("'") && !text.includes('"')) return JSON.stringify(text);
  const inner = JSON.stringify(text).slice(1, -1).replaceAll('\\"', '"').replaceAll("'", "\\'");
  return `'${inner}'`;
}

/** A text as one word of a shell. */
export function shellText(text: string): string {
  return `'${text.replaceAll("'", "'\\''")}'`;
}
