/** What a column or a table is called where nobody has said: `wait_minutes` → "Wait minutes". */
export function labelOf(name: string): string {
  const words = name.replaceAll('_', ' ').trim();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
