import { readFileSync } from 'node:fs';
import { checkTypes } from './types.ts';

/** Pages whose code nothing else runs: readers copy it, and it has the types that it needs. */
const pages = ['client', 'exports', 'groups', 'react', 'router'] as const;

/** What the pages expect to be imported already, by the module that it comes from. */
const imports: Readonly<Record<string, readonly string[]>> = {
  '@ephoros/client': [...['createClient', 'chosenQuery', 'rowsFrom', 'RequestLog']],
  '@ephoros/client/drafts': ['Drafts', 'draftedRows'],
  '@ephoros/client/live': ['watchRows'],
  '@ephoros/react': [
    ...['TableView', 'TableParts', 'Sentence', 'Rows', 'Foot', 'LiveRows', 'useAddressView'],
    ...['useAddressText', 'useInitialView', 'type ColumnDefinition'],
  ],
};

/** What else they expect to be there, as a reader's own code would have it. */
const declared: Readonly<Record<string, string>> = {
  client: "declare const client: import('@ephoros/client').Client;",
  query: "declare const query: ReturnType<import('@ephoros/client').Client['table']>;",
  source: "declare const source: import('@ephoros/client').RowSource;",
  Tables: "import type { Tables } from './tables.ts';",
  Lock: 'type Lock = { id: number; name: string };',
  token: 'declare const token: () => Promise<string>;',
  signal: 'declare const signal: AbortSignal;',
  controller: 'declare const controller: AbortController;',
  write: 'declare const write: (row: unknown) => void;',
  draw: 'declare const draw: () => void;',
  keys: 'declare const keys: readonly string[];',
  store: "declare const store: NonNullable<ConstructorParameters<typeof Drafts>[0]['store']>;",
  view: "declare const view: NonNullable<Parameters<typeof import('@ephoros/react').TableView>[0]['defaultView']> & import('@ephoros/core/view').View;",
  begin: "declare const begin: NonNullable<Parameters<typeof useInitialView>[0]>['begin'];",
  text: 'declare const text: string;',
  refresh: 'declare const refresh: (...keys: unknown[]) => void;',
  refreshAll: 'declare const refreshAll: () => void;',
  say: 'declare const say: (text: string) => void;',
  columns: 'declare const columns: readonly ColumnDefinition[];',
  key: 'declare const key: string | undefined;',
  setKey: 'declare const setKey: (key: string | undefined) => void;',
  stamp: 'declare const stamp: (row: unknown) => Promise<void>;',
  first:
    "declare const first: Awaited<ReturnType<typeof import('@ephoros/react/server').firstRows>>;",
  Draught: 'declare const Draught: (props: { of: unknown }) => null;',
  Slider:
    'declare const Slider: (props: { from: unknown; onDone: (value: never) => void; onLeave: () => void }) => null;',
  pool: "declare const pool: import('pg').Pool;",
  app: "declare const app: import('express').Express;",
  signedIn: "declare const signedIn: import('express').RequestHandler;",
  records: "declare const records: ReturnType<typeof import('@ephoros/service').createRouter>;",
  accessOf: "declare const accessOf: (request: unknown) => import('@ephoros/service').Access;",
  process: 'declare const process: { env: Record<string, string | undefined> };',
};

/** A page's blocks, each a module with what it expects to be there. */
function modulesOf(page: string): readonly (readonly [name: string, code: string])[] {
  const text = readFileSync(`docs/${page}.md`, 'utf8');
  return [...text.matchAll(/^```tsx?\n(.*?)^```$/gms)].map(([, code = ''], index) => {
    const line = text.slice(0, text.indexOf(code)).split('\n').length;
    const names = (all: readonly string[]): readonly string[] =>
      all.filter((name) => uses(code, name.replace('type ', '')));
    const head: string[] = [];
    const others = names(Object.keys(declared)).map((name) => declared[name] ?? '');
    const whole = `${others.join('\n')}\n${code}`;
    for (const [from, all] of Object.entries(imports)) {
      const used = all.filter((name) => uses(whole, name.replace('type ', '')));
      if (used.length > 0) head.push(`import { ${used.join(', ')} } from '${from}';`);
    }
    return [
      `${page}-${String(index)}-line-${String(line)}.tsx`,
      [...head, ...others, code, 'export {};'].join('\n'),
    ];
  });
}

/** Whether code uses a name that it neither imports nor declares. */
function uses(code: string, name: string): boolean {
  const isThere = new RegExp(`(?<![.\\w'-])${name}\\b(?!\\??:)`).test(code);
  const isOwn = new RegExp(
    `(?:const|let|function|type) (?:${name}\\b|[{[][^=]*\\b${name}\\b[^=]*[}\\]] =)|import (?:type )?\\{[^}]*\\b${name}\\b|\\(\\{?[^()]*\\b${name}\\b[^()]*\\)(?:: \\w+)? =>`,
  ).test(code);
  return isThere && !isOwn;
}

it('the code of every page has the types that it needs', () => {
  const modules = pages.flatMap(modulesOf);
  expect(modules.length).toBeGreaterThan(30);
  checkTypes('pages', {
    ...Object.fromEntries(modules),
    'tables.ts': `export interface Tables {
      passages: {
        row: { id: number; status: string; note: string | null; toll: string; wait_minutes: number };
        related: { 'lock.name': string; 'lock.canal.name': string };
        literals: { id: number; status: string; note: string; toll: string | number; wait_minutes: number };
      };
    }`,
    'express.d.ts': `declare namespace Express {
      interface Request { user: { name: string; lock: number } }
    }`,
  });
});
