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
  // Selections are kept, each for its keeper.
  records: pool,
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
    page(`<h1>Lock book of ${keeper}</h1>
    <p><button id="keep">Keep the ticked ones</button> <output></output></p>
    <table></table><dialog></dialog><script type="module">
      const records = '/records/tables/passages/rows';
      const [table, card, output] = ['table', 'dialog', 'output'].map((name) => document.querySelector(name));
      const { rows, columns, window } = await (await fetch(records + '?limit=20')).json();
      document.querySelector('h1').append(', ' + window.total + ' passages');
      table.insertRow().append(...['', ...columns].map((name) => cell(name)));
      for (const row of rows) {
        const box = Object.assign(document.createElement('input'), { type: 'checkbox', value: row.id, ariaLabel: 'passage ' + row.id });
        const line = table.insertRow();
        line.append(cell(box), ...columns.map((name) => cell(row[name] ?? '')));
        line.onclick = ({ target }) => target === box || open(row.id);
      }
      function cell(content) {
        const made = document.createElement('td');
        made.append(content);
        return made;
      }
      // The row on a card, with the names of what it refers to.
      async function open(id) {
        const { row } = await (await fetch(records + '/' + id + '?columns=id,passed_at,lock.name,boat.name,status,toll')).json();
        card.replaceChildren(...Object.entries(row).map(([name, value]) => Object.assign(document.createElement('p'), { textContent: name + ': ' + (value ?? '–') })));
        card.showModal();
      }
      card.onclick = () => card.close();
      // What is kept is a condition of any later question.
      document.querySelector('#keep').onclick = async () => {
        const keys = [...document.querySelectorAll('input:checked')].map(({ value }) => [value]);
        const made = await fetch('/records/selections', {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ table: 'passages', keys }),
        });
        const { id, count } = await made.json();
        const query = new URLSearchParams({ filter: "SELECTED('stored:" + id + "')", aggregate: 'count(),sum(toll)' });
        const { values } = await (await fetch('/records/tables/passages/aggregates?' + query)).json();
        output.textContent = count + ' kept, tolls ' + values['sum(toll)'];
      };
    </script>`),
  ),
);

const server = app.listen(Number(process.env.PORT ?? 4630), '127.0.0.1', () => {
  process.stdout.write(`http://127.0.0.1:${server.address().port}\n`);
});
