import { spawn, type ChildProcess } from 'node:child_process';
import { createServer, type AddressInfo, type Server } from 'node:net';
import { join } from 'node:path';

const program = join(process.cwd(), 'packages/cli/bin/ephoros.mjs');

/** What a command left behind. */
export interface Ended {
  readonly code: number | null;
  readonly stdout: string;
  readonly stderr: string;
}

/** A command that runs. */
export interface Started {
  readonly child: ChildProcess;
  readonly ended: Promise<Ended>;
  /** Resolves when the output matches. */
  readonly printed: (pattern: RegExp) => Promise<RegExpExecArray>;
}

const running = new Set<ChildProcess>();

// What a test that failed has left running would keep the tests from ending.
afterAll(() => {
  for (const child of running) child.kill();
});

/** Runs the command as people do, in a process of its own. */
export function start(
  args: readonly string[],
  environment: Record<string, string> = {},
  input?: string,
): Started {
  const child = spawn(process.execPath, [program, ...args], {
    env: { ...process.env, ...environment },
  });
  if (input !== undefined) child.stdin.end(input);
  running.add(child);
  child.once('exit', () => running.delete(child));
  let stdout = '';
  let stderr = '';
  child.stdout.on('data', (data: Buffer) => (stdout += data.toString()));
  child.stderr.on('data', (data: Buffer) => (stderr += data.toString()));
  const ended = new Promise<Ended>((resolve) => {
    child.on('close', (code) => resolve({ code, stdout, stderr }));
  });
  const printed = async (pattern: RegExp): Promise<RegExpExecArray> => {
    for (let tries = 0; tries < 400; tries += 1) {
      const match = pattern.exec(stdout + stderr);
      if (match) return match;
      if (child.exitCode !== null) break;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    throw new Error(`never said ${pattern.source}:\n${stdout}${stderr}`);
  };
  return { child, ended, printed };
}

/** Takes a port. */
export function occupy(port = 0): Promise<{ server: Server; port: number }> {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () =>
      resolve({ server, port: (server.address() as AddressInfo).port }),
    );
  });
}
