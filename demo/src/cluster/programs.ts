import { accessSync, constants, existsSync, readdirSync } from 'node:fs';
import { delimiter, join } from 'node:path';

const debianFolder = '/usr/lib/postgresql';

/**
 * The folder of PostgreSQL's server programs: the newest of Debian's, else the one of PATH;
 * undefined when there is none.
 */
export function findPrograms(): string | undefined {
  const versions = existsSync(debianFolder) ? readdirSync(debianFolder) : [];
  const debian = versions
    .sort((one, other) => Number(other) - Number(one))
    .map((version) => join(debianFolder, version, 'bin'));
  const path = (process.env.PATH ?? '').split(delimiter);
  return [...debian, ...path].find((folder) =>
    ['initdb', 'postgres'].every((program) => isExecutable(join(folder, program))),
  );
}

function isExecutable(file: string): boolean {
  try {
    accessSync(file, constants.X_OK);
    return true;
  } catch {
    return false;
  }
}
