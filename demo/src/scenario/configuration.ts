import { fileURLToPath } from 'node:url';

/** The demo's `ephoros.yaml`. */
export const configurationFile = fileURLToPath(new URL('../../ephoros.yaml', import.meta.url));
