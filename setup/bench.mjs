/** `npm run bench`. */
import { prepare } from './prepare.mjs';

prepare({ programs: ['postgresql'], build: true });
await import('../bench/dist/main.js');
