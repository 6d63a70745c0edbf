/** An item of an array as PostgreSQL writes it; null for null. */
export function arrayItem(value: string | null): string {
  return value === null ? 'NULL' : `"${value.replace(/["\\]/g, '\\$&')}"`;
}

/** An array of one dimension as PostgreSQL writes it: {"a",NULL}. */
export function arrayText(items: readonly (string | null)[]): string {
  return `{${items.map(arrayItem).join(',')}}`;
}
