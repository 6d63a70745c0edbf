import { problem } from '../problem/index.ts';
import type { ReadView } from './read-address.ts';
import { savedViewSchema } from './saved-schema.ts';
import { viewOfSaved } from './view-of-saved.ts';
import { savedViewVersion } from './view.ts';

/** Reads what was saved, whatever it is; every error with the member that it lies in. */
export function readSavedView(saved: unknown): ReadView {
  const read = savedViewSchema.safeParse(saved);
  if (!read.success) {
    const { version } = (saved ?? {}) as { readonly version?: unknown };
    if (typeof version === 'number' && version > savedViewVersion) {
      return { view: {}, problems: [problem('newer-view', { version, known: savedViewVersion })] };
    }
    const problems = read.error.issues.map(({ path, message }) => ({
      ...problem('malformed-view', { expected: `a saved view of version ${savedViewVersion}` }),
      hint: message,
      ...(path.length === 0 ? {} : { parameter: path.join('.') }),
    }));
    return { view: {}, problems };
  }
  return viewOfSaved(read.data);
}

/** The same of the JSON text that it was stored as. */
export function readSavedText(text: string): ReadView {
  let saved: unknown;
  try {
    saved = JSON.parse(text);
  } catch {
    // What is no JSON is no saved view either.
  }
  return readSavedView(saved);
}
