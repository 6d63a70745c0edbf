import { listenToTriggers, ping } from '@ephoros/core/sql';
import pg from 'pg';
import { connectionOf, isBehindPooler } from '../run/index.ts';
import type { Opening } from './held-open.ts';
import { readNotice, type Notice } from './notice.ts';

/** What a connection of the hub's own is called, and how long it is waited for. */
export const ownConnection = {
  application_name: 'ephoros live',
  connectionTimeoutMillis: 5_000,
  keepAlive: true,
} as const;

/** A connection that hears what triggers say. */
export function listening(url: string, heard: (notice: Notice) => void): Opening {
  return async (lost) => {
    const client = new pg.Client({ ...connectionOf(url), ...ownConnection });
    client.on('error', lost);
    client.on('end', lost);
    client.on('notification', ({ payload = '' }) => {
      const notice = readNotice(payload);
      if (notice !== undefined) heard(notice);
    });
    const close = (): Promise<void> => client.end();
    try {
      await client.connect();
      // After each transaction a pooler gives the session, and what it hears, to somebody else.
      if (await isBehindPooler(client)) throw new Error('A pooler stands in between.');
      await client.query(listenToTriggers);
      return { close, ping: () => client.query(ping.text) };
    } catch (thrown) {
      close().catch(() => undefined);
      throw thrown;
    }
  };
}
