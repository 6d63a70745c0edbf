import { lstat, rm, stat, writeFile } from 'node:fs/promises';
import { InputError } from './input-error.ts';
import { plain } from './output/plain.ts';

/** What a terminal would show as signs without meaning. */
export const forFiles = 'This is nothing for a terminal: give --out with a file.';

/** Nothing is replaced that nobody stated may be. @throws InputError */
export async function expectFree(path: string, overwrite: boolean): Promise<void> {
  // A link that leads nowhere is there as well.
  const isFree = await lstat(path).then(
    () => false,
    () => true,
  );
  if (overwrite || isFree) return;
  throw new InputError(
    `There is a file ${plain(path)} already: give --overwrite, or another name.`,
  );
}

/** Writes a file that is not there, or in place of one: never through a link. @throws InputError */
export async function putFile(path: string, body: Uint8Array, overwrite: boolean): Promise<void> {
  try {
    if (overwrite) await rm(path, { force: true });
    await writeFile(path, body, { flag: 'wx' });
  } catch (thrown) {
    throw unwritable(thrown);
  }
}

export function unwritable(thrown: unknown): InputError {
  return new InputError(`The file cannot be written: ${plain((thrown as Error).message)}`);
}

/** Bytes of a file; undefined where there is none. */
export async function sizeOf(path: string): Promise<number | undefined> {
  return (await stat(path).catch(() => undefined))?.size;
}
