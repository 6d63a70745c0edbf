import { livePublicationOf } from '@ephoros/core/sql';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { checkSetup } from '../index.ts';

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
