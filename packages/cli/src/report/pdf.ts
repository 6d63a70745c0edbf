import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { harmlessPage } from './harmless-page.ts';
import { printFlags } from './print-flags.ts';
import { PrintQueue } from './print-queue.ts';

const run = promisify(execFile);

/** Ms that a page may take to be printed. */
const timeLimit = 60_000;

const queue = new PrintQueue();

/** Who wants a page printed: callers take turns. */
export interface PrintOptions {
  readonly caller?: string;
  readonly signal?: AbortSignal | undefined;
}

/**
 * A page as PDF, printed by a Chromium of its own that runs no scripts and reaches no network; of the page it gets what
 * does nothing. One after the other. @throws TooManyPagesError; Error where the browser fails
 */
export function pdfOf(
  html: string,
  browser: string,
  { caller = '', signal }: PrintOptions = {},
): Promise<Buffer> {
  return queue.add(caller, () => print(html, browser, signal));
}

async function print(
  html: string,
  browser: string,
  signal: AbortSignal | undefined,
): Promise<Buffer> {
  signal?.throwIfAborted();
  const folder = await mkdtemp(join(tmpdir(), 'ephoros-report-'));
  try {
    const page = join(folder, 'report.html');
    const pdf = join(folder, 'report.pdf');
    await writeFile(page, harmlessPage(html));
    await run(browser, [...printFlags(folder), `--print-to-pdf=${pdf}`, pathToFileURL(page).href], {
      timeout: timeLimit,
      // What the service knows by its environment, such as passwords, is nothing for a browser.
      env: { PATH: process.env.PATH, HOME: folder, LANG: process.env.LANG },
      cwd: folder,
      ...(signal && { signal }),
    });
    return await readFile(pdf);
  } finally {
    await rm(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}
