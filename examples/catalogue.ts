import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** An example, as the first page lists it. */
export interface Example {
  /** The folder that it lies in. */
  readonly name: string;
  readonly title: string;
  readonly shows: string;
  /** How it is started, where it is a program of its own and no page. */
  readonly start?: string;
}

export const examples: readonly Example[] = [
  {
    name: 'plain-table',
    title: 'A plain page',
    shows:
      'No framework: the client, a table element and a few lines of script that page, sort and search.',
  },
  {
    name: 'react-table',
    title: 'The finished table',
    shows:
      'TableView with columns of its own: pictures, links, a renderer, values by other names, rows that stand out. The view is in the address, the look is kept in the browser.',
  },
  {
    name: 'react-own-table',
    title: 'A table of one’s own',
    shows:
      'The hook useRecords gives rows, headers, pages and a selection; what is drawn of them is up to the page. A row opens on its card.',
  },
  {
    name: 'react-editing',
    title: 'A table that is edited',
    shows:
      'One word makes cells fields: drafts that are checked, undone, kept and saved row by row; a field of one’s own; a card with the same.',
  },
  {
    name: 'local-csv',
    title: 'A local file',
    shows:
      'A CSV file is sorted, filtered, searched and grouped by the same table without a service.',
  },
  {
    name: 'gallery',
    title: 'All states of a table',
    shows:
      'Loading, empty, failed, partly loaded, away, painted, grouped, narrow, from right to left: each made on demand, for whoever styles a table.',
  },
  {
    name: 'own-application',
    title: 'An application with a login',
    shows:
      'An Express application of one file: who signs in sees the rows of their own lock, and some columns never; ticked rows are kept, a row is read on a card.',
    start: 'DATABASE_URL=postgres://… node examples/own-application/server.js',
  },
];

/** A file of an example, and what stands in it. */
export interface Source {
  /** Below the examples: `react-table/main.tsx`. */
  readonly path: string;
  readonly text: string;
  readonly lines: number;
}

/** What an example is written in; data is none of it. */
export function sourcesOf({ name }: Example): readonly Source[] {
  const folder = fileURLToPath(new URL(`${name}/`, import.meta.url));
  return readdirSync(folder)
    .filter((file) => /\.(html|tsx|js)$/.test(file))
    .sort()
    .map((file) => {
      const text = readFileSync(`${folder}${file}`, 'utf8');
      return { path: `${name}/${file}`, text, lines: text.split('\n').length - 1 };
    });
}

/** The list of the first page. */
export function listed(all: readonly Example[]): string {
  return all.map(item).join('\n');
}

function item(example: Example): string {
  const { name, title, shows, start } = example;
  const link = start === undefined ? `<a href="./${name}/">${title}</a>` : title;
  const sources = sourcesOf(example).map(
    ({ path, lines }) => `<a href="./source/${path}.txt"><code>${path}</code></a>, ${lines} lines`,
  );
  return `<li>
  <h2>${link}</h2>
  <p>${shows}</p>
  ${start === undefined ? '' : `<p><code>${start}</code></p>`}
  <p class="aside">${sources.join(' · ')}</p>
</li>`;
}
