/**
 * `npm run stalls [arguments of Jest]`: the tests, while their processes (Jest's, the browser's, PostgreSQL's) are
 * stopped for moments, as on a host that gives its processors to others. What waits for a time instead of for what it
 * means to see fails here. Needs Linux, and what `npm test` has set up; ends as Jest does.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { root, step } from './prepare.mjs';

/** Ms that processes are stopped for, and ms from one stop to the next at most. */
const stalls = [100, 300, 600, 1_000, 1_800];
const longestPause = 800;
/** How many processes are stopped at once. */
const together = [1, 2, 4];

const one = (list) => list[Math.floor(Math.random() * list.length)];

step('Testing, with stalls');
const jest = spawn('npx', ['--no-install', 'jest', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
});
const ended = once(jest, 'exit');
let stopped = [];
process.on('exit', goOn);
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => jest.kill(signal));

while (jest.exitCode === null && jest.signalCode === null) {
  const processes = processesOfTests();
  // Of a kind each, however many there are of it.
  const kind = one([...new Set(processes.map((found) => found.kind))]);
  const alike = processes.filter((found) => found.kind === kind);
  stopped = alike.length === 0 ? [] : Array.from({ length: one(together) }, () => one(alike).id);
  for (const id of stopped) send(id, 'SIGSTOP');
  await sleep(one(stalls));
  goOn();
  await Promise.race([sleep(Math.random() * longestPause), ended]);
}
const [code] = await ended;
process.exitCode = code ?? 1;

function goOn() {
  for (const id of stopped) send(id, 'SIGCONT');
  stopped = [];
}

function send(id, signal) {
  try {
    process.kill(id, signal);
  } catch {
    // It has ended meanwhile.
  }
}

/** What descends from Jest, and from the PostgreSQL of the tests, which is nobody's child. */
function processesOfTests() {
  const all = readdirSync('/proc').flatMap((name) => (/^\d+$/.test(name) ? processOf(name) : []));
  const data = join(root, '.ephoros', 'test');
  const found = new Set([jest.pid]);
  for (const { id, command } of all) if (command.includes(data)) found.add(id);
  for (let before = -1; before < found.size;) {
    before = found.size;
    for (const { id, parent } of all) if (found.has(parent)) found.add(id);
  }
  return all.filter(({ id }) => found.has(id) && id !== jest.pid);
}

function processOf(name) {
  try {
    const folder = join('/proc', name);
    const command = readFileSync(join(folder, 'cmdline'), 'utf8').replaceAll('\0', ' ');
    // Behind the name, which may hold anything: state and parent.
    const parent = Number(
      readFileSync(join(folder, 'stat'), 'utf8').split(') ').at(-1).split(' ')[1],
    );
    const browser = /--type=(\w+)/.exec(command)?.[1];
    const kind = browser ?? /postgres|chrom|processChild|jest/.exec(command)?.[0] ?? 'other';
    return [{ id: Number(name), parent, command, kind }];
  } catch {
    return [];
  }
}
