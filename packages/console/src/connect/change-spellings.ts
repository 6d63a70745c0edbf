import type { Change } from '@ephoros/client';
import { quoted, shellText } from '@ephoros/react';
import type { Spelling } from './spelling.ts';

/** A set of changes, as code is written from it. */
export interface ConnectedChanges {
  /** Where the service is: "http://127.0.0.1:4620". */
  readonly origin: string;
  readonly table: string;
  readonly changes: readonly Change[];
}

/** Every way to save a set of changes: correct and complete as they stand. */
export function changeSpellings(set: ConnectedChanges): readonly Spelling[] {
  return [
    {
      name: 'Request',
      about: 'What is sent. Under the same Idempotency-Key it is saved once, however often.',
      code: request(set),
    },
    { name: 'curl', about: 'For a terminal.', code: curl(set) },
    {
      name: 'fetch',
      about: 'JavaScript without any package, in Node or in a page.',
      code: fetched(set),
    },
    {
      name: 'Client',
      about: 'JavaScript in Node or in a page: npm install @ephoros/client',
      code: client(set),
    },
    {
      name: 'Command line',
      about: 'One change at a time: npm install @ephoros/cli',
      code: command(set),
    },
  ];
}

function pathOf({ table }: ConnectedChanges): string {
  return `/api/tables/${encodeURIComponent(table)}/changes`;
}

function json({ changes }: ConnectedChanges): string {
  return JSON.stringify({ changes }, null, 2);
}

function request(set: ConnectedChanges): string {
  return `POST ${pathOf(set)} HTTP/1.1
Host: ${new URL(set.origin).host}
Content-Type: application/json
Idempotency-Key: a-key-of-its-own

${json(set)}
`;
}

function curl(set: ConnectedChanges): string {
  return [
    'curl --fail-with-body --silent --show-error',
    `--header ${shellText('Content-Type: application/json')}`,
    '--header "Idempotency-Key: $(uuidgen)"',
    `--data ${shellText(json(set))}`,
    shellText(set.origin + pathOf(set)),
  ].join(' \\\n  ');
}

function fetched(set: ConnectedChanges): string {
  return `const response = await fetch(${quoted(set.origin + pathOf(set))}, {
  method: 'POST',
  headers: { 'Content-Type': 'application/json', 'Idempotency-Key': crypto.randomUUID() },
  body: JSON.stringify(${json(set)}),
});
const answer = await response.json();
// 409: answer.outcomes have the rows as they are now; 422: answer.errors say what is wrong where.
if (!response.ok) throw new Error(answer.detail);
console.log(JSON.stringify(answer, null, 2));
`;
}

function client({ origin, table, changes }: ConnectedChanges): string {
  return `import { createClient } from '@ephoros/client';

const client = createClient({ url: ${quoted(`${origin}/api`)} });
const { id, outcomes } = await client.changes.save(
  ${JSON.stringify(changes, null, 2).replaceAll('\n', '\n  ')},
  { table: ${quoted(table)}, idempotencyKey: crypto.randomUUID() },
);
console.log(JSON.stringify({ id, outcomes }, null, 2));
`;
}

function command({ origin, table, changes }: ConnectedChanges): string {
  const at = ` --url ${shellText(origin)}`;
  const name = shellText(table);
  return changes
    .map((change) => {
      switch (change.kind) {
        case 'add':
          return `ephoros add ${name} ${pairs(change.values)}${at}`;
        case 'remove':
          return `ephoros remove ${name} ${keyOf(change.key)}${at}`;
        case 'change':
          return `ephoros change ${name} ${keyOf(change.key)} ${pairs(change.values)}${was(change.was)}${at}`;
        case 'set':
          return `ephoros change ${name} ${pairs(change.values)} --filter ${shellText(change.filter)}${at}`;
        default:
          throw new Error(`no command for ${JSON.stringify(change satisfies never)}`);
      }
    })
    .map((line) => `${line}\n`)
    .join('');
}

function keyOf(key: readonly string[]): string {
  return shellText(key.map(encodeURIComponent).join(','));
}

function was(values: Readonly<Record<string, unknown>> = {}): string {
  return Object.keys(values).length === 0 ? '' : ` --was ${pairs(values)}`;
}

function pairs(values: Readonly<Record<string, unknown>>): string {
  return Object.entries(values)
    .map(([name, value]) => {
      const text = typeof value === 'string' ? value : value === null ? '' : JSON.stringify(value);
      return shellText(`${name}=${text}`);
    })
    .join(' ');
}
