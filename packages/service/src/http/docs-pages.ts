import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import express, { type RequestHandler } from 'express';

/** The path of the documentation site. The site is built for it. */
export const docsPath = '/docs';

/**
 * Serves the documentation site that was built into `folder`. Undefined where it was not built.
 * @param policy the Content-Security-Policy of the service. The scripts and styles that the site's generator writes into
 *   a page are allowed in addition, the scripts by their hashes (CSP 3, 8.3).
 */
export function docsPages(folder: string, policy: string): RequestHandler | undefined {
  const start = join(folder, 'index.html');
  if (!existsSync(start)) return undefined;
  const pagePolicy = policyOfPage(readFileSync(start, 'utf8'), policy);
  return express.static(folder, {
    extensions: ['html'],
    setHeaders: (response, path) => {
      if (path.endsWith('.html')) response.setHeader('Content-Security-Policy', pagePolicy);
      else if (path.startsWith(join(folder, 'assets'))) {
        response.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
      }
    },
  });
}

function policyOfPage(page: string, policy: string): string {
  const scripts = [...page.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([^]*?)<\/script>/g)];
  const hashes = scripts.map(
    ([, script = '']) => `'sha256-${createHash('sha256').update(script).digest('base64')}'`,
  );
  return policy
    .replace(`script-src 'self'`, ["script-src 'self'", ...hashes].join(' '))
    .replace(`style-src 'self'`, `style-src 'self' 'unsafe-inline'`);
}
