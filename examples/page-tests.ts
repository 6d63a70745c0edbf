import type { Browser, Page } from 'playwright-core';
import { launch, pageIn } from './fixtures.ts';

/** What the tests of a file have at hand: another page for each of them. */
export interface PageTests<Served> {
  readonly served: Served;
  readonly browser: Browser;
  readonly page: Page;
  /** What the page has complained of. */
  readonly complaints: string[];
}

/** Serves something for all tests of a file, and opens a browser and for each test a page. */
export function pageTests<Served>(
  serve: () => Promise<Served>,
  stop: (served: Served) => Promise<void>,
): PageTests<Served> {
  const now: { -readonly [Name in keyof PageTests<Served>]?: PageTests<Served>[Name] } = {};
  beforeAll(async () => {
    [now.served, now.browser] = await Promise.all([serve(), launch()]);
  }, 60_000);
  afterAll(async () => {
    await now.browser?.close();
    if (now.served !== undefined) await stop(now.served);
  });
  beforeEach(async () => {
    if (now.browser === undefined) return;
    Object.assign(now, await pageIn(now.browser));
    // Sooner than the test's own limit, so that what was waited for is reported.
    now.page?.setDefaultTimeout(30_000);
  });
  afterEach(() => now.page?.context().close());
  // Each is there by the time a test asks for it.
  return now as PageTests<Served>;
}
