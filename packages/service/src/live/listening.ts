import { listenToTriggers } from '@ephoros/core/sql';
import pg from 'pg';
import { connectionOf } from '../run/index.ts';
import { readNotice, type Notice } from './notice.ts';

export interface Heard {
  readonly notice: (notice: Notice) => void;
  /** What was said meanwhile is not known. */
  readonly gap: () => void;
}

/** Ms until a connection that broke is made anew. */
const pause = 1_000;

/** A connection that hears what triggers say, for as long as somebody wants that. */
export class Listening {
  private readonly url: string;
  private readonly heard: Heard;
  private client: pg.Client | undefined;
  private timer: NodeJS.Timeout | undefined;
  private wanted = false;
  private begun: Promise<void> | undefined;
  /** Whether it hears anything at the moment. */
  isOn = false;

  constructor(url: string, heard: Heard) {
    this.url = url;
    this.heard = heard;
  }

  /** Begins, where it has not; resolves when it hears, or cannot for now. */
  begin(): Promise<void> {
    this.wanted = true;
    this.begun ??= this.connect(false);
    return this.begun;
  }

  async end(): Promise<void> {
    this.wanted = false;
    this.begun = undefined;
    this.isOn = false;
    clearTimeout(this.timer);
    const { client } = this;
    this.client = undefined;
    await client?.end().catch(() => undefined);
  }

  private async connect(again: boolean): Promise<void> {
    const client = new pg.Client({
      ...connectionOf(this.url),
      application_name: 'ephoros live',
      connectionTimeoutMillis: 5_000,
      keepAlive: true,
    });
    const broken = (): void => {
      if (this.client !== client) return;
      this.client = undefined;
      this.isOn = false;
      client.end().catch(() => undefined);
      this.later();
    };
    client.on('error', broken);
    client.on('end', broken);
    client.on('notification', ({ payload = '' }) => {
      const notice = readNotice(payload);
      if (notice !== undefined) this.heard.notice(notice);
    });
    this.client = client;
    try {
      await client.connect();
      await client.query(listenToTriggers);
      if (this.client === client) this.isOn = true;
      // Between two connections something may have been said.
      if (again) this.heard.gap();
    } catch {
      broken();
    }
  }

  private later(): void {
    if (!this.wanted) return;
    this.timer = setTimeout(() => void this.connect(true), pause);
    this.timer.unref();
  }
}
