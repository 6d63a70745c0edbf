import type { ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { startPooler, type Pooler } from '@ephoros/demo';
import { switchOff, untilReady, type Setting } from './setting.ts';
import { Load, type Seen } from './under-load.ts';

/** A failure, and what its callers got from its start until all was well again. */
export interface LoadResult {
  readonly fault: string;
  readonly request: Seen;
}

/** A failure of sign-in, and its effect in words. */
export interface CallerResult {
  readonly fault: string;
  readonly result: string;
}

/** Ms that a fault lasts. */
const lasts = 4_000;

interface Fault {
  readonly name: string;
  readonly begin: (setting: Setting) => Promise<void>;
  readonly end: (setting: Setting) => Promise<void>;
}

const nothing = (): Promise<void> => Promise.resolve();

async function killed(child: ChildProcess): Promise<void> {
  const ended = new Promise((resolve) => child.once('exit', resolve));
  const workers = childrenOf(child);
  child.kill('SIGKILL');
  for (const pid of workers) process.kill(pid, 'SIGKILL');
  await ended;
}

function childrenOf({ pid = 0 }: ChildProcess): readonly number[] {
  const text = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim();
  return text === '' ? [] : text.split(' ').map(Number);
}

/** One of the worker processes of a service. */
function killWorker({ instances }: Setting): Promise<void> {
  const child = instances[0]?.child;
  const [worker] = child === undefined ? [] : childrenOf(child);
  if (worker !== undefined) process.kill(worker, 'SIGKILL');
  return Promise.resolve();
}

/** PgBouncer, while it stands in between. */
let pooler: Pooler | undefined;

const faults: readonly Fault[] = [
  { name: 'none, for comparison', begin: nothing, end: nothing },
  { name: 'a worker is killed', begin: killWorker, end: nothing },
  ...[0, 1].map((number): Fault => ({
    name: `the ${number === 0 ? 'first' : 'second'} service is killed and restarted`,
    begin: async ({ instances }) => {
      const one = instances[number];
      if (one !== undefined) await switchOff(one);
    },
    end: async ({ instances }) => instances[number]?.start(),
  })),
  {
    name: 'all workers of a service are replaced (SIGUSR2)',
    begin: async ({ instances }) => {
      instances[0]?.child?.kill('SIGUSR2');
      await sleep(0);
    },
    end: nothing,
  },
  {
    name: 'a service is stopped (SIGTERM) and restarted',
    begin: async ({ instances }) => {
      const child = instances[1]?.child;
      const ended = new Promise((resolve) => child?.once('exit', resolve));
      child?.kill('SIGTERM');
      await ended;
    },
    end: async ({ instances }) => instances[1]?.start(),
  },
  ...[0, 1].map((number): Fault => ({
    name: `the ${number === 0 ? 'first' : 'second'} replica is stopped and restarted`,
    begin: async ({ followers }) => followers[number]?.kill(),
    end: async (setting) => {
      setting.followers[number] = await setting.startFollower(number);
    },
  })),
  {
    name: 'nginx is killed and restarted',
    begin: ({ nginx }) => killed(nginx),
    end: async (setting) => {
      setting.nginx = await setting.startNginx();
    },
  },
  {
    name: 'the primary is stopped and restarted',
    begin: ({ leader }) => leader.kill(),
    end: async (setting) => {
      setting.leader = await setting.startLeader();
    },
  },
  {
    name: 'all three servers are stopped and restarted',
    begin: async ({ leader, followers }) => {
      await Promise.all([leader, ...followers].map((one) => one.kill()));
    },
    end: async (setting) => {
      setting.leader = await setting.startLeader();
      for (const number of setting.followers.keys()) {
        setting.followers[number] = await setting.startFollower(number);
      }
    },
  },
  {
    name: 'all connections to the primary are lost without a word',
    begin: ({ way }) => {
      way.loseAll();
      return Promise.resolve();
    },
    end: nothing,
  },
  {
    name: 'the network to the primary is frozen for four seconds',
    begin: ({ way }) => {
      way.isFrozen = true;
      return Promise.resolve();
    },
    end: ({ way }) => {
      way.isFrozen = false;
      // What was swallowed is not sent again.
      way.loseAll();
      return Promise.resolve();
    },
  },
  {
    name: 'a pooler in transaction mode comes in between, and is killed and restarted',
    begin: async ({ leader, way }) => {
      const direct = leader.url('postgres');
      const first = await startPooler(direct, { mode: 'transaction' });
      way.target = first.port;
      way.endAll();
      await sleep(lasts / 2);
      await first.stop();
      pooler = await startPooler(direct, { mode: 'transaction' });
      way.target = pooler.port;
    },
    end: async ({ leader, way }) => {
      way.target = leader.port;
      way.endAll();
      await pooler?.stop();
    },
  },
];

/** Brings about every fault under load, one after the other. Gives too how much of what was saved is wrong. */
export async function underLoad(
  setting: Setting,
  say: (line: string) => void,
): Promise<{
  readonly problems: readonly LoadResult[];
  readonly saved: number;
  readonly wrong: number;
}> {
  const { text } = await setting.tokens.add({ name: 'load', roles: ['clerk'] });
  const load = new Load(setting.url, text);
  const reported: LoadResult[] = [];
  await sleep(3_000);
  try {
    for (const { name, begin, end } of faults) {
      say(name);
      const began = Date.now();
      await begin(setting);
      await sleep(lasts);
      await end(setting);
      await Promise.all(setting.instances.map(({ url }) => untilReady(url)));
      await sleep(3_000);
      reported.push({ fault: name, request: load.since(began) });
    }
  } finally {
    await load.stop();
  }
  const { writes } = load.since(0);
  return {
    problems: reported,
    saved: writes,
    wrong: await load.wrong(setting.leader.url('postgres')),
  };
}

async function statusOf(url: string, token: string): Promise<number> {
  const response = await fetch(`${url}/api/caller`, {
    headers: { Authorization: `Bearer ${token}` },
  });
  await response.arrayBuffer();
  return response.status;
}

/** Tries what has to do with who asks. */
export async function ofCallers(
  setting: Setting,
  say: (line: string) => void,
): Promise<CallerResult[]> {
  const tried: CallerResult[] = [];
  const note = (fault: string, result: string): void => {
    say(fault);
    tried.push({ fault, result });
  };
  note('a token is revoked while it is in use', await revoked(setting));
  note('1,000 sign-ins with invalid tokens from one address', await attempts(setting));
  note('the signer of tokens (JWKS) is unavailable', await signerUnavailable(setting));
  note('the clock of a service is an hour ahead, then an hour behind', await clocks(setting));
  return tried;
}

async function revoked({ tokens, instances }: Setting): Promise<string> {
  const { token, text } = await tokens.add({ name: 'brief', roles: ['clerk'] });
  const urls = instances.map(({ url }) => url);
  for (const url of urls) await statusOf(url, text);
  await tokens.revoke(token.id);
  const began = Date.now();
  const ends = await Promise.all(
    urls.map(async (url) => {
      while ((await statusOf(url, text)) === 200) await sleep(20);
      return Date.now() - began;
    }),
  );
  return `refused by both services within ${(Math.max(...ends) / 1000).toFixed(1)} s`;
}

async function attempts({ tokens, instances }: Setting): Promise<string> {
  const [{ url } = { url: '' }] = instances;
  const { text } = await tokens.add({ name: 'steady', roles: ['clerk'] });
  await statusOf(url, text);
  const statuses = new Map<number, number>();
  const took: number[] = [];
  for (let batch = 0; batch < 100; batch += 1) {
    const guesses = Array.from({ length: 10 }, (_none, index) => {
      const number = String(batch * 10 + index).padStart(43, 'A');
      return statusOf(url, `ephoros_AAAAAAAAAAAA_${number}`);
    });
    const began = performance.now();
    const good = await statusOf(url, text);
    took.push(performance.now() - began);
    if (good !== 200) throw new Error(`a token that counts was answered by ${good}`);
    for (const status of await Promise.all(guesses)) {
      statuses.set(status, (statuses.get(status) ?? 0) + 1);
    }
  }
  took.sort((one, other) => one - other);
  const slow = took[Math.floor(took.length * 0.95)] ?? 0;
  return `${statuses.get(401) ?? 0} refused (401), ${statuses.get(429) ?? 0} rate limited (429), none of them read from the records; during this a valid token was accepted 100 times of 100 from the same address, 95 of them within ${slow.toFixed(0)} ms`;
}

async function signerUnavailable({ signer, instances }: Setting): Promise<string> {
  const [{ url } = { url: '' }, other] = instances;
  const token = await signer.sign(600);
  const before = await statusOf(url, token);
  await signer.leave();
  const during = await statusOf(url, await signer.sign(600));
  // A service that has never read the keys.
  if (other !== undefined) {
    await switchOff(other);
    await other.start();
  }
  const fresh = await statusOf(other?.url ?? url, token);
  await signer.comeBack();
  let back = 0;
  const began = Date.now();
  while (back !== 200 && Date.now() - began < 60_000) {
    back = await statusOf(other?.url ?? url, token);
    await sleep(100);
  }
  const seconds = ((Date.now() - began) / 1000).toFixed(1);
  return `before ${before}; a service with cached keys still answers ${during}; a service started during this answers ${fresh}, and accepts callers again ${seconds} s after the signer is back`;
}

async function clocks({ signer, tokens, instances }: Setting): Promise<string> {
  const [one] = instances;
  if (one === undefined) return '';
  const { text } = await tokens.add({ name: 'clock', roles: ['clerk'] });
  const results: string[] = [];
  for (const [name, offset] of [
    ['ahead', '+3600'],
    ['behind', '-3600'],
  ] as const) {
    await switchOff(one);
    await one.start({
      LD_PRELOAD: '/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1',
      FAKETIME: offset,
      FAKETIME_DONT_FAKE_MONOTONIC: '1',
    });
    const own = await statusOf(one.url, text);
    const short = await statusOf(one.url, await signer.sign(300));
    const rows = await fetch(`${one.url}/api/tables/berths/rows?limit=1&total=exact`, {
      headers: { Authorization: `Bearer ${text}` },
    });
    results.push(
      `${name}: own tokens ${own}, a signed token of five minutes ${short}, rows ${rows.status}`,
    );
  }
  await switchOff(one);
  await one.start();
  return results.join('; ');
}
