import { existsSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';

/** The folder of the built console; undefined where it is not installed or not built. */
export function consoleFolder(): string | undefined {
  try {
    const page = createRequire(import.meta.url).resolve('@ephoros/console/site/index.html');
    return existsSync(page) ? dirname(page) : undefined;
  } catch {
    return undefined;
  }
}
