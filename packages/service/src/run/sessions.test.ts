import { createServer, type AddressInfo, type Server, type Socket } from 'node:net';
import type pg from 'pg';
import { testDatabases } from '../../../../demo/src/testing/databases.ts';
import { cancelStatement } from './cancel.ts';
import { Sessions, within } from './sessions.ts';

const bounds = { connections: 1, timeLimit: 1_000, waitLimit: 1_000 };

/** Somebody who takes connections and does with them as told. */
async function listening(
  take: (socket: Socket) => void,
): Promise<{ port: number; server: Server }> {
  const server = createServer((socket) => {
    socket.on('error', () => undefined);
    take(socket);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { port: (server.address() as AddressInfo).port, server };
}

/** A connection as far as a cancel request looks at it. */
const running = (port: number, secretKey: number | Buffer | null = 7): pg.ClientBase =>
  ({ host: '127.0.0.1', port, processID: 42, secretKey }) as unknown as pg.ClientBase;

describe('a cancel request', () => {
  it('is the one of the protocol, with keys of whatever length', async () => {
    const heard: Buffer[] = [];
    const { port, server } = await listening((socket) => {
      socket.on('data', (data) => {
        heard.push(data);
        socket.end();
      });
    });
    try {
      await cancelStatement(running(port));
      await cancelStatement(running(port, Buffer.from('a longer key')));
    } finally {
      server.close();
    }
    const [short, long] = heard.map((bytes) => ({
      length: bytes.readInt32BE(0),
      bytes: bytes.length,
      code: bytes.readInt32BE(4),
      process: bytes.readInt32BE(8),
      key: bytes.subarray(12).toString('latin1'),
    }));
    const code = (1234 << 16) + 5678;
    expect(short).toEqual({ length: 16, bytes: 16, code, process: 42, key: '\0\0\0\x07' });
    expect(long).toEqual({ length: 24, bytes: 24, code, process: 42, key: 'a longer key' });
  });

  it('is given up where nobody takes it, and never fails', async () => {
    const { port, server } = await listening(() => undefined);
    await new Promise((resolve) => server.close(resolve));
    await cancelStatement(running(port));
    await cancelStatement(running(port, null));
  });

  it('is given up where it is torn down or not heard', async () => {
    const torn = await listening((socket) => socket.resetAndDestroy());
    const silent = await listening((socket) => socket.pause());
    try {
      await cancelStatement(running(torn.port));
      await cancelStatement(running(silent.port));
    } finally {
      torn.server.close();
      silent.server.close();
    }
  });
});

describe('a session', () => {
  it('that breaks while no statement waits for it harms nobody', async () => {
    const sessions = new Sessions({ url: testDatabases().lowmere }, bounds);
    try {
      const { client, release } = await sessions.open();
      expect(() => client.emit('error', new Error('terminated'))).not.toThrow();
      release(new Error('terminated'));
      const again = await sessions.open();
      expect((await again.client.query('select 1 as n')).rows).toEqual([{ n: 1 }]);
      again.release();
    } finally {
      await sessions.close();
    }
  });

  it('that nobody gives back is not waited for longer than said', async () => {
    const sessions = new Sessions({ url: testDatabases().lowmere }, bounds);
    const { release } = await sessions.open();
    try {
      await expect(sessions.open()).rejects.toMatchObject({ name: 'Failure', kind: 'full' });
    } finally {
      release();
      await sessions.close();
    }
  });

  it('that says nothing within its time is cut', async () => {
    const sessions = new Sessions({ url: testDatabases().lowmere }, bounds);
    try {
      const { client, release } = await sessions.open();
      const sleeping = client.query('select pg_sleep(0.9)');
      sleeping.catch(() => undefined);
      const late = within(20, client, sleeping);
      await expect(late).rejects.toMatchObject({ name: 'Failure', kind: 'away' });
      await expect(sleeping).rejects.toThrow();
      release(new Error('cut'));
    } finally {
      await sessions.close();
    }
  });
});
