/**
 * `npm run sizes`: how large the packages are in a page, minified and gzipped, against their
 * budgets; and that what is not used is left out. Ends with 1 where one is over. Needs a build.
 */
import { gzipSync } from 'node:zlib';
import { build } from 'vite';
import { root } from './prepare.mjs';

const kilobyte = 1_000;
const react = ['react', 'react/jsx-runtime', 'react-dom', 'react-dom/client'];

/** What is imported, how large it may be, and what is not to be counted. */
const budgets = [
  {
    name: '@ephoros/client',
    code: `export * from '@ephoros/client';`,
    most: 18 * kilobyte,
  },
  {
    name: '@ephoros/client: createClient alone',
    code: `export { createClient } from '@ephoros/client';`,
    most: 12.3 * kilobyte,
  },
  {
    name: '@ephoros/client/local',
    code: `export * from '@ephoros/client/local';`,
    most: 58.5 * kilobyte,
  },
  {
    name: 'TableView, with client and stylesheet: what a page begins with',
    code: `import '@ephoros/react/table.css';
      export { createClient } from '@ephoros/client';
      export { TableView } from '@ephoros/react';`,
    most: 81.2 * kilobyte,
    external: react,
  },
  {
    name: 'TableView: editors, groups, levels, ruler, selection, card, menus, drafts, files, saved views, requests, the builder, paint, charts (a plotting library), print: each loaded when first needed',
    code: `import '@ephoros/react/table.css';
      export { createClient } from '@ephoros/client';
      export { TableView } from '@ephoros/react';`,
    most: 290 * kilobyte,
    external: react,
    later: true,
  },
  {
    name: '@ephoros/react: useRecords alone',
    code: `export { useRecords } from '@ephoros/react';`,
    most: 21.7 * kilobyte,
    external: react,
  },
];

/**
 * Bytes of the scripts and stylesheets that come of some code, gzipped: of those that a page begins
 * with, or of those that are loaded `later`.
 */
async function sizeOf({ code, external = [], later = false }) {
  const entry = '\0entry.js';
  const result = await build({
    root,
    configFile: false,
    logLevel: 'error',
    plugins: [
      {
        name: 'entry',
        resolveId: (id) => (id === entry ? entry : undefined),
        load: (id) => (id === entry ? code : undefined),
      },
    ],
    build: {
      write: false,
      minify: true,
      target: 'es2023',
      modulePreload: false,
      rolldownOptions: {
        input: entry,
        external,
        preserveEntrySignatures: 'strict',
      },
    },
  });
  const { output } = Array.isArray(result) ? result[0] : result;
  const chunks = new Map(output.map((file) => [file.fileName, file]));
  const first = new Set();
  const begin = (file) => {
    if (file === undefined || first.has(file)) return;
    first.add(file);
    for (const name of file.imports ?? []) begin(chunks.get(name));
  };
  // A stylesheet is there from the beginning; a worker is a script that is loaded when it is needed.
  for (const file of output) {
    if (file.type === 'chunk' ? file.isEntry : file.fileName.endsWith('.css')) begin(file);
  }
  const files = output
    .filter((file) => first.has(file) !== later)
    .map((file) => (file.type === 'chunk' ? file.code : file.source));
  return files.reduce((sum, file) => sum + gzipSync(file, { level: 9 }).length, 0);
}

let over = false;
for (const { name, most, ...budget } of budgets) {
  const size = await sizeOf(budget);
  const told = (bytes) => `${(bytes / kilobyte).toFixed(2)} KB`;
  over ||= size > most;
  process.stdout.write(
    `${size > most ? 'OVER ' : 'ok   '} ${told(size).padStart(8)} of ${told(most).padStart(8)}  ${name}\n`,
  );
}
process.exitCode = over ? 1 : 0;
