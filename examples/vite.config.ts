import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';
import { examples, listed, sourcesOf } from './catalogue.ts';

const pages = examples.filter(({ start }) => start === undefined);

/** Lists the examples on the first page, and has their sources next to them. */
const list: Plugin = {
  name: 'list-of-examples',
  transformIndexHtml: (html) => html.replace('<!-- examples -->', listed(examples)),
  generateBundle() {
    for (const { path, text } of examples.flatMap(sourcesOf)) {
      this.emitFile({ type: 'asset', fileName: `source/${path}.txt`, source: text });
    }
  },
};

export default defineConfig({
  plugins: [react(), list],
  base: './',
  build: {
    outDir: 'dist/pages',
    emptyOutDir: true,
    rolldownOptions: {
      input: ['index.html', ...pages.map(({ name }) => `${name}/index.html`)],
    },
  },
});
