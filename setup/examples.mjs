/** `npm run examples [database-url]`: the pages of the examples, by default over the demo's data. */
import { prepare, run, step } from './prepare.mjs';

const [database = 'postgres://ephoros@127.0.0.1:54620/lowmere'] = process.argv.slice(2);
prepare({ programs: [], build: true });
step(`Serving the examples over ${database} (start it with: npm run demo)`);
run('node', ['examples/serve.js', database]);
