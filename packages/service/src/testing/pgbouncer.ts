import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync, chmodSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { until } from '../../../core/src/testing/until.ts';

/** PgBouncer in front of the tests' server. */
export interface Pooler {
  /** The address of a database as it is reached through it. */
  readonly url: (direct: string) => string;
  readonly stop: () => Promise<void>;
}

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  await new Promise((resolve) => server.close(resolve));
  return port;
}

/** Starts PgBouncer on loopback, with so many sessions of the server for each database and role. */
export async function startPooler(
  direct: string,
  mode: 'transaction' | 'session',
  sessions = 3,
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
    [
      '[databases]',
      `* = host=${hostname} port=${far}`,
      '[pgbouncer]',
      'listen_addr = 127.0.0.1',
      `listen_port = ${port}`,
      'unix_socket_dir =',
      'auth_type = trust',
      `auth_file = ${users}`,
      `pool_mode = ${mode}`,
      `default_pool_size = ${sessions}`,
      'max_client_conn = 500',
      'ignore_startup_parameters = ',
    ].join('\n'),
  );
  // It refuses to run as root.
  const isRoot = process.getuid?.() === 0;
  let written = '';
  const pooler = spawn('/usr/sbin/pgbouncer', [...(isRoot ? ['-u', 'postgres'] : []), file], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  pooler.stderr.setEncoding('utf8').on('data', (text: string) => (written += text));
  const ended = new Promise((resolve) => pooler.once('close', resolve));
  const url = (of: string): string => {
    const through = new URL(of);
    through.port = String(port);
    return through.href;
  };
  const stop = async (): Promise<void> => {
    pooler.kill('SIGKILL');
    await ended;
    rmSync(folder, { recursive: true, force: true });
  };
  const answers = async (): Promise<string> => {
    const client = new pg.Client({ connectionString: url(direct) });
    client.on('error', () => undefined);
    try {
      await client.connect();
      return 'there';
    } catch (thrown) {
      return `${String(thrown)} ${written}`;
    } finally {
      await client.end().catch(() => undefined);
    }
  };
  await until(answers, (state) => state === 'there').catch(async (thrown: unknown) => {
    await stop();
    throw thrown;
  });
  return { url, stop };
}
