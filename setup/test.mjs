/** `npm test`: everything from a fresh machine to all tests. Arguments go to Jest. */
import { prepare, run, step } from './prepare.mjs';

prepare({ programs: ['postgresql', 'pgbouncer', 'chromium'], build: true, quick: true });
step('Testing');
run('npx', ['--no-install', 'jest', ...process.argv.slice(2)]);
