import { livePublicationOf } from '@ephoros/core/sql';
import { startPooler, type Pooler } from '../../../../demo/src/index.ts';
import { freshDatabase, perform, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { checkSetup, parseConfiguration, type CheckedSetup, type Finding } from '../index.ts';

it('warns where the server keeps its log for a follower that hangs', async () => {
  const { url, drop } = await freshDatabase('check_followers', [
    'create table berths (id int primary key)',
    livePublicationOf({ schema: 'public', name: 'berths' }).add,
  ]);
  const findings = async (timeout: string): Promise<readonly string[]> => {
    const address = new URL(url);
    address.searchParams.set('options', `-c wal_sender_timeout=${timeout}`);
    const found = await checkSetup({ database: address.href });
    return found.filter(({ about }) => about === 'live').map(({ text }) => text);
  };
  expect((await findings('60000')).join(' ')).not.toContain('wal_sender_timeout');
  expect((await findings('0')).join(' ')).toContain('wal_sender_timeout = 0');
  await drop();
});

describe('a setup that does not work as it is', () => {
  let fresh: Awaited<ReturnType<typeof freshDatabase>>;
  let other: Awaited<ReturnType<typeof freshDatabase>>;
  let pooler: Pooler;

  beforeAll(async () => {
    await perform(testDatabases().maintenance, [
      'drop role if exists ephoros_few',
      'create role ephoros_few login connection limit 4',
      'drop role if exists ephoros_bypassing',
      'create role ephoros_bypassing login bypassrls',
    ]);
    fresh = await freshDatabase('check_setup', [
      'create table berths (id int primary key)',
      'create materialized view tolls as select id from berths with no data',
      'grant select on all tables in schema public to ephoros_few, ephoros_bypassing',
    ]);
    other = await freshDatabase('check_setup_other', ['create table berths (id int primary key)']);
    pooler = await startPooler(fresh.url, { mode: 'transaction' });
  });

  afterAll(async () => {
    await pooler.stop();
    await fresh.drop();
    await other.drop();
    await perform(testDatabases().maintenance, [
      'drop role ephoros_few',
      'drop role ephoros_bypassing',
    ]);
  });

  const as = (role: string, options?: string): string => {
    const url = new URL(fresh.url);
    url.username = role;
    if (options !== undefined) url.searchParams.set('options', options);
    return url.href;
  };
  const unreachable = 'postgres://nobody@127.0.0.1:1/nothing';
  const owner = (options: string): string => as(new URL(fresh.url).username, options);
  const configuration = (text: string): ReturnType<typeof parseConfiguration> =>
    parseConfiguration(text, 'test.yaml');

  it.each<[string, () => Partial<CheckedSetup>, Partial<Finding>]>([
    [
      'changes that cannot be reached',
      () => ({ changes: unreachable }),
      { about: 'changes', state: 'wrong', text: expect.stringContaining('cannot be reached') },
    ],
    [
      'changes in another database',
      () => ({ changes: other.url }),
      { about: 'changes', state: 'wrong', text: expect.stringContaining('another database') },
    ],
    [
      'changes where transactions are read-only',
      () => ({ changes: owner('-c default_transaction_read_only=on') }),
      { about: 'changes', text: expect.stringContaining('read-only') },
    ],
    [
      'a role with fewer connections than the service opens',
      () => ({ database: as('ephoros_few') }),
      { about: 'database', state: 'wrong', text: expect.stringContaining('the role may have 4') },
    ],
    [
      'little temporary space',
      () => ({ database: owner('-c temp_file_limit=10240') }),
      { about: 'database', text: expect.stringContaining('10MB of temporary space') },
    ],
    [
      'a materialized view that was never populated',
      () => ({}),
      { about: 'tables', text: expect.stringContaining('public.tolls was never populated') },
    ],
    [
      'a role that bypasses row security',
      () => ({ database: as('ephoros_bypassing') }),
      { about: 'role', text: expect.stringContaining('BYPASSRLS') },
    ],
    [
      'a proxy that is trusted from everywhere',
      () => ({
        configuration: configuration(
          'signIn:\n  - { kind: proxy, header: X-User, from: [0.0.0.0/0] }\n',
        ),
      }),
      { state: 'wrong', text: expect.stringContaining('trusted from everywhere') },
    ],
    [
      'every origin with sign-in',
      () => ({
        configuration: configuration(
          'signIn:\n  - { kind: proxy, header: X-User, from: [10.0.0.1] }\norigins: ["*"]\n',
        ),
      }),
      { about: 'callers', text: expect.stringContaining('origins: *') },
    ],
    [
      'a replica that follows nobody',
      () => ({ replicas: [fresh.url] }),
      { state: 'wrong', text: expect.stringContaining('follows no other server') },
    ],
    [
      'a replica that cannot be reached',
      () => ({ replicas: [unreachable] }),
      { about: 'replica 127.0.0.1:1', state: 'wrong' },
    ],
    [
      'a pooler in between',
      () => ({ database: pooler.url(fresh.url) }),
      { about: 'database', text: expect.stringContaining('a pooler stands in between') },
    ],
    [
      'live updates through a pooler',
      () => ({ database: pooler.url(fresh.url) }),
      { about: 'live', text: expect.stringContaining('by polling') },
    ],
    [
      'a direct way that leads through the pooler too',
      () => ({ database: pooler.url(fresh.url), direct: pooler.url(fresh.url) }),
      { about: 'database', state: 'wrong', text: expect.stringContaining('through a pooler too') },
    ],
  ])('is named: %s', async (_name, broken, finding) => {
    const found = await checkSetup({ database: fresh.url, ...broken() });
    expect(found).toContainEqual(expect.objectContaining(finding));
  });

  it('and nothing of that is said of one that works', async () => {
    const found = await checkSetup({ database: fresh.url, changes: fresh.url, connections: 5 });
    const wrong = found.filter(({ state }) => state === 'wrong').map(({ text }) => text);
    expect(wrong).toEqual([]);
    const texts = found.map(({ text }) => text).join(' ');
    for (const word of ['pooler', 'BYPASSRLS', 'temporary space', 'another database', 'replica']) {
      expect(texts).not.toContain(word);
    }
  });
});
