import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { sendRequest } from './request.ts';
import type { Terminal } from './terminal.ts';

let server: Server;
let url: string;
/** What the service answers, one after the other; the last one again and again. */
let answers: ((response: ServerResponse) => void)[];

beforeAll(async () => {
  server = createServer((_request, response) => {
    const [next] = answers;
    if (answers.length > 1) answers.shift();
    next?.(response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});

afterAll(() => {
  server.closeAllConnections();
  server.close();
});

const notReady =
  (share: number) =>
  (response: ServerResponse): void => {
    response.writeHead(202, { 'Content-Type': 'application/json', 'Retry-After': '1' });
    const progress = { share, elapsed: 100 };
    response.end(JSON.stringify({ status: 'running', progress }));
  };

const found =
  (ids: readonly number[], scanned?: number) =>
  (response: ServerResponse): void => {
    const window = { limit: 3, count: ids.length, total: ids.length, totalKind: 'estimate' };
    const looked2 = scanned === undefined ? {} : { scanned: { rows: scanned, of: 1_000 } };
    response.writeHead(200, { 'Content-Type': 'application/json' });
    response.end(JSON.stringify({ rows: ids, window: { ...window, ...looked2 } }));
  };

/** A terminal that keeps what is written to it. */
function terminal(isTTY: boolean): { readonly terminal: Terminal; readonly output: () => string } {
  let text = '';
  const stderr = { write: (part: string) => (text += part), isTTY };
  const stdout = { write: () => undefined, isTTY };
  return { terminal: { stdout, stderr, environment: {} }, output: () => text };
}

async function rowsOf(isTTY: boolean, more = {}): Promise<{ rows: unknown; text: string }> {
  const { terminal: on, output } = terminal(isTTY);
  const { answer } = await sendRequest({ url, header: {}, terminal: on }, 'passages', 'rows', more);
  return { rows: (answer as { rows: unknown }).rows, text: output() };
}

describe('a question that takes long', () => {
  it('is waited for, and how far it is stands on the terminal', async () => {
    answers = [notReady(0.2), notReady(0.7), found([1, 2])];
    const { rows, text } = await rowsOf(true);
    expect(rows).toEqual([1, 2]);
    expect(text).toContain('20 of 100');
    expect(text).toContain('70 of 100');
    expect(text).toMatch(/100 of 100\n$/);
  });

  it('brings the whole window of a result that is looked through', async () => {
    answers = [found([], 100), found([1], 600), found([1, 2])];
    const { rows, text: written } = await rowsOf(true);
    expect(rows).toEqual([1, 2]);
    expect(written).toMatch(/600 of 1,000.*1,000 of 1,000\n$/s);
  });

  it('needs no more than a full window', async () => {
    answers = [found([1, 2, 3], 600), found([])];
    expect((await rowsOf(true)).rows).toEqual([1, 2, 3]);
  });

  it('is explained with what was found so far', async () => {
    answers = [found([1], 600), found([])];
    expect((await rowsOf(true, { explain: 'true' })).rows).toEqual([1]);
  });

  it('says nothing of that where no terminal is', async () => {
    answers = [notReady(0.2), found([1], 600), found([1, 2])];
    expect(await rowsOf(false)).toEqual({ rows: [1, 2], text: '' });
  });
});
