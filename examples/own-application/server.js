import { randomUUID } from 'node:crypto';
import { createRouter, rule } from '@ephoros/service';
import express from 'express';
import pg from 'pg';

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 10 });

// Whoever signs in here is a lock keeper, and sees the passages at their own lock.
const keepers = { rosa: { password: 'heron', lock: 3 }, emil: { password: 'otter', lock: 7 } };
const sessions = new Map();

const records = createRouter({
  database: pool,
  configuration: { tables: { passages: { sort: '-passed_at' } } },
  access: ({ keeper, lock }) => ({
    caller: keeper,
    tables: {
      passages: { rows: rule`lock_id = ${lock}`, hidden: ['note', 'keeper_id'] },
      locks: { rows: rule`id = ${lock}` },
      boats: true,
    },
  }),
});

function signedIn(request, response, next) {
  const [, id] = /session=([\w-]+)/.exec(request.headers.cookie ?? '') ?? [];
  const session = sessions.get(id);
  if (session === undefined) response.redirect('/sign-in');
  else next(void Object.assign(request, session));
}

const page = (body) =>
  `<!doctype html><meta charset="utf-8"><title>Lock book</title>
   <style>body { font: 1rem/1.5 system-ui; margin: 2rem } td { padding-right: 1rem }</style>${body}`;

const app = express();
app.get('/sign-in', (_request, response) =>
  response.send(
    page(`<form method="post"><input name="keeper" placeholder="keeper">
      <input name="password" type="password" placeholder="password"><button>Sign in</button></form>`),
  ),
);
app.post('/sign-in', express.urlencoded({ extended: false }), ({ body }, response) => {
  const keeper = Object.hasOwn(keepers, body.keeper) ? keepers[body.keeper] : undefined;
  if (keeper === undefined || keeper.password !== body.password)
    return response.redirect('/sign-in');
  const id = randomUUID();
  sessions.set(id, { keeper: body.keeper, lock: keeper.lock });
  return response.cookie('session', id, { httpOnly: true, sameSite: 'strict' }).redirect('/');
});
app.use('/records', signedIn, records);
app.get('/', signedIn, ({ keeper }, response) =>
  response.send(
    page(`<h1>Lock book of ${keeper}</h1><table></table><script type="module">
      const answer = await fetch('/records/tables/passages/rows?limit=20');
      const { rows, columns, window } = await answer.json();
      document.querySelector('h1').append(', ' + window.total + ' passages');
      for (const row of [Object.fromEntries(columns.map((name) => [name, name])), ...rows]) {
        const line = document.querySelector('table').insertRow();
        for (const name of columns) line.insertCell().textContent = row[name] ?? '';
      }
    </script>`),
  ),
);

const server = app.listen(Number(process.env.PORT ?? 4630), '127.0.0.1', () => {
  process.stdout.write(`http://127.0.0.1:${server.address().port}\n`);
});
