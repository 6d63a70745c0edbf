import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';

type Environment = Readonly<Record<string, string | undefined>>;

/** Where the tokens of anyone who signed in lie: a file that only they can read. */
function fileOf({ XDG_CONFIG_HOME: folder, HOME: home = homedir() }: Environment): string {
  const base = folder === undefined || folder === '' ? join(home, '.config') : folder;
  return join(base, 'ephoros', 'tokens.json');
}

function originOf(url: string): string {
  return URL.canParse(url) ? new URL(url).origin : url;
}

/** Tokens by the origin of the service that gave them out. */
function read(environment: Environment): Record<string, string> {
  try {
    const found: unknown = JSON.parse(readFileSync(fileOf(environment), 'utf8'));
    const entries = typeof found === 'object' && found !== null ? Object.entries(found) : [];
    return Object.fromEntries(
      entries.filter((entry): entry is [string, string] => typeof entry[1] === 'string'),
    );
  } catch {
    // None was stored, or somebody has written something else there.
    return {};
  }
}

function write(environment: Environment, tokens: Record<string, string>): void {
  const file = fileOf(environment);
  mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
  // Replaced as a whole, so that an older file with wider rights does not stay.
  const next = `${file}.${process.pid}`;
  writeFileSync(next, `${JSON.stringify(tokens, null, 2)}\n`, { mode: 0o600, flag: 'wx' });
  renameSync(next, file);
}

/** The token that was stored for a service; undefined where nobody has signed in there. */
export function storedToken(url: string, environment: Environment): string | undefined {
  return read(environment)[originOf(url)];
}

export function storeToken(url: string, token: string, environment: Environment): void {
  write(environment, { ...read(environment), [originOf(url)]: token });
}

export function forgetToken(url: string, environment: Environment): void {
  const { [originOf(url)]: _gone, ...others } = read(environment);
  write(environment, others);
}
