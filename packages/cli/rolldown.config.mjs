/**
 * The command as few files: read one by one, its modules and those of the packages it stands on take half a second at
 * each start. What only some commands need, and may not be installed, stays what it is.
 */
import { readFileSync } from 'node:fs';

const { peerDependencies } = JSON.parse(
  readFileSync(new URL('package.json', import.meta.url), 'utf8'),
);

export default {
  input: 'src/main.ts',
  platform: 'node',
  // The packages as they are built, each once.
  tsconfig: false,
  external: Object.keys(peerDependencies),
  output: { dir: 'program', format: 'esm', entryFileNames: 'main.js', cleanDir: true },
};
