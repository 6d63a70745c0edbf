/** `npm run bench`. */
import { prepare, run } from './prepare.mjs';

prepare({ programs: ['postgresql', 'chromium'], build: true });
await import('../bench/dist/main.js');
// The report stands among the documents, written as they are.
run('npx', ['--no-install', 'prettier', '--write', 'docs/performance.md']);
