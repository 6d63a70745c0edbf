import { join } from 'node:path';
import { livePublicationOf } from '@ephoros/core/sql';
import { startCluster } from '../../../../demo/src/index.ts';
import { perform } from '../../../../demo/src/testing/databases.ts';
import { Listener } from '../testing/listener.ts';
import { startService } from '../testing/service.ts';

jest.setTimeout(120_000);

const tooLong = (): Promise<string> =>
  new Promise((resolve) => setTimeout(() => resolve('it waits'), 20_000).unref());

it('does not keep the server from stopping, whose log it follows', async () => {
  const place = { folder: join(process.cwd(), '.ephoros', 'several', 'stopped'), port: 54_795 };
  const server = await startCluster(place);
  const url = server.url('postgres');
  await perform(url, [
    'drop table if exists public.berths',
    'create table public.berths (id int primary key, name text)',
    "insert into public.berths select i, 'n' from generate_series(1, 10) i",
    livePublicationOf({ schema: 'public', name: 'berths' }).add,
  ]);
  const service = await startService(url);
  const listener = await Listener.to(service, 'berths/live');
  try {
    expect(listener.reported[0]?.data).toEqual({ grade: 'log' });
    await perform(url, ["update public.berths set name = 'm' where id = 3"]);
    await listener.hears('changed');
    // A server that stops waits until all of its log is acknowledged, for as long as that takes.
    const stopping = server.stop().then(() => 'stopped');
    expect(await Promise.race([stopping, tooLong()])).toBe('stopped');
  } finally {
    await service.close();
    await server.stop();
  }
});
