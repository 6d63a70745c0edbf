#!/usr/bin/env node
// Here from the start, so that npm links the command before anything is built.
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** Files that loading the service opens at once, with some to spare. */
const least = 256;

/** How many files this process may have open; undefined where the system does not say it. */
function openFiles() {
  try {
    const [, limit] =
      /^Max open files\s+(\d+)/m.exec(readFileSync('/proc/self/limits', 'utf8')) ?? [];
    return limit === undefined ? undefined : Number(limit);
  } catch {
    return undefined;
  }
}

const built = new URL('../program/main.js', import.meta.url);
const limit = openFiles();
if (limit !== undefined && limit < least) {
  process.stderr.write(
    `ephoros: only ${limit} files may be open at once, and ${least} are needed. Run: ulimit -n 1024\n`,
  );
  process.exitCode = 1;
} else if (existsSync(built)) await import(built.href);
else {
  const folder = fileURLToPath(new URL('../../..', import.meta.url));
  process.stderr.write(`ephoros: nothing is built yet. Run: cd ${folder} && npm run build\n`);
  process.exitCode = 1;
}
