import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { clusterOwner, prepareFolder, type Owner } from './owner.ts';
import { findPrograms } from './programs.ts';

export interface ClusterOptions {
  /** Where the cluster's files lie; made when missing. */
  readonly folder: string;
  /** The port to listen on; when it is taken, the next free one is used. */
  readonly port: number;
  /** The address of a server that this one follows (streaming replication), from a fresh copy of it on. */
  readonly follows?: string;
  /** Further server settings, such as `shared_buffers`. */
  readonly settings?: Readonly<Record<string, string>>;
  /** Called with each step, one line of text each. */
  readonly say?: (line: string) => void;
}

/** A running PostgreSQL of the project's own, on loopback only. */
export interface Cluster {
  readonly port: number;
  /** The folder in use; not the one requested when PostgreSQL's user cannot enter that. */
  readonly folder: string;
  /** A connection string for one of its databases. */
  url(database: string): string;
  /** Stops the server, if it was started here. */
  stop(): Promise<void>;
  /** Ends all of its processes at once, as when the machine is switched off; if it was started here. */
  kill(): Promise<void>;
}

/** PostgreSQL cannot be started; the message says what to do. */
export class ClusterError extends Error {
  override name = 'ClusterError';
}

const superuser = 'ephoros';
const loopback = '127.0.0.1';

/**
 * Starts PostgreSQL in a folder, as the `postgres` user when root. A cluster that runs already
 * is used (and not stopped); one that was left half made is made again.
 */
export async function startCluster(options: ClusterOptions): Promise<Cluster> {
  const { port: wanted, settings = {}, say = () => undefined } = options;
  const programs = findPrograms();
  if (programs === undefined) {
    throw new ClusterError('PostgreSQL is not installed. Run: sudo apt-get install -y postgresql');
  }
  const owner = clusterOwner();
  const folder = prepareFolder(options.folder, owner);
  if (folder !== options.folder) say(`The system user postgres keeps its files in ${folder}`);
  if (options.follows === undefined) initialise(programs, folder, owner, say);
  else copyOf(options.follows, programs, folder, owner);
  const running = runningPort(folder);
  if (running !== undefined && (await answers(running))) {
    say(`PostgreSQL runs already on port ${running}`);
    const nothing = (): Promise<void> => Promise.resolve();
    return { port: running, folder, url: urlOn(running), stop: nothing, kill: nothing };
  }
  const port = await freePort(wanted);
  if (port !== wanted) say(`Port ${wanted} is taken; PostgreSQL uses ${port}`);
  const server = launch(programs, folder, port, settings, owner);
  await untilReady(server, port);
  say(`PostgreSQL listens on ${loopback}:${port}`);
  return {
    ...{ port, folder, url: urlOn(port) },
    stop: () => stop(server),
    kill: () => kill(server),
  };
}

function urlOn(port: number): (database: string) => string {
  return (database) => `postgres://${superuser}@${loopback}:${port}/${database}`;
}

/** initdb writes PG_VERSION early; the marker of a whole cluster is its last file, below. */
function initialise(
  programs: string,
  folder: string,
  owner: Owner | undefined,
  say: (line: string) => void,
): void {
  const data = join(folder, 'data');
  if (existsSync(join(folder, 'whole'))) return;
  if (existsSync(data)) {
    say('A half-made PostgreSQL cluster is removed');
    rmSync(data, { recursive: true, force: true });
  }
  say('Making a PostgreSQL cluster');
  const locale = [
    '--encoding=UTF8',
    '--locale=C.UTF-8',
    '--locale-provider=icu',
    '--icu-locale=und',
  ];
  const args = ['-D', data, '-U', superuser, '--auth=trust', '--no-sync', ...locale];
  const made = spawnSync(join(programs, 'initdb'), args, {
    ...owner,
    cwd: folder,
    encoding: 'utf8',
  });
  if (made.status !== 0) {
    throw new ClusterError(`initdb failed:\n${made.stderr}`);
  }
  spawnSync('touch', [join(folder, 'whole')], { ...owner, cwd: folder });
}

/** A fresh copy of a running server, which follows it once it is started. @throws ClusterError */
function copyOf(leader: string, programs: string, folder: string, owner: Owner | undefined): void {
  const data = join(folder, 'data');
  if (runningPort(folder) !== undefined) return;
  rmSync(data, { recursive: true, force: true });
  const args = ['-D', data, '-d', leader, '-R', '-X', 'stream', '-c', 'fast', '--no-sync'];
  const copied = spawnSync(join(programs, 'pg_basebackup'), args, {
    ...owner,
    cwd: folder,
    encoding: 'utf8',
  });
  if (copied.status !== 0) throw new ClusterError(`pg_basebackup failed:\n${copied.stderr}`);
}

/** The port that the folder's postmaster wrote down, if its process is alive. */
function runningPort(folder: string): number | undefined {
  const file = join(folder, 'data', 'postmaster.pid');
  if (!existsSync(file)) return undefined;
  const lines = readFileSync(file, 'utf8').split('\n');
  return existsSync(`/proc/${lines[0] ?? ''}`) ? Number(lines[3]) : undefined;
}

async function answers(port: number): Promise<boolean> {
  const client = new pg.Client({ connectionString: urlOn(port)('postgres') });
  try {
    await client.connect();
    await client.end();
    return true;
  } catch {
    return false;
  }
}

async function freePort(wanted: number): Promise<number> {
  for (let port = wanted; port < wanted + 50; port += 1) {
    if (await isFree(port)) return port;
  }
  throw new ClusterError(`No port from ${wanted} to ${wanted + 49} is free for PostgreSQL`);
}

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, loopback, () => probe.close(() => resolve(true)));
  });
}

interface Server {
  readonly process: ChildProcess;
  readonly log: string[];
}

function launch(
  programs: string,
  folder: string,
  port: number,
  settings: Readonly<Record<string, string>>,
  owner: Owner | undefined,
): Server {
  const all: Record<string, string> = {
    listen_addresses: loopback,
    port: String(port),
    unix_socket_directories: folder,
    // Demo and test data can be made again; what is lost in a crash of the machine is not missed.
    fsync: 'off',
    synchronous_commit: 'off',
    full_page_writes: 'off',
    shared_buffers: '256MB',
    max_wal_size: '4GB',
    // So that what is written can be followed in the log.
    wal_level: 'logical',
    ...settings,
  };
  const args = Object.entries(all).flatMap(([name, value]) => ['-c', `${name}=${value}`]);
  const log: string[] = [];
  // In a group of its own, so that Ctrl-C reaches it through `stop` and not before its clients.
  const child = spawn(join(programs, 'postgres'), ['-D', join(folder, 'data'), ...args], {
    ...owner,
    cwd: folder,
    detached: true,
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  child.stderr.setEncoding('utf8').on('data', (text: string) => {
    log.push(text);
    if (log.length > 100) log.shift();
  });
  return { process: child, log };
}

async function untilReady({ process: child, log }: Server, port: number): Promise<void> {
  for (let tries = 0; tries < 300; tries += 1) {
    if (child.exitCode !== null) {
      throw new ClusterError(`PostgreSQL did not start:\n${log.join('')}`);
    }
    if (await answers(port)) return;
    await sleep(100);
  }
  child.kill('SIGINT');
  throw new ClusterError(`PostgreSQL did not answer within 30 s:\n${log.join('')}`);
}

/** SIGINT is PostgreSQL's fast shut-down: clients are disconnected, data is whole. */
async function stop({ process: child }: Server): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGINT');
  await ended;
}

/** All of its processes are of one group. */
async function kill({ process: child }: Server): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null || child.pid === undefined) return;
  const ended = new Promise((resolve) => child.once('exit', resolve));
  process.kill(-child.pid, 'SIGKILL');
  await ended;
}
