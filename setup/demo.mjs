/** `npm run demo`: everything from a fresh machine to the URL of the demo. */
import { prepare, root, step } from './prepare.mjs';

process.chdir(root);
prepare({ programs: ['postgresql'], build: true });
step('Opening the Lowmere Navigation');
process.argv.splice(2, 0, 'demo');
await import('../packages/cli/bin/ephoros.mjs');
