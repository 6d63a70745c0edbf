import { join } from 'node:path';

/** The switches of a browser that only prints. */
export function printFlags(folder: string): readonly string[] {
  // Its own sandbox refuses to run as root.
  const isRoot = process.getuid?.() === 0;
  return [
    '--headless',
    ...(isRoot ? ['--no-sandbox'] : []),
    '--disable-gpu',
    '--disable-dev-shm-usage',
    '--disable-extensions',
    '--disable-background-networking',
    '--blink-settings=imagesEnabled=false',
    '--disable-plugins',
    '--disable-file-system',
    '--proxy-server=127.0.0.1:1',
    '--host-resolver-rules=MAP * ~NOTFOUND',
    '--no-first-run',
    '--no-pdf-header-footer',
    `--user-data-dir=${join(folder, 'profile')}`,
  ];
}
