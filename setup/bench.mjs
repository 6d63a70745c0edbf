/** `npm run bench`. */
import { prepare } from './prepare.mjs';

prepare({ programs: ['postgresql', 'chromium'], build: true });
await import('../bench/dist/main.js');
