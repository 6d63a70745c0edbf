import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { resolve as resolved } from 'node:path';
import { source as axe } from 'axe-core';
import { chromium, type Browser, type Page } from 'playwright-core';

/** A program that reports its address on its first line. */
export interface Running {
  readonly url: string;
  readonly stop: () => Promise<void>;
}

/** Starts a program, by its path or by that below the examples, on a free port. */
export async function start(
  file: string,
  args: readonly string[],
  environment: Record<string, string> = {},
): Promise<Running> {
  const child: ChildProcess = spawn(process.execPath, [resolved('examples', file), ...args], {
    env: { ...process.env, PORT: '0', ...environment },
  });
  let errors = '';
  child.stderr?.on('data', (data: Buffer) => (errors += data.toString()));
  const url = await new Promise<string>((resolve, reject) => {
    child.stdout?.once('data', (data: Buffer) => resolve(data.toString().trim()));
    child.once('exit', () => reject(new Error(`${file} ended: ${errors}`)));
  });
  return {
    url,
    stop: async () => {
      const ended = new Promise((resolve) => child.once('exit', resolve));
      child.kill();
      await ended;
    },
  };
}

/** Chromium's build without windows, where it is there: it opens a page in a fifth of the time. */
const windowless = '/usr/bin/chromium-headless-shell';

export function launch(): Promise<Browser> {
  return chromium.launch({
    executablePath: existsSync(windowless) ? windowless : '/usr/bin/chromium',
    args: [
      '--disable-gpu',
      '--disable-background-networking',
      ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
    ],
  });
}

/** A fresh page; what it complains of is stored. */
export async function pageIn(browser: Browser): Promise<{ page: Page; complaints: string[] }> {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'Europe/Paris',
  });
  const page = await context.newPage();
  const complaints: string[] = [];
  page.on('pageerror', (error) => complaints.push(error.message));
  page.on('console', (message) => {
    const written = ['error', 'warning'].includes(message.type());
    if (written && !message.text().startsWith('Failed to load')) complaints.push(message.text());
  });
  return { page, complaints };
}

interface Violation {
  readonly id: string;
  readonly nodes: readonly { readonly html: string }[];
}

/** What the rules of axe-core (WCAG and good practice) find on a page, or in a part of it. */
export async function violations(page: Page, part = 'document'): Promise<string[]> {
  await page.evaluate(axe);
  const { violations: found } = await page.evaluate<{ violations: Violation[] }>(
    `axe.run(${part})`,
  );
  return found.flatMap(({ id, nodes }) => nodes.map(({ html }) => `${id}: ${html}`));
}

/** Holds the requests to a path until it is let go. */
export async function hold(page: Page, path: string | RegExp): Promise<() => void> {
  let go = (): void => undefined;
  const held = new Promise<void>((resolve) => {
    go = resolve;
  });
  await page.route(path, async (route) => {
    await held;
    await route.continue();
  });
  return () => go();
}

/**
 * Has the exact number of rows, when it is requested next, answered by an estimate, and not reported
 * before it is let go.
 */
export async function holdCount(
  page: Page,
  estimate: number,
  counts = /rows\?.*total=exact/,
): Promise<() => void> {
  const go = await hold(page, counts);
  await page.route(
    counts,
    async (route) => {
      const response = await route.fetch();
      const answer = (await response.json()) as { window: object };
      const window = { ...answer.window, total: estimate, totalKind: 'estimate' };
      await route.fulfill({ response, json: { ...answer, window } });
    },
    { times: 1 },
  );
  return go;
}

/** Waits while a page draws so many frames. */
export async function frames(page: Page, count: number): Promise<void> {
  for (let frame = 0; frame < count; frame += 1) {
    await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(resolve)));
  }
}
