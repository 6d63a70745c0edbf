import { readFileSync } from 'node:fs';
import { inspect } from 'node:util';
import type { Browser } from 'playwright-core';
import { createClient } from '../packages/client/src/index.ts';
import { cacheSmallResults, createLocalClient } from '../packages/client/src/local/index.ts';
import { servePage, type ServedPage } from '../packages/react/src/testing/built-page.ts';
import { startService, type TestService } from '../packages/service/src/testing/service.ts';
import { testDatabases } from '../demo/src/testing/databases.ts';
import { launch, pageIn } from './fixtures.ts';
import { checkTypes } from './types.ts';

/** A question and the code that answers it. */
interface Answer {
  readonly query: string;
  readonly language: string;
  readonly code: string;
}

const answers = readFileSync('docs/how.md', 'utf8')
  .split(/^## /m)
  .slice(1)
  .map((section): Answer => {
    const [, language = '', code = ''] = /```(\w+)\n(.*?)```/s.exec(section) ?? [];
    return { query: section.split('\n')[0] ?? '', language, code };
  });

const inLanguage = (language: string): readonly (readonly [string, Answer])[] =>
  answers.filter((one) => one.language === language).map((one) => [one.query, one]);

/** What stands behind the lines that print, and goes on over the remarks below them. */
function promised(code: string): string[] {
  return [...code.matchAll(/console\.log\((?:.|\n)*?\);\s*\/\/ (.*(?:\n\s*\/\/ .*)*)/g)].map(
    ([, text = '']) => text.replace(/\n\s*\/\/ /g, ' '),
  );
}

it('is answered about twenty things at least, each with its code', () => {
  expect(answers.length).toBeGreaterThanOrEqual(20);
  for (const { query, code } of answers) expect([query, code.length > 40]).toEqual([query, true]);
});

describe('in a script', () => {
  let service: TestService;

  beforeAll(async () => {
    service = await startService(testDatabases().lowmere);
  });

  afterAll(() => service.close());

  it.each(inLanguage('js'))('%s', async (_question, { code }) => {
    const texts: string[] = [];
    const log = (...values: unknown[]): unknown =>
      texts.push(values.map((one) => (typeof one === 'string' ? one : inspect(one))).join(' '));
    const url = `${service.url}/api`;
    const given = {
      client: createClient({ url }),
      url,
      createClient,
      cacheSmallResults,
      createLocalClient,
      console: { log },
    };
    // eslint-disable-next-line @typescript-eslint/no-implied-eval -- the code that readers copy
    const run = new Function(...Object.keys(given), `return (async () => {${code}})()`) as (
      ...values: unknown[]
    ) => Promise<void>;
    await run(...Object.values(given));
    expect(texts).toEqual(promised(code));
    expect(texts.length).toBeGreaterThan(0);
  });
});

describe('in a page', () => {
  const pages = inLanguage('tsx');
  const sources = Object.fromEntries(
    pages.map(([, { code }], index) => [`answer-${index}.tsx`, code]),
  );
  let served: ServedPage;
  let browser: Browser;

  beforeAll(async () => {
    const script = `import { createRoot } from 'react-dom/client';
      import '@ephoros/react/table.css';
      ${pages.map((_, index) => `import { Page as Page${index} } from './answer-${index}.tsx';`).join('\n')}
      const pages = [${pages.map((_, index) => `Page${index}`).join()}];
      const Page = pages[Number(location.hash.slice(1))];
      createRoot(document.body.appendChild(document.createElement('div'))).render(
        <div style={{ height: '100vh' }}><Page /></div>);`;
    [served, browser] = await Promise.all([
      servePage('answers', script, testDatabases().lowmere, sources),
      launch(),
    ]);
  }, 60_000);

  afterAll(async () => {
    await browser.close();
    await served.close();
  });

  it('has the types that it needs', () => {
    checkTypes('answers', sources);
  });

  it.each(pages.map(([query], index) => [query, index] as const))(
    '%s',
    async (_question, index) => {
      const { page, complaints } = await pageIn(browser);
      await page.goto(`${served.url}/#${index}`);
      await page.locator('.eph-row .eph-cell', { hasText: /\S/ }).first().waitFor();
      expect(complaints).toEqual([]);
      await page.context().close();
    },
  );
});
