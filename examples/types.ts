import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Checks the types of modules by their names, as a page's author would, in a folder of the tests. @throws Error with
 * what the compiler says
 */
export function checkTypes(name: string, sources: Readonly<Record<string, string>>): void {
  const folder = join(process.cwd(), '.ephoros/test/types', name);
  const files: Readonly<Record<string, string>> = {
    ...sources,
    'files.d.ts': `declare module '*.css';`,
  };
  const compilerOptions = {
    ...{ strict: true, noEmit: true, module: 'esnext', moduleResolution: 'bundler' },
    ...{ target: 'es2023', lib: ['es2023', 'dom'], jsx: 'react-jsx', types: [] },
    ...{ skipLibCheck: true, allowImportingTsExtensions: true },
  };
  mkdirSync(folder, { recursive: true });
  try {
    for (const [file, text] of Object.entries(files)) writeFileSync(join(folder, file), text);
    writeFileSync(
      join(folder, 'tsconfig.json'),
      JSON.stringify({ compilerOptions, files: Object.keys(files) }),
    );
    execFileSync(process.execPath, [join(process.cwd(), 'node_modules/typescript/bin/tsc')], {
      cwd: folder,
      encoding: 'utf8',
      stdio: 'pipe',
    });
  } catch (thrown) {
    throw new Error((thrown as { stdout?: string }).stdout ?? String(thrown), { cause: thrown });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
