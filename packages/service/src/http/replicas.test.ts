import { join } from 'node:path';
import pg from 'pg';
import { startCluster, type Cluster } from '../../../../demo/src/index.ts';
import { perform } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { sendTo } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

jest.setTimeout(120_000);

const folder = (name: string): string => join(process.cwd(), '.ephoros', 'several', name);
const configuration = 'tables: { berths: { changes: { change: true } } }';

let leader: Cluster;
let followers: Cluster[] = [];
/** Two services over the same servers, as behind a balancer. */
let services: TestService[] = [];

const startLeader = (): Promise<Cluster> =>
  startCluster({ folder: folder('leader'), port: 54_780, settings: { fsync: 'off' } });
const follow = (number: number): Promise<Cluster> =>
  startCluster({
    folder: folder(`follower-${number}`),
    port: 54_790 + number,
    follows: leader.url('postgres'),
  });

/** A statement of the superuser's on one server. */
async function on(cluster: Cluster, statement: string): Promise<any[]> {
  const client = new pg.Client({ connectionString: cluster.url('postgres') });
  await client.connect();
  try {
    return (await client.query<Record<string, unknown>>(statement)).rows;
  } finally {
    await client.end();
  }
}

beforeAll(async () => {
  leader = await startLeader();
  await perform(leader.url('postgres'), [
    'drop table if exists public.berths',
    'create table public.berths (id int primary key, name text not null)',
    "insert into public.berths select i, 'Berth ' || i from generate_series(1, 1000) i",
    // Which server it is that answers.
    "create or replace view public.here as select 1 as id, current_setting('port') as port",
  ]);
  followers = [await follow(1), await follow(2)];
  services = await Promise.all([start(), start()]);
  await both((service) => untilParts(service, [true, true]));
});

afterAll(async () => {
  for (const service of services) await service.close();
  for (const follower of followers) await follower.stop();
  await leader.stop();
});

function start(): Promise<TestService> {
  const url = leader.url('postgres');
  return startService(url, configuration, {
    records: url,
    changes: url,
    replicas: followers.map((follower) => follower.url('postgres')),
    replicaLag: 2_000,
  });
}

async function both(work: (service: TestService) => Promise<void>): Promise<void> {
  await Promise.all(services.map(work));
}

const isTrue = (holds: boolean): boolean => holds;

/** Waits until a service knows which of the followers can be reached. */
async function untilParts(service: TestService, reachable: readonly boolean[]): Promise<void> {
  await until(async () => {
    const { body } = await service.get('/ready');
    const states = body.parts.replicas.map((one: { reachable: boolean }) => one.reachable);
    return JSON.stringify(states) === JSON.stringify(reachable);
  }, isTrue);
}

const portOf = async (service: TestService, headers = {}): Promise<number> => {
  const { status, body } = await service.get('/api/tables/here/rows?total=none', headers);
  if (status !== 200) throw new Error(`${status} ${JSON.stringify(body)}`);
  return Number(body.rows[0].port);
};

/** A name of no row so far. */
let names = 0;
const newName = (): string => `Name ${(names += 1)}`;

const rename = (service: TestService, name: string): ReturnType<typeof sendTo> =>
  sendTo('POST', `${service.url}/api/tables/berths/changes`, {
    changes: [{ kind: 'change', key: ['7'], was: {}, values: { name } }],
  });
const nameOf = async (service: TestService, headers: Record<string, string>): Promise<string> =>
  (await service.get('/api/tables/berths/rows/7', headers)).body.row.name as string;

describe('a service over a server that is written to and others that follow it', () => {
  it('reads from those that follow', async () => {
    // Once they have what was written at the start.
    await until(async () => {
      for (let tries = 0; tries < 10; tries += 1) {
        if ((await portOf(services[0]!)) === leader.port) return false;
      }
      return true;
    }, isTrue);
  });

  it('shows a caller what was written, at whichever service it asks, however far others are behind', async () => {
    const [one, other] = services as [TestService, TestService];
    for (let round = 0; round < 20; round += 1) {
      const name = newName();
      const saved = await rename(one, name);
      expect(saved.status).toBe(200);
      const written = saved.headers.get('ephoros-written') ?? '';
      expect(written).toMatch(/^[\dA-F]+\/[\dA-F]+$/);
      expect(saved.headers.get('set-cookie')).toContain(`ephoros-written=${written}`);
      expect(await nameOf(other, { 'Ephoros-Written': written })).toBe(name);
      expect(await nameOf(one, { Cookie: `ephoros-written=${written}` })).toBe(name);
    }
    // Followers that stand still: the leader itself answers anyone who has written.
    for (const follower of followers) await on(follower, 'select pg_wal_replay_pause()');
    const name = newName();
    const written = (await rename(one, name)).headers.get('ephoros-written') ?? '';
    const after = { 'Ephoros-Written': written };
    expect(await nameOf(other, after)).toBe(name);
    expect(await portOf(other, after)).toBe(leader.port);
    // Somebody else may still be shown what was, for as long as a follower may be behind.
    await until(async () => (await portOf(other)) === leader.port, isTrue);
    for (const follower of followers) await on(follower, 'select pg_wal_replay_resume()');
    await until(async () => (await portOf(other)) !== leader.port, isTrue);
    // What is no position is none.
    expect(await nameOf(other, { 'Ephoros-Written': 'nonsense' })).toBe(name);
  });

  it('goes on without a follower, and takes it back', async () => {
    const [gone, left] = followers as [Cluster, Cluster];
    let options = true;
    const wrong: string[] = [];
    const request = async (service: TestService): Promise<void> => {
      while (options) {
        const { status, body } = await service.get('/api/tables/berths/rows?limit=5');
        if (status !== 200) wrong.push(`${status} ${JSON.stringify(body)}`);
      }
    };
    const pending = services.map(request);
    await gone.kill();
    await both((service) => untilParts(service, [false, true]));
    // The leader answers in between, where the one that is left was slow for a moment.
    await until(async () => (await portOf(services[0]!)) === left.port, isTrue);
    followers[0] = await follow(1);
    await both((service) => untilParts(service, [true, true]));
    options = false;
    await Promise.all(pending);
    expect(wrong).toEqual([]);
  });

  it('goes on reading without the leader, and says of writing that it cannot', async () => {
    const [one] = services as [TestService];
    await leader.kill();
    await until(async () => (await one.get('/ready')).body.parts.changes === 'unavailable', isTrue);
    const read = await one.get('/api/tables/berths/rows?limit=5&sort=-id&total=exact');
    expect(read.status).toBe(200);
    expect(read.body.rows[0].id).toBe(1000);
    const { parts, status } = (await one.get('/ready')).body;
    expect([status, parts.database, parts.changes]).toEqual(['ready', 'there', 'unavailable']);
    const refused = await rename(one, newName());
    expect(refused.status).toBe(503);
    expect(refused.body.type).toBe('urn:ephoros:problem:database-unavailable');
    leader = await startLeader();
    const name = newName();
    await until(async () => (await rename(one, name)).status === 200, isTrue);
    await until(async () => (await nameOf(services[1]!, {})) === name, isTrue);
  });
});
