/** Serves the built pages of the examples beside an API: `npm run examples [database-url]`. */
import { fileURLToPath } from 'node:url';
import { pictures } from '@ephoros/demo';
import { createRouter } from '@ephoros/service';
import express from 'express';

const database = process.argv[2] ?? process.env.DATABASE_URL;
if (database === undefined) {
  process.stderr.write('Give the URL of a database, or set DATABASE_URL.\n');
  process.exit(2);
}
const app = express();
const passages = { changes: { add: true, change: true, remove: true } };
const configuration = { tables: { passages } };
app.use('/api', createRouter({ database, records: database, changes: database, configuration }));
app.use('/demo/boats', pictures());
app.use(express.static(fileURLToPath(new URL('dist/pages', import.meta.url))));
const server = app.listen(Number(process.env.PORT ?? 4631), '127.0.0.1', (error) => {
  if (error) {
    process.stderr.write(`${error.message}. Choose another port: PORT=4632 npm run examples\n`);
    process.exit(1);
  }
  process.stdout.write(`http://127.0.0.1:${server.address().port}\n`);
});
