import { readFileSync } from 'node:fs';

const file = new URL('../package.json', import.meta.url);

/** The version of the package. */
export const version = (JSON.parse(readFileSync(file, 'utf8')) as { version: string }).version;
