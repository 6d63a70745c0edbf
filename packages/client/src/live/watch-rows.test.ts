import { until } from '../../../core/src/testing/until.ts';
import { watchRows } from './watch-rows.ts';

it('reports that something may have been written once a connection is there that failed at first', async () => {
  const ending = new AbortController();
  let tries = 0;
  let written = 0;
  const watching = watchRows(
    {
      url: 'http://service.test/api',
      fetch: (_address, { signal } = {}) => {
        tries += 1;
        if (tries === 1) return Promise.reject(new TypeError('fetch failed'));
        const body = new ReadableStream({
          start: (controller) => signal?.addEventListener('abort', () => controller.close()),
        });
        return Promise.resolve(new Response(body, { status: 200 }));
      },
    },
    'berths',
    {},
    { changed: () => undefined, written: () => (written += 1) },
    ending.signal,
  );
  await until(
    () => Promise.resolve(written),
    (count) => count === 1,
  );
  ending.abort();
  await watching;
  expect(tries).toBe(2);
});
