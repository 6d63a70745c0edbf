#!/usr/bin/env node
// Here from the start, so that npm links the command before anything is built.
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const built = new URL('../program/main.js', import.meta.url);
if (existsSync(built)) await import(built.href);
else {
  const folder = fileURLToPath(new URL('../../..', import.meta.url));
  process.stderr.write(`ephoros: nothing is built yet. Run: cd ${folder} && npm run build\n`);
  process.exitCode = 1;
}
