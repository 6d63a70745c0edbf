import { join } from 'node:path';
import type { Browser, BrowserContext, Locator, Page } from 'playwright-core';
import { frames, launch } from '../../../../examples/fixtures.ts';
import type { TestService } from '../../../service/src/testing/service.ts';

export const consoleFolder = join(process.cwd(), 'packages/console/dist/site');

let browser: Browser;
let context: BrowserContext;
/** The page of the test that runs. */
export let page: Page;
/** The service that serves it. */
export let service: TestService;
/** Errors that the page wrote to its console. */
let complaints: string[];

/** Opens a browser over a service for all tests of a file, and a fresh page for each. */
export function consoleOver(start: () => Promise<TestService>): void {
  beforeAll(async () => {
    service = await start();
    browser = await launch();
  });

  afterAll(async () => {
    await browser.close();
    await service.close();
  });

  beforeEach(async () => {
    context = await browser.newContext({
      viewport: { width: 1280, height: 800 },
      locale: 'en-GB',
      timezoneId: 'America/New_York',
    });
    page = await context.newPage();
    complaints = [];
    page.on('pageerror', (error) => complaints.push(error.message));
    page.on('console', (message) => {
      // A failed request is written there by the browser itself.
      if (message.type() === 'error' && !message.text().startsWith('Failed to load'))
        complaints.push(message.text());
    });
  });

  afterEach(async () => {
    await context.close();
    expect(complaints).toEqual([]);
  });
}

export const position = (): Locator => page.getByTestId('position');
export const sentence = (): Locator => page.getByTestId('sentence');
export const grid = (): Locator => page.getByRole('grid');

export async function open(path: string): Promise<void> {
  await page.goto(service.url + path);
}

export async function until(
  read: () => Promise<string | null>,
  expected: string | RegExp,
): Promise<void> {
  let last: string | null = null;
  for (let tries = 0; tries < 400; tries += 1) {
    last = await read();
    if (last !== null && (typeof expected === 'string' ? last === expected : expected.test(last)))
      return;
    await page.waitForTimeout(50);
  }
  throw new Error(`expected ${String(expected)}, read ${last ?? 'nothing'}`);
}

/** Waits until what was done has been drawn. */
export const drawn = (): Promise<void> => frames(page, 2);

export const says = (expected: string | RegExp): Promise<void> =>
  until(() => position().textContent(), expected);

/** The texts of a column's cells, as far as they stand in the page. */
export async function cells(label: string): Promise<string[]> {
  const index = await page
    .getByRole('columnheader', { name: new RegExp(`^${label}`) })
    .getAttribute('aria-colindex');
  return page.locator(`[role=gridcell][aria-colindex="${index ?? ''}"]`).allTextContents();
}

/** Waits for the rows, and for the fonts, which move what is drawn when they come. */
export async function loaded(shown = grid()): Promise<void> {
  await shown.and(page.locator('[aria-busy=false]')).waitFor();
  await page.evaluate(() => document.fonts.ready.then(() => undefined));
}
