import { spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';

export interface PoolerOptions {
  /** When a session may be given to somebody else. */
  readonly mode: 'transaction' | 'session';
  /** Sessions of the server for each database and role; 20 by default. */
  readonly sessions?: number;
}

/** PgBouncer on a free port of loopback, in front of a server. */
export interface Pooler {
  readonly port: number;
  /** The address of a database of the server as it is reached through it. */
  url(direct: string): string;
  /** Ends it at once, with all of its connections. */
  stop(): Promise<void>;
}

/** Tries until it answers, each 50 ms apart. */
const tries = 200;

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

/** Starts PgBouncer before the server of an address. @throws Error with what it said where it does not answer */
export async function startPooler(
  direct: string,
  { mode, sessions = 20 }: PoolerOptions,
): Promise<Pooler> {
  const { hostname, port: far, username } = new URL(direct);
  const folder = mkdtempSync(join(tmpdir(), 'ephoros-pooler-'));
  chmodSync(folder, 0o755);
  const port = await freePort();
  const file = join(folder, 'pgbouncer.ini');
  const users = join(folder, 'users.txt');
  writeFileSync(users, `"${username}" ""\n`);
  writeFileSync(
    file,
    `[databases]
* = host=${hostname} port=${far}
[pgbouncer]
listen_addr = 127.0.0.1
listen_port = ${port}
unix_socket_dir =
auth_type = trust
auth_file = ${users}
pool_mode = ${mode}
default_pool_size = ${sessions}
max_client_conn = 500
`,
  );
  // It refuses to run as root.
  const user = process.getuid?.() === 0 ? ['-u', 'postgres'] : [];
  const child = spawn('/usr/sbin/pgbouncer', [...user, file], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  let written = '';
  // Where it is not installed, for instance.
  child.once('error', ({ message }) => (written += message));
  child.stderr.setEncoding('utf8').on('data', (text: string) => (written += text));
  const ended = new Promise((resolve) => child.once('close', resolve));
  const pooler: Pooler = {
    port,
    url: (of) => {
      const through = new URL(of);
      through.port = String(port);
      return through.href;
    },
    stop: async () => {
      child.kill('SIGKILL');
      await ended;
      rmSync(folder, { recursive: true, force: true });
    },
  };
  const hasEnded = (): boolean => child.pid === undefined || child.exitCode !== null;
  for (let left = tries; left > 0 && !hasEnded(); left -= 1) {
    if (await answers(pooler.url(direct))) return pooler;
    await sleep(50);
  }
  await pooler.stop();
  throw new Error(`PgBouncer does not answer: ${written}`);
}

async function answers(url: string): Promise<boolean> {
  const client = new pg.Client({ connectionString: url });
  client.on('error', () => undefined);
  try {
    await client.connect();
    return true;
  } catch {
    return false;
  } finally {
    await client.end().catch(() => undefined);
  }
}
