import { execFile } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { promisify } from 'node:util';
import express from 'express';
import { createRouter } from '../../../service/src/index.ts';

const run = promisify(execFile);

/** A page that is served next to an API. */
export interface ServedPage {
  readonly url: string;
  /** Where the built page lies. */
  readonly folder: string;
  readonly close: () => Promise<void>;
}

/**
 * Builds a page from its script, as anyone who wrote it would, and serves it with the router under
 * /api. Lies within the project, so that its packages are found.
 */
export async function servePage(
  name: string,
  script: string,
  database: string,
  /** Files that the script imports, by their names. */
  others: Readonly<Record<string, string>> = {},
  /** A database for what the service keeps. */
  records?: string,
): Promise<ServedPage> {
  const folder = join(process.cwd(), '.ephoros/test/pages', name);
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'main.jsx'), script);
  for (const [file, text] of Object.entries(others)) writeFileSync(join(folder, file), text);
  writeFileSync(
    join(folder, 'index.html'),
    '<!doctype html><style>body { margin: 0 }</style><body><script type="module" src="main.jsx"></script>',
  );
  await run('npx', ['--no-install', 'vite', 'build', '--logLevel', 'error'], { cwd: folder });
  const router = createRouter({ database, records, countingTime: 3_000 });
  const app = express()
    .use('/api', router)
    .use(express.static(join(folder, 'dist')));
  const server = createServer(app).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    folder: join(folder, 'dist'),
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await router.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
