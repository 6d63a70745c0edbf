import { access, constants } from 'node:fs/promises';
import { delimiter, join } from 'node:path';

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
