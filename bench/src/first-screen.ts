import { chromium, type Browser, type Page } from 'playwright-core';
import type { Endpoint } from './endpoints.ts';
import { compared, type Figure } from './report.ts';

/** What a page by hand needs for the same rows: no client, no table, nothing to change them by. */
const byHand = `<!doctype html><meta charset="utf-8"><table></table><script type="module">
const response = await fetch('/api/tables/passages/rows?sort=-passed_at&limit=50');
const { columns, rows } = await response.json();
const cell = (tag, text) => { const one = document.createElement(tag); one.textContent = text; return one; };
const line = (cells) => { const one = document.createElement('tr'); one.append(...cells); return one; };
document.querySelector('table').append(
  line(columns.map((name) => cell('th', name))),
  ...rows.map((row) => line(columns.map((name) => cell('td', row[name] ?? '')))),
);
</script>`;

/** From navigation to the first rows, in a headless Chromium that has the scripts in its cache. */
export async function firstScreen(ours: Endpoint, times: number): Promise<Figure[]> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--disable-gpu', ...(process.getuid?.() === 0 ? ['--no-sandbox'] : [])],
  });
  try {
    return await opened(browser, ours, times);
  } finally {
    await browser.close();
  }
}

async function opened(browser: Browser, { url }: Endpoint, times: number): Promise<Figure[]> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.route('**/by-hand.html', (route) =>
    route.fulfill({ contentType: 'text/html', body: byHand }),
  );
  await noteFirst(page, '.eph-row .eph-text, .eph-row .eph-number, td');
  const console: number[] = [];
  const hand: number[] = [];
  // One after the other, so that both have the same company.
  for (let turn = 0; turn < times; turn += 1) {
    console.push(await timeTo(page, `${url}/tables/passages`));
    hand.push(await timeTo(page, `${url}/by-hand.html`));
  }
  return [
    compared(
      'from navigation to the first rows of the console',
      console.slice(1),
      hand.slice(1),
      'a page of one script',
    ),
  ];
}

/** Has each page note, in ms from its navigation, when the first of some elements is there. */
async function noteFirst(page: Page, selector: string): Promise<void> {
  await page.addInitScript((wanted) => {
    const check = (): void => {
      if (document.querySelector(wanted) === null) return;
      watch.disconnect();
      // Drawn with the next frame.
      requestAnimationFrame(() =>
        document.documentElement.setAttribute('data-first', String(performance.now())),
      );
    };
    const watch = new MutationObserver(check);
    watch.observe(document, { childList: true, subtree: true });
  }, selector);
}

async function timeTo(page: Page, address: string): Promise<number> {
  await page.goto(address);
  const root = page.locator('html[data-first]');
  await root.waitFor();
  return Number(await root.getAttribute('data-first'));
}
