import { execFile } from 'node:child_process';
import { access, constants, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { delimiter, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';

const run = promisify(execFile);

/** There is no browser that makes PDF of pages. */
export class NoBrowserError extends Error {
  constructor() {
    super(
      'There is no Chromium here, which makes the PDF: apt-get install chromium, or name one in EPHOROS_CHROMIUM. The same report is there as a page (format=html), which any browser prints.',
    );
    this.name = 'NoBrowserError';
  }
}

const names = ['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable'];
/** Ms that a page may take to be printed. */
const timeLimit = 60_000;

/** The Chromium that is there: by EPHOROS_CHROMIUM, or on the path. @throws NoBrowserError */
export async function findBrowser(
  environment: Readonly<Record<string, string | undefined>>,
): Promise<string> {
  const { EPHOROS_CHROMIUM: named, PATH: path = '' } = environment;
  const folders = path.split(delimiter).filter((folder) => folder !== '');
  const files =
    named === undefined || named === ''
      ? folders.flatMap((folder) => names.map((name) => join(folder, name)))
      : [named];
  for (const file of files) {
    const isThere = await access(file, constants.X_OK).then(
      () => true,
      () => false,
    );
    if (isThere) return file;
  }
  throw new NoBrowserError();
}

let before: Promise<unknown> = Promise.resolve();

/**
 * A page as PDF, printed by a Chromium of its own that reaches nothing else; one after the other, since each takes a
 * browser's memory. @throws Error where the browser fails
 */
export async function pdfOf(html: string, browser: string, signal?: AbortSignal): Promise<Buffer> {
  const made = before.then(
    () => print(html, browser, signal),
    () => print(html, browser, signal),
  );
  before = made.catch(() => undefined);
  return made;
}

async function print(html: string, browser: string, signal?: AbortSignal): Promise<Buffer> {
  signal?.throwIfAborted();
  const folder = await mkdtemp(join(tmpdir(), 'ephoros-report-'));
  try {
    const page = join(folder, 'report.html');
    const pdf = join(folder, 'report.pdf');
    await writeFile(page, html);
    await run(browser, [...flags(folder), `--print-to-pdf=${pdf}`, pathToFileURL(page).href], {
      timeout: timeLimit,
      ...(signal && { signal }),
    });
    return await readFile(pdf);
  } finally {
    await rm(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}

function flags(folder: string): readonly string[] {
  // Its own sandbox refuses to run as root.
  const isRoot = process.getuid?.() === 0;
  return [
    '--headless',
    ...(isRoot ? ['--no-sandbox'] : []),
    '--disable-gpu',
    '--disable-dev-shm-usage',
    '--disable-extensions',
    '--disable-background-networking',
    '--host-resolver-rules=MAP * ~NOTFOUND',
    '--no-first-run',
    '--no-pdf-header-footer',
    `--user-data-dir=${join(folder, 'profile')}`,
  ];
}
