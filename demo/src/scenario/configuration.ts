import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** The demo's `ephoros.yaml`. */
export const configurationFile = fileURLToPath(new URL('../../ephoros.yaml', import.meta.url));

const signInFile = fileURLToPath(new URL('../../sign-in.yaml', import.meta.url));

/** The demo's configuration with signing in at a provider, and roles. */
export function signInConfiguration(issuer: string): string {
  const more = readFileSync(signInFile, 'utf8').replaceAll('{issuer}', issuer);
  return `${readFileSync(configurationFile, 'utf8')}\n${more}`;
}
