import { browserStores } from './stores.ts';

/** A list of texts as a browser keeps it; none where it keeps something else. */
export function listIn(text: string): readonly string[] {
  try {
    const read: unknown = JSON.parse(text === '' ? '[]' : text);
    return Array.isArray(read) ? read.filter((one) => typeof one === 'string') : [];
  } catch {
    return [];
  }
}

/** Puts a text in front of a list that this browser keeps, which holds so many at most. */
export function putFirst(key: string, text: string, most: number): void {
  const others = listIn(browserStores.read(key)).filter((one) => one !== text);
  browserStores.write(key, JSON.stringify([text, ...others].slice(0, most)));
}
