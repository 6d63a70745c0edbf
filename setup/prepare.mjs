/**
 * What a fresh machine lacks, before anything of the project can run: Node's version, the npm
 * packages, Debian's PostgreSQL and Chromium, the build. Uses nothing but Node itself.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, readdirSync, statSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));

const isRoot = process.getuid?.() === 0;

/** Programs that come from Debian: how each is found, and the packages that bring it. */
const programs = {
  postgresql: {
    packages: ['postgresql'],
    found: () =>
      onPath('initdb') ||
      (existsSync('/usr/lib/postgresql') &&
        readdirSync('/usr/lib/postgresql').some((version) =>
          existsSync(`/usr/lib/postgresql/${version}/bin/initdb`),
        )),
  },
  nginx: {
    packages: ['nginx-light'],
    found: () => onPath('nginx') || existsSync('/usr/sbin/nginx'),
  },
  pgbouncer: {
    packages: ['pgbouncer'],
    found: () => onPath('pgbouncer') || existsSync('/usr/sbin/pgbouncer'),
  },
  faketime: {
    packages: ['faketime'],
    found: () => onPath('faketime'),
  },
  chromium: {
    packages: ['chromium', 'fonts-dejavu-core'],
    found: () => onPath('chromium'),
  },
};

/** What makes tests quicker where Debian has it, and is not needed: Chromium's build without windows. */
const quicker = ['chromium-headless-shell'];

/**
 * Prepares the machine and the checkout; ends the process with a clear word where it cannot.
 * @param {{ programs: (keyof typeof programs)[], build: boolean, quick?: boolean }} wanted
 */
export function prepare(wanted) {
  checkNode();
  installPackages();
  installPrograms(wanted.programs.filter((name) => !programs[name].found()));
  if (wanted.quick === true) installQuicker();
  if (wanted.build) {
    step('Building');
    run('npm', ['run', '--silent', 'build'], { quiet: true });
  }
}

/** Says what is being done. */
export function step(text) {
  process.stderr.write(`— ${text}\n`);
}

function checkNode() {
  const [major = 0, minor = 0] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    stop(`Node.js 20.19 or newer is needed; this is ${process.versions.node}.`);
  }
}

/** `npm ci`, when the packages are missing or older than the lock file. */
function installPackages() {
  const marker = join(root, 'node_modules', '.package-lock.json');
  const lock = join(root, 'package-lock.json');
  if (existsSync(marker) && statSync(marker).mtimeMs >= statSync(lock).mtimeMs) return;
  step('Installing npm packages');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { quiet: true });
}

function installPrograms(missing) {
  const packages = missing.flatMap((name) => programs[name].packages);
  if (packages.length === 0) return;
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  if (!isRoot || !onPath('apt-get')) {
    stop(`${missing.join(' and ')} must be installed first. Run:\n  sudo ${command}`);
  }
  step(`Installing ${packages.join(', ')}`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  run('apt-get', ['update', '-qq'], { quiet: true, env });
  run('apt-get', command.split(' ').slice(1), { quiet: true, env });
}

/** Only where it can be had at once; without it all goes the same way, slower. */
function installQuicker() {
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  for (const name of quicker) {
    if (onPath(name) || !isRoot || !onPath('apt-get')) continue;
    const isKnown = spawnSync('apt-cache', ['show', name], { env }).status === 0;
    if (!isKnown) continue;
    step(`Installing ${name}`);
    const options = ['-o', 'Acquire::Retries=0', '-o', 'Acquire::http::Timeout=10'];
    const args = ['install', '-y', '-qq', '--no-install-recommends', ...options, name];
    const { status } = spawnSync('apt-get', args, { env, timeout: 180_000 });
    if (status !== 0) step(`${name} is not to be had: the tests go without it`);
  }
}

/**
 * Runs a command in the project; ends the process with the command's own code when it fails.
 * `quiet` shows what it printed only then.
 */
export function run(command, args, { quiet = false, env = process.env } = {}) {
  const stdio = quiet ? ['ignore', 'pipe', 'pipe'] : 'inherit';
  const { status, stdout, stderr, error } = spawnSync(command, args, {
    cwd: root,
    env,
    stdio,
    encoding: 'utf8',
    maxBuffer: 64 * 1024 * 1024,
  });
  if (status === 0) return;
  if (quiet) process.stderr.write(`${stdout ?? ''}${stderr ?? ''}`);
  stop(`${command} ${args.join(' ')} failed${error ? `: ${error.message}` : ''}`, status ?? 1);
}

function onPath(program) {
  return (process.env.PATH ?? '')
    .split(delimiter)
    .some((folder) => folder !== '' && existsSync(join(folder, program)));
}

function stop(message, code = 1) {
  process.stderr.write(`${message}\n`);
  process.exit(code);
}
