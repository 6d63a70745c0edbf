import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { configurationFile } from '@ephoros/demo';

/** A server in a process of its own. */
export interface Endpoint {
  readonly url: string;
  /** It and the processes it has begun. */
  readonly processes: () => readonly number[];
  stop(): Promise<void>;
}

const program = fileURLToPath(new URL('../../packages/cli/bin/ephoros.mjs', import.meta.url));
const handWritten = fileURLToPath(new URL('./hand-written.js', import.meta.url));

/** A configuration that says nothing. */
const nothing = '/dev/null';

const mounted = fileURLToPath(new URL('./mounted.js', import.meta.url));

/** The service, as people start it, without a line of log for each request. */
export function startService(database: string, ...more: readonly string[]): Promise<Endpoint> {
  const args = ['serve', '--database', database, '--config', configurationFile, '--port', '0'];
  return start([program, ...args, '--log-level', 'warn', ...more], /(http:\/\/\S+)/);
}

/** The same over a database that is published as it is. */
export function startPlain(database: string, ...more: readonly string[]): Promise<Endpoint> {
  const args = ['serve', '--database', database, '--config', nothing, '--port', '0'];
  return start([program, ...args, '--log-level', 'warn', ...more], /(http:\/\/\S+)/);
}

/** The endpoint that does the same job the usual way. */
export function startHandWritten(database: string): Promise<Endpoint> {
  return start([handWritten, database, '0'], /(http:\/\/\S+)/);
}

/** An application with the router in it. */
export function startMounted(database: string): Promise<Endpoint> {
  return start([mounted, database], /(http:\/\/\S+)/);
}

async function start(args: readonly string[], ready: RegExp): Promise<Endpoint> {
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'pipe'] });
  const end = (): void => void child.kill();
  process.once('exit', end);
  child.once('exit', () => process.removeListener('exit', end));
  const url = await waitForOutput(child, ready);
  return {
    url,
    processes: () => {
      const pid = child.pid ?? 0;
      const text = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8');
      return [pid, ...text.trim().split(' ').filter(Boolean).map(Number)];
    },
    stop: async () => {
      if (child.exitCode !== null) return;
      const ended = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      await ended;
    },
  };
}

function waitForOutput(child: ChildProcess, pattern: RegExp): Promise<string> {
  return new Promise((resolve, reject) => {
    let text = '';
    const hear = (data: Buffer): void => {
      text += data.toString();
      const found = pattern.exec(text)?.[1];
      if (found !== undefined) resolve(found);
    };
    child.stdout?.on('data', hear);
    child.stderr?.on('data', hear);
    child.once('exit', () => reject(new Error(`did not start:\n${text}`)));
  });
}
