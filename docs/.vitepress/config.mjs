/**
 * The documentation site. `npm run docs` builds it from the pages of this folder; the service serves it at `/docs`. The
 * search runs in the browser over an index that is built here: nothing is requested from another host.
 */
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitepress';

const pages = (...items) => items.map(([text, link]) => ({ text, link: `/${link}` }));

export default defineConfig({
  title: 'Ephoros',
  description: 'Table views over large PostgreSQL databases',
  lang: 'en',
  base: '/docs/',
  outDir: fileURLToPath(new URL('../../packages/console/dist/site/docs', import.meta.url)),
  cacheDir: fileURLToPath(new URL('../../node_modules/.cache/docs', import.meta.url)),
  head: [['meta', { name: 'color-scheme', content: 'light dark' }]],
  // Page titles and option lists contain angle brackets, which are text and not elements.
  markdown: {
    html: false,
    theme: { light: 'min-light', dark: 'min-dark' },
    // Double braces are text as well: the pages contain no expressions.
    config: ({ renderer: { rules } }) => {
      for (const rule of ['text', 'code_inline']) {
        const render = rules[rule];
        rules[rule] = (...parts) => render(...parts).replaceAll('{{', '&#123;&#123;');
      }
    },
  },
  metaChunk: true,
  // `npm run lint:links` checks links to files outside this folder.
  ignoreDeadLinks: [/\.\.\//],
  // Fonts are files of the site: its policy allows no data URLs.
  vite: { logLevel: 'error', build: { assetsInlineLimit: 0 } },
  themeConfig: {
    nav: pages(['Guide', 'guide'], ['How-to', 'how'], ['API', 'api'], ['Command line', 'cli']),
    outline: [2, 3],
    socialLinks: [],
    search: {
      provider: 'local',
      options: {
        miniSearch: {
          searchOptions: { fuzzy: 0.2, prefix: true, boost: { title: 6, titles: 2, text: 1 } },
        },
      },
    },
    sidebar: [
      {
        text: 'Tutorial',
        items: pages(['Build an application', 'guide'], ['Tour of the console', 'tour']),
      },
      {
        text: 'How-to',
        items: pages(
          ['Short answers', 'how'],
          ['Sign-in', 'sign-in'],
          ['Express router', 'router'],
          ['Run in production', 'running'],
          ['Export files', 'exports'],
          ['Groups and levels', 'groups'],
          ['Own parameter names', 'spellings'],
        ),
      },
      {
        text: 'Reference',
        items: pages(
          ['HTTP API', 'api'],
          ['Filter language', 'filter'],
          ['Functions', 'functions'],
          ['Types', 'types'],
          ['Errors', 'problems'],
          ['Configuration', 'configuration'],
          ['Command line', 'cli'],
          ['Client', 'client'],
          ['React', 'react'],
          ['OData', 'odata'],
        ),
      },
      {
        text: 'Explanation',
        items: pages(
          ['How Ephoros works', 'how-it-works'],
          ['Security', 'security'],
          ['Failures', 'reliability'],
          ['Performance', 'performance'],
          ['Development', 'development'],
        ),
      },
    ],
  },
});
