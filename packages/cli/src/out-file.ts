import { stat } from 'node:fs/promises';
import { InputError } from './input-error.ts';
import { plain } from './output/plain.ts';

/** What a terminal would show as signs without meaning. */
export const forFiles = 'This is nothing for a terminal: give --out with a file.';

/** Nothing is replaced that nobody said may be. @throws InputError */
export async function expectFree(path: string, overwrite: boolean): Promise<void> {
  if (overwrite || (await sizeOf(path)) === undefined) return;
  throw new InputError(
    `There is a file ${plain(path)} already: give --overwrite, or another name.`,
  );
}

export function unwritable(thrown: unknown): InputError {
  return new InputError(`The file cannot be written: ${plain((thrown as Error).message)}`);
}

/** Bytes of a file; undefined where there is none. */
export async function sizeOf(path: string): Promise<number | undefined> {
  return (await stat(path).catch(() => undefined))?.size;
}
