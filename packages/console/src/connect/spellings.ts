import type { SavedView } from '@ephoros/core/view';
import { quoted, shellText, type Reading } from '@ephoros/react';
import type { Spelling } from './spelling.ts';
import { printExpression } from '@ephoros/core/expression';
import {
  groupsPart,
  printParameters,
  printSort,
  rowsPart,
  windowPart,
  type Query,
} from '@ephoros/core/query';

/** The view on the screen, as code is written from it. */
export interface Connected {
  /** Where the service is: "http://127.0.0.1:4620". */
  readonly origin: string;
  readonly table: string;
  readonly query: Query;
  /** The columns in view, in their order. */
  readonly columns: readonly string[];
  readonly reading: Reading;
  /** How the rows look, where that is not as usual. */
  readonly appearance?: SavedView | undefined;
}

/** Every way to ask for what is on the screen: correct and complete as they stand. */
export function spellings(view: Connected): readonly Spelling[] {
  return [
    { name: 'URL', about: 'For a browser, or any program that reads JSON.', code: urlOf(view) },
    { name: 'curl', about: 'For a terminal.', code: curl(view) },
    {
      name: 'fetch',
      about: 'JavaScript without any package, in Node or in a page.',
      code: fetched(view),
    },
    {
      name: 'Client',
      about: 'JavaScript in Node or in a page: npm install @ephoros/client',
      code: client(view),
    },
    {
      name: 'React',
      about:
        'The finished table; the API is under /api of the page’s own origin: npm install @ephoros/client @ephoros/react react react-dom',
      code: react(view),
    },
    {
      name: 'Router',
      about:
        'The API in an Express application of your own, and this view as a route next to it: npm install @ephoros/service express',
      code: router(view),
    },
  ];
}

function isGrouped({ group = [] }: Query): boolean {
  return group.length > 0;
}

/** What is requested: the lines of groups, or rows. */
function requestedAs({ query }: Connected): Query {
  return isGrouped(query) ? { ...groupsPart(query), ...windowPart(query) } : rowsPart(query);
}

/** The parameters of the request, as they are sent. */
function parametersOf(view: Connected): readonly (readonly [string, string])[] {
  return printParameters(requestedAs(view));
}

function addressOf({ origin, table, query }: Connected): string {
  const request = isGrouped(query) ? 'groups' : 'rows';
  return `${origin}/api/tables/${encodeURIComponent(table)}/${request}`;
}

function urlOf(view: Connected): string {
  const search = parametersOf(view).map(([name, text]) => `${name}=${encodeURIComponent(text)}`);
  return search.length === 0 ? addressOf(view) : `${addressOf(view)}?${search.join('&')}`;
}

function curl(view: Connected): string {
  const parameters = parametersOf(view).map(
    ([name, text]) => `--data-urlencode ${shellText(`${name}=${text}`)}`,
  );
  return [
    'curl --fail-with-body --silent --show-error --get',
    ...parameters,
    shellText(addressOf(view)),
  ].join(' \\\n  ');
}

function fetched(view: Connected): string {
  const parameters = parametersOf(view).map(
    ([name, text]) => `  ${nameText(name)}: ${quoted(text)},`,
  );
  const lines = isGrouped(view.query) ? 'groups' : 'rows';
  return `const url = new URL(${quoted(addressOf(view))});
${parameters.length === 0 ? '' : `url.search = new URLSearchParams({\n${parameters.join('\n')}\n});\n`}const response = await fetch(url);
const answer = await response.json();
if (!response.ok) throw new Error(answer.detail);
console.log(JSON.stringify({ total: answer.window.total, ${lines}: answer.${lines} }, null, 2));
`;
}

function client(view: Connected): string {
  const lines = isGrouped(view.query) ? 'groups' : 'rows';
  return `import { createClient } from '@ephoros/client';

const client = createClient({ url: ${quoted(`${view.origin}/api`)} });
const { ${lines}, window } = await client
  .table(${quoted(view.table)})${indented(steps(requestedAs(view)))}
  .${lines}();
console.log(JSON.stringify({ total: window.total, ${lines} }, null, 2));
`;
}

/** Lines of code, each a step further in. */
function indented(lines: readonly string[]): string {
  return lines.map((line) => `\n  ${line}`).join('');
}

/** A query as the steps of a question, in the order in which it is put together. */
function steps(query: Query): readonly string[] {
  const { columns, filter, search, group, aggregate, sort, nulls, limit, place, total } = query;
  return [
    columns && stepOf('columns', namesOf(columns)),
    filter && stepOf('filter', [printExpression(filter)]),
    search && stepOf('search', [printParameters({ search })[0]?.[1] ?? '']),
    group && stepOf('group', namesOf(group)),
    aggregate && stepOf('aggregate', namesOf(aggregate)),
    sort &&
      stepOf(
        'sort',
        sort.map((term) => printSort([term])),
      ),
    nulls && stepOf('nulls', [nulls]),
    limit === undefined ? undefined : `.limit(${limit})`,
    place && placeStep(place),
    total && stepOf('total', [total]),
  ].filter((step) => step !== undefined);
}

function namesOf(named: readonly { readonly name: string }[]): readonly string[] {
  return named.map(({ name }) => name);
}

function placeStep(place: NonNullable<Query['place']>): string {
  if (place.kind === 'page') return `.page(${place.page})`;
  return place.kind === 'offset' ? `.offset(${place.offset})` : stepOf(place.kind, [place.token]);
}

function stepOf(name: string, texts: readonly string[]): string {
  return `.${name}(${texts.map(quoted).join(', ')})`;
}

function react({ table, query, columns, reading, appearance }: Connected): string {
  const { columns: _named, place, total: _counted, path: _within, ...base } = query;
  const request = indented(steps(base));
  const paged = !isGrouped(query) && reading === 'pages';
  const at =
    paged && place?.kind === 'page' ? `place: { kind: 'page', page: ${place.page} }` : undefined;
  const looks = appearance && `...viewOfSaved(${JSON.stringify(appearance)}).view`;
  const begun = [at, looks].filter((part) => part !== undefined).join(', ');
  const state = begun === '' ? '' : `\n      defaultView={{ ${begun} }}`;
  const saved =
    appearance === undefined ? '' : `import { viewOfSaved } from '@ephoros/core/view';\n`;
  return `import { createClient } from '@ephoros/client';
${saved}import { TableView } from '@ephoros/react';
import '@ephoros/react/table.css';
import { createRoot } from 'react-dom/client';

const client = createClient({ url: '/api' });
const { query } = client.table(${quoted(table)})${request};
const columns = [
${columns.map((name) => `  { name: ${quoted(name)} },`).join('\n')}
];

createRoot(document.body.appendChild(document.createElement('div'))).render(
  <div style={{ height: '100vh' }}>
    <TableView
      client={client}
      table=${attribute(table)}
      columns={columns}
      query={query}
      reading="${reading === 'pages' && !paged ? 'scroll' : reading}"${state}
    />
  </div>,
);
`;
}

function router(view: Connected): string {
  const path = `/${view.table.replace(/[^\w-]+/g, '-')}`;
  const parameters = parametersOf(view).map(
    ([name, text]) => `    ${nameText(name)}: ${quoted(text)},`,
  );
  const search = `new URLSearchParams({\n${parameters.join('\n')}\n  })`;
  const route = isGrouped(view.query)
    ? `app.get('${path}', (request, response) => {
  const search = ${search};
  response.redirect(\`/api/tables/${encodeURIComponent(view.table)}/groups?\${search}\`);
});`
    : `app.get('${path}', async (request, response) => {
  const table = await router.tables.table(${quoted(view.table)});
  const query = table.read(${search});
  const { rows } = await table.rows(query);
  response.json(rows);
});`;
  return `import { createRouter } from '@ephoros/service';
import express from 'express';

const router = createRouter({ database: process.env.DATABASE_URL });
const app = express();
app.use('/api', router);

// What is on the screen, as a route of its own.
${route}

const server = app.listen(Number(process.env.PORT ?? 3000), '127.0.0.1', () => {
  console.log(\`http://127.0.0.1:\${server.address().port}${path}\`);
});
`;
}

/** A text as an attribute of JSX. */
function attribute(text: string): string {
  return /^[\w. -]*$/.test(text) ? `"${text}"` : `{${quoted(text)}}`;
}

/** A member's name in an object. */
function nameText(name: string): string {
  return /^[a-z]+$/.test(name) ? name : quoted(name);
}
