/**
 * The same job the usual way, to compare with: Express, `pg`, LIMIT and OFFSET, count(*), rows as
 * objects. A process of its own: `node hand-written.js <database url> <port>`.
 */
import express from 'express';
import pg from 'pg';

const [url = '', port = '0'] = process.argv.slice(2);
const pool = new pg.Pool({ connectionString: url, max: 10 });
const app = express();

app.get('/passages', async (request, response) => {
  const { limit = '100', offset = '0', before, total, lock } = request.query;
  const own = lock === undefined ? '' : ` and lock_id = ${Number(lock)}`;
  const where = before === undefined ? '' : `where passed_at < $3${own}`;
  const page: (number | string)[] = [
    Number(limit),
    Number(offset),
    ...(before === undefined ? [] : [before as string]),
  ];
  const { rows } = await pool.query<Record<string, unknown>>(
    `select * from passages ${where} order by passed_at desc, id desc limit $1 offset $2`,
    page,
  );
  if (total === undefined) {
    response.json({ rows });
    return;
  }
  const counted = await pool.query<{ count: string }>(
    `select count(*) from passages ${where.replace('$3', '$1')}`,
    page.slice(2),
  );
  response.json({ rows, total: Number(counted.rows[0]?.count) });
});

app.patch('/passages/:id', express.json(), async (request, response) => {
  const { was, wait_minutes: next } = request.body as Record<string, number>;
  const { rows } = await pool.query<Record<string, unknown>>(
    'update passages set wait_minutes = $1 where id = $2 and wait_minutes is not distinct from $3 returning *',
    [next, request.params.id, was],
  );
  response.status(rows.length === 1 ? 200 : 409).json(rows[0] ?? {});
});

const server = app.listen(Number(port), '127.0.0.1', () => {
  const address = server.address();
  if (typeof address === 'object') process.stdout.write(`http://127.0.0.1:${address?.port ?? 0}\n`);
});
