/**
 * An Express application with the router in it, three times over: with connections of its own,
 * over a borrowed pool, and with a row rule. A process of its own: `node mounted.js <database url>`.
 */
import { createRouter, rule } from '@ephoros/service';
import express from 'express';
import pg from 'pg';

const [url = ''] = process.argv.slice(2);
const configuration = { tables: { passages: { sort: '-passed_at' } } };
const app = express();
app.use('/own', createRouter({ database: url, configuration }));
app.use(
  '/borrowed',
  createRouter({ database: new pg.Pool({ connectionString: url, max: 20 }), configuration }),
);
app.use(
  '/ruled',
  createRouter({
    database: url,
    configuration,
    access: () => ({ tables: { passages: { rows: rule`lock_id = ${3}`, hidden: ['note'] } } }),
  }),
);

const server = app.listen(0, '127.0.0.1', () => {
  const address = server.address();
  if (typeof address === 'object') process.stdout.write(`http://127.0.0.1:${address?.port ?? 0}\n`);
});
