/** `npm run faults`: what becomes of callers when something fails, written to docs/reliability.md. */
import { prepare, run } from './prepare.mjs';

prepare({ programs: ['postgresql', 'pgbouncer', 'nginx', 'faketime'], build: true });
await import('../bench/dist/faults/main.js');
run('npx', ['--no-install', 'prettier', '--write', 'docs/reliability.md']);
