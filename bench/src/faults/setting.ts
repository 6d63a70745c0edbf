import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join, resolve } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { LossyProxy, startCluster, type Cluster } from '@ephoros/demo';
import { Records, Tokens } from '@ephoros/service';
import { exportJWK, generateKeyPair, SignJWT } from 'jose';
import pg from 'pg';

/** A process of the service, which can be ended and started again. */
export interface Instance {
  readonly url: string;
  child: ChildProcess | undefined;
  start(environment?: Record<string, string>): Promise<void>;
}

/** Anyone who signs tokens, and can be away. */
export interface Signer {
  readonly issuer: string;
  sign(seconds: number): Promise<string>;
  leave(): Promise<void>;
  comeBack(): Promise<void>;
}

/** Everything that is looked at: three servers of the database, two services, what stands before them. */
export interface Setting {
  readonly folder: string;
  leader: Cluster;
  /** What the services reach the primary through. */
  readonly way: LossyProxy;
  readonly followers: Cluster[];
  readonly instances: readonly Instance[];
  /** The address of nginx, before the services. */
  readonly url: string;
  nginx: ChildProcess;
  readonly tokens: Tokens;
  readonly signer: Signer;
  startNginx(): Promise<ChildProcess>;
  startLeader(): Promise<Cluster>;
  startFollower(number: number): Promise<Cluster>;
  /** Starts PgBouncer before the primary, in transaction mode, at `pooler` of `ports`. */
  startPooler(): Promise<ChildProcess>;
  close(): Promise<void>;
}

export const ports = {
  leader: 54_840,
  pooler: 54_845,
  follower: 54_850,
  service: 4_660,
  nginx: 4_670,
};
const program = resolve('packages/cli/bin/ephoros.mjs');

/** Sets it all up in a folder that nobody else uses. */
export async function setUp(say: (line: string) => void): Promise<Setting> {
  const folder = resolve('.ephoros', 'faults');
  mkdirSync(folder, { recursive: true });
  const startLeader = (): Promise<Cluster> =>
    startCluster({
      folder: join(folder, 'leader'),
      port: ports.leader,
      // What is stated to be saved is saved.
      settings: { fsync: 'on', full_page_writes: 'on', synchronous_commit: 'on' },
    });
  rmSync(join(folder, 'leader'), { recursive: true, force: true });
  const leader = await startLeader();
  await fill(leader.url('postgres'));
  const startFollower = (number: number): Promise<Cluster> =>
    startCluster({
      folder: join(folder, `follower-${number}`),
      port: ports.follower + number,
      follows: leader.url('postgres'),
    });
  say('Three servers of the database are there');
  const followers = [await startFollower(0), await startFollower(1)];
  const signer = await startSigner();
  const file = join(folder, 'ephoros.yaml');
  writeFileSync(file, configuration(signer.issuer));
  const records = new Records(leader.url('postgres'));
  const replicas = followers.map((one) => one.url('postgres'));
  const way = new LossyProxy(leader.port);
  const primary = new URL(leader.url('postgres'));
  primary.port = String(await way.listen());
  const instances = [0, 1].map((number) =>
    instance(ports.service + number, [
      ...['--database', primary.href, '--records', primary.href],
      ...['--changes', primary.href, '--replica', ...replicas],
      ...['--config', file, '--workers', '2', '--connections', '12', '--log-level', 'error'],
    ]),
  );
  await Promise.all(instances.map((one) => one.start()));
  say('Two services answer, of two workers each');
  const anew = (): Promise<ChildProcess> => startNginx(folder, instances);
  const nginx = await anew();
  const setting: Setting = {
    ...{ folder, leader, way, followers, instances, nginx, signer, startLeader, startFollower },
    startPooler: () => startPooler(folder, leader.port),
    startNginx: anew,
    url: `http://127.0.0.1:${ports.nginx}`,
    tokens: new Tokens(records),
    close: async () => {
      setting.nginx.kill('SIGTERM');
      for (const { child } of instances) child?.kill('SIGTERM');
      await signer.leave();
      await records.close();
      way.close();
      for (const follower of setting.followers) await follower.stop();
      await setting.leader.stop();
    },
  };
  return setting;
}

async function startPooler(folder: string, primary: number): Promise<ChildProcess> {
  const file = join(folder, 'pgbouncer.ini');
  const users = join(folder, 'pgbouncer-users.txt');
  writeFileSync(users, '"ephoros" ""\n');
  writeFileSync(
    file,
    `[databases]
* = host=127.0.0.1 port=${primary}
[pgbouncer]
listen_addr = 127.0.0.1
listen_port = ${ports.pooler}
unix_socket_dir =
auth_type = trust
auth_file = ${users}
pool_mode = transaction
default_pool_size = 20
max_client_conn = 500
`,
  );
  // It refuses to run as root.
  const user = process.getuid?.() === 0 ? ['-u', 'postgres'] : [];
  const pooler = spawn('/usr/sbin/pgbouncer', [...user, file], { stdio: 'ignore' });
  await sleep(500);
  if (pooler.exitCode !== null) throw new Error('PgBouncer does not start');
  return pooler;
}

async function fill(url: string): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    await client.query(`
      create table public.berths (id int primary key, name text not null, fee numeric);
      insert into public.berths select i, 'Berth ' || i, i % 100 from generate_series(1, 20000) i;
      create table public.entries (id bigint generated by default as identity primary key, token text not null);
      analyze`);
  } finally {
    await client.end();
  }
}

function configuration(issuer: string): string {
  return `
signIn:
  - { kind: tokens }
  - { kind: jwt, issuer: "${issuer}", audience: ephoros, keys: "${issuer}/keys", algorithms: [ES256], give: [clerk] }
tables:
  entries: { changes: { add: true } }
roles:
  clerk: { tables: { berths: true, entries: { changes: { add: true } } } }
`;
}

function instance(port: number, options: readonly string[]): Instance {
  const url = `http://127.0.0.1:${port}`;
  const made: Instance = {
    url,
    child: undefined,
    start: async (environment = {}) => {
      const child = spawn(
        process.execPath,
        [program, 'serve', '--port', String(port), ...options],
        {
          env: { ...process.env, ...environment },
          stdio: ['ignore', 'ignore', 'inherit'],
          // In a group of its own: killed as a machine is, with all its workers.
          detached: true,
        },
      );
      made.child = child;
      await untilReady(url);
    },
  };
  return made;
}

/** Ends a service with all its workers at once, as when its machine is switched off. */
export async function switchOff({ child }: Instance): Promise<void> {
  if (child?.pid === undefined || child.exitCode !== null) return;
  const ended = new Promise((resolve) => child.once('exit', resolve));
  process.kill(-child.pid, 'SIGKILL');
  await ended;
}

export async function untilReady(url: string): Promise<void> {
  for (let tries = 0; tries < 400; tries += 1) {
    try {
      if ((await fetch(`${url}/ready`)).status === 200) return;
    } catch {
      // Not yet.
    }
    await sleep(50);
  }
  throw new Error(`${url} is not ready`);
}

async function startNginx(folder: string, instances: readonly Instance[]): Promise<ChildProcess> {
  const servers = instances
    .map(({ url }) => `    server ${new URL(url).host} max_fails=1 fail_timeout=2s;`)
    .join('\n');
  const file = join(folder, 'nginx.conf');
  writeFileSync(
    file,
    `daemon off;
pid ${folder}/nginx.pid;
error_log ${folder}/nginx.log;
worker_processes 1;
events { worker_connections 512; }
http {
  access_log off;
  client_body_temp_path ${folder}/body;
  proxy_temp_path ${folder}/proxy;
  fastcgi_temp_path ${folder}/fastcgi;
  uwsgi_temp_path ${folder}/uwsgi;
  scgi_temp_path ${folder}/scgi;
  upstream services {
${servers}
    keepalive 16;
  }
  server {
    listen 127.0.0.1:${ports.nginx};
    location / {
      proxy_pass http://services;
      proxy_http_version 1.1;
      proxy_set_header Connection "";
      proxy_set_header Host $http_host;
      proxy_connect_timeout 1s;
      # What only reads is asked of the other service where one does not answer.
      proxy_next_upstream error timeout http_502 http_503 http_504;
      proxy_next_upstream_tries 2;
    }
  }
}
`,
  );
  const nginx = spawn('/usr/sbin/nginx', ['-c', file, '-p', folder], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  await untilReady(`http://127.0.0.1:${ports.nginx}`);
  return nginx;
}

async function startSigner(): Promise<Signer> {
  const { privateKey, publicKey } = await generateKeyPair('ES256');
  const key = { ...(await exportJWK(publicKey)), kid: 'one', alg: 'ES256', use: 'sig' };
  let server: Server | undefined;
  const listen = (port: number): Promise<number> =>
    new Promise((resolve) => {
      server = createServer((_request, response) => {
        response.setHeader('Content-Type', 'application/json');
        response.end(JSON.stringify({ keys: [key] }));
      });
      server.listen(port, '127.0.0.1', () => resolve((server?.address() as AddressInfo).port));
    });
  const port = await listen(0);
  const issuer = `http://127.0.0.1:${port}`;
  return {
    issuer,
    sign: (seconds) =>
      new SignJWT({ sub: 'signed' })
        .setProtectedHeader({ alg: 'ES256', kid: 'one' })
        .setIssuer(issuer)
        .setAudience('ephoros')
        .setIssuedAt()
        .setExpirationTime(Math.floor(Date.now() / 1000) + seconds)
        .sign(privateKey),
    leave: () =>
      new Promise((resolve) => {
        server?.closeAllConnections();
        if (server?.listening === true) server.close(() => resolve());
        else resolve();
      }),
    comeBack: async () => {
      await listen(port);
    },
  };
}
