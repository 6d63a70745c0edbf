import { connect, type Socket } from 'node:net';
import type pg from 'pg';

/** Ms after which a cancel request that nobody takes is given up. */
const waitLimit = 2_000;
/** PostgreSQL manual, 55.7: CancelRequest. */
const cancelCode = 80_877_102;

/**
 * Asks the server to cancel what a connection is running, over a connection of the protocol's own
 * kind: it needs no password and counts against no limit. Resolves when the server has taken it, or
 * when that cannot be hoped for any more; never rejects.
 */
export function cancelStatement(client: pg.ClientBase): Promise<void> {
  const { host, port, processID, secretKey } = client as unknown as {
    readonly host?: string;
    readonly port: number;
    readonly processID: number | null;
    readonly secretKey: number | Buffer | null;
  };
  if (processID === null || secretKey === null) return Promise.resolve();
  return new Promise((resolve) => {
    const socket: Socket = host?.startsWith('/')
      ? connect(`${host}/.s.PGSQL.${port}`)
      : connect(port, host ?? 'localhost');
    socket.setTimeout(waitLimit, () => socket.destroy());
    socket.on('error', () => socket.destroy());
    // The server closes the connection once the request is carried out.
    socket.on('close', () => resolve());
    socket.on('connect', () => socket.write(cancelRequest(processID, secretKey)));
    socket.resume();
  });
}

function cancelRequest(processID: number, secretKey: number | Buffer): Buffer {
  const head = Buffer.alloc(12);
  const key = Buffer.isBuffer(secretKey) ? secretKey : Buffer.alloc(4);
  if (!Buffer.isBuffer(secretKey)) key.writeInt32BE(secretKey);
  head.writeInt32BE(head.length + key.length, 0);
  head.writeInt32BE(cancelCode, 4);
  head.writeInt32BE(processID, 8);
  return Buffer.concat([head, key]);
}
