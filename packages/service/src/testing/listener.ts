import { until } from '../../../core/src/testing/until.ts';
import type { TestService } from './service.ts';

interface Told {
  readonly event: string;
  readonly data: any;
}

/** Somebody who watches. */
export class Listener {
  readonly reported: Told[] = [];
  status = 0;
  ended = false;
  private readonly controller = new AbortController();

  /** Watches, from the moment that the service says how much it reports. */
  static async to(
    service: TestService,
    path: string,
    headers: Record<string, string> = {},
  ): Promise<Listener> {
    const listener = new Listener();
    const response = await fetch(`${service.url}/api/tables/${path}`, {
      headers,
      signal: listener.controller.signal,
    });
    listener.status = response.status;
    void listener.read(response);
    if (response.status === 200)
      await until(() => Promise.resolve(listener.reported.length), Boolean);
    return listener;
  }

  /** Waits until something was reported. */
  async hears(event: string, holds: (data: any) => boolean = () => true): Promise<any> {
    const found = await until(
      () => Promise.resolve(this.reported.find((one) => one.event === event && holds(one.data))),
      (one) => one !== undefined,
    );
    return found?.data;
  }

  get changes(): any[] {
    return this.reported.filter(({ event }) => event === 'changed').map(({ data }) => data);
  }

  leave(): void {
    this.controller.abort();
  }

  private async read(response: Response): Promise<void> {
    let text = '';
    try {
      for await (const part of response.body ?? []) {
        text += Buffer.from(part as Uint8Array).toString();
        for (;;) {
          const end = text.indexOf('\n\n');
          if (end === -1) break;
          const [, event = '', data = ''] =
            /^event: (.*)\ndata: (.*)$/.exec(text.slice(0, end)) ?? [];
          text = text.slice(end + 2);
          if (event !== '') this.reported.push({ event, data: JSON.parse(data) });
        }
      }
    } catch {
      // It has left.
    }
    this.ended = true;
  }
}
