import { randomBytes } from 'node:crypto';
import { beginFollowing, followLog } from '@ephoros/core/sql';
import type { Client } from 'pg';
import { LogicalReplicationService, PgoutputPlugin, type Pgoutput } from 'pg-logical-replication';
import { connectionOf } from '../run/index.ts';
import type { Opening } from './held-open.ts';
import { ownConnection } from './listening.ts';

/** The texts of a row's columns; those that the log does not hold are absent. */
export type LoggedRow = Readonly<Record<string, string | null | undefined>>;

/** What the log says of one row, or of a table that was emptied. */
export interface Logged {
  /** Schema and name, with a dot between them. */
  readonly table: string;
  readonly did: 'add' | 'change' | 'remove' | 'empty';
  /** The row as it is; undefined where it is gone. */
  readonly now?: LoggedRow;
  /** What is known of it as it was: all of it, its key alone, or nothing. */
  readonly before?: LoggedRow;
  /** All of it as it was, as JSON; undefined where not all is known. */
  readonly whole?: string;
}

const nothing: Pgoutput.Message = { tag: 'origin', originLsn: null, originName: '' };

/** Reads the log over a slot that goes with the session, with values as they are written. */
class Reading extends PgoutputPlugin {
  private readonly failed: (thrown: unknown) => void;

  constructor(failed: (thrown: unknown) => void) {
    super({ protoVersion: 1, publicationNames: [] });
    this.failed = failed;
  }

  override async start(client: Client, slot: string): Promise<unknown> {
    for (const command of beginFollowing(slot)) await client.query(command);
    return client.query(followLog(slot));
  }

  override parse(buffer: Buffer): Pgoutput.Message {
    try {
      const message = super.parse(buffer);
      if (message.tag === 'relation') {
        for (const column of message.columns) column.parser = (text: string) => text;
      }
      return message;
    } catch (thrown) {
      // Nobody waits for what comes through a socket: thrown on it would end the process.
      this.failed(thrown);
      return nothing;
    }
  }
}

/** A connection that follows the server's log (logical replication, PostgreSQL manual, 55.5). */
export function following(url: string, heard: (logged: Logged) => void): Opening {
  return (lost, signal) => {
    const service = new LogicalReplicationService(
      { ...connectionOf(url), ...ownConnection },
      // What is stated by itself is one byte too far: a server that stops would wait for its own end.
      { acknowledge: { auto: false, timeoutSeconds: 0 } },
    );
    const close = async (): Promise<void> => {
      await service.destroy();
    };
    service.on('data', (_position: string, message: Pgoutput.Message) => {
      for (const logged of loggedBy(message)) heard(logged);
    });
    service.on('heartbeat', (position: string) => void service.acknowledge(lastByte(position)));
    return new Promise((resolve, reject) => {
      const failed = (thrown: unknown): void => {
        lost();
        reject(thrown instanceof Error ? thrown : new Error(String(thrown)));
        close().catch(() => undefined);
      };
      service.on('error', failed);
      // A slot is there once all has ended that was written to the server just then: that may take long.
      const abort = (): void => failed(signal.reason);
      signal.addEventListener('abort', abort, { once: true });
      const ping = (): Promise<unknown> => {
        const answered = new Promise((heard) => service.once('heartbeat', heard));
        void service.acknowledge(lastByte(service.lastLsn()), true);
        return answered;
      };
      service.on('start', () => {
        signal.removeEventListener('abort', abort);
        resolve({ close, ping });
      });
      const slot = `ephoros_live_${randomBytes(8).toString('hex')}`;
      // It goes on until the connection ends.
      service
        .subscribe(new Reading(failed), slot)
        .then(() => failed(new Error('The server ended it.')), failed);
    });
  };
}

/**
 * The byte before a position of the log: what is acknowledged is the last byte that was read, and a server that stops
 * waits until that is the last one that it has sent.
 */
function lastByte(position: string): string {
  const [high = '0', low = '0'] = position.split('/');
  const byte = (BigInt(`0x${high}`) << 32n) + BigInt(`0x${low}`);
  const last = byte === 0n ? 0n : byte - 1n;
  return `${(last >> 32n).toString(16)}/${(last & 0xffff_ffffn).toString(16)}`.toUpperCase();
}

function loggedBy(message: Pgoutput.Message): Logged[] {
  switch (message.tag) {
    case 'insert':
      return [{ table: placeOf(message.relation), did: 'add', now: message.new }];
    case 'update':
      return [{ ...past(message), did: 'change', now: message.new }];
    case 'delete':
      return [{ ...past(message), did: 'remove' }];
    case 'truncate':
      return message.relations.map((relation): Logged => ({
        table: placeOf(relation),
        did: 'empty',
      }));
    default:
      return [];
  }
}

function past({
  relation,
  key,
  old,
}: Pgoutput.MessageUpdate | Pgoutput.MessageDelete): Omit<Logged, 'did'> {
  const before = old ?? key;
  return {
    table: placeOf(relation),
    ...(before && { before }),
    ...(old && { whole: JSON.stringify(old) }),
  };
}

function placeOf({ schema, name }: Pgoutput.MessageRelation): string {
  return `${schema}.${name}`;
}
