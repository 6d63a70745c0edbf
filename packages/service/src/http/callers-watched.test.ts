import { connect } from 'node:net';
import pg from 'pg';
import { until } from '../../../core/src/testing/until.ts';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { Records, Tokens } from '../records/index.ts';
import { sendTo } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

let url = '';
let drop: () => Promise<void>;
let records: Records;
const tokens = new Map<string, string>();

beforeAll(async () => {
  ({ url, drop } = await freshDatabase('callers_watched', [
    'CREATE TABLE berths (id int PRIMARY KEY, name text NOT NULL, fee numeric)',
    "INSERT INTO berths SELECT i, 'berth ' || i, i FROM generate_series(1, 500) i",
    `CREATE VIEW wide AS SELECT i AS id, repeat('x', 100000) AS text FROM generate_series(1, 2000) i`,
    'CREATE VIEW slow_berths AS SELECT id, pg_sleep(0.1)::text AS slept FROM berths WHERE id < 3',
  ]));
  records = new Records(url);
  for (const name of ['ann', 'bob']) {
    tokens.set(name, (await new Tokens(records).add({ name, roles: [] })).text);
  }
});

afterAll(async () => {
  await records.close();
  await drop();
});

const as = (name: string): Record<string, string> => ({
  Authorization: `Bearer ${tokens.get(name) ?? ''}`,
});

async function over(
  configuration: string,
  work: (service: TestService) => Promise<void>,
  more: Parameters<typeof startService>[2] = {},
): Promise<void> {
  const service = await startService(url, configuration, { records: url, changes: url, ...more });
  try {
    await work(service);
  } finally {
    await service.close();
  }
}

const signIn = 'signIn: [{ kind: tokens }]\n';

describe('what a caller may ask within a time', () => {
  it('is counted for each of them, reported in every answer, and refused beyond that', async () => {
    await over(`${signIn}rates: { seconds: 600, requests: 4 }`, async (service) => {
      const first = await service.get('/api/tables', as('ann'));
      expect(first.headers.get('ratelimit-policy')).toBe('"requests";q=4;w=600');
      expect(first.headers.get('ratelimit')).toMatch(/^"requests";r=3;t=(?:600|59\d)$/);
      for (let left = 2; left >= 0; left -= 1) {
        const answer = await service.get('/api/tables/berths/rows?limit=1', as('ann'));
        expect(answer.status).toBe(200);
        expect(answer.headers.get('ratelimit')).toContain(`r=${left};`);
      }
      const refused = await service.get('/api/tables', as('ann'));
      expect(refused.status).toBe(429);
      expect(refused.body.type).toBe('urn:ephoros:problem:rate-limited');
      const wait = Number(refused.headers.get('retry-after'));
      expect(wait).toBeGreaterThan(590);
      expect(wait).toBeLessThanOrEqual(600);
      expect((await service.get('/api/tables', as('bob'))).status).toBe(200);
      // Monitors ask whether the service is alive.
      expect((await service.get('/health')).status).toBe(200);
    });
  });

  it('is counted in rows and in seconds of the database as well', async () => {
    await over(`${signIn}rates: { rows: 150, databaseSeconds: 60 }`, async (service) => {
      const rows = '/api/tables/berths/rows?limit=100';
      expect((await service.get(rows, as('ann'))).status).toBe(200);
      const second = await service.get(rows, as('ann'));
      expect(second.headers.get('ratelimit')).toMatch(
        /^"rows";r=49;t=(?:60|5\d), "databaseSeconds";r=59/,
      );
      expect((await service.get(rows, as('ann'))).status).toBe(429);
    });
    await over(`${signIn}rates: { databaseSeconds: 0.15 }`, async (service) => {
      const slow = '/api/tables/slow_berths/rows?total=none';
      expect((await service.get(slow, as('ann'))).status).toBe(200);
      expect((await service.get(slow, as('ann'))).status).toBe(429);
    });
  });

  it('is counted by address where callers are not known, as far as proxies are believed', async () => {
    const from = (address: string): Record<string, string> => ({ 'X-Forwarded-For': address });
    await over('rates: { requests: 1 }\nproxies: [127.0.0.1]', async (service) => {
      expect((await service.get('/api/tables', from('203.0.113.7'))).status).toBe(200);
      expect((await service.get('/api/tables', from('203.0.113.7'))).status).toBe(429);
      // What a caller writes in front of its own address is not believed.
      expect((await service.get('/api/tables', from('9.9.9.9, 203.0.113.7'))).status).toBe(429);
      expect((await service.get('/api/tables', from('203.0.113.8'))).status).toBe(200);
    });
    await over('rates: { requests: 1 }', async (service) => {
      expect((await service.get('/api/tables', from('203.0.113.7'))).status).toBe(200);
      expect((await service.get('/api/tables', from('203.0.113.8'))).status).toBe(429);
    });
  });
});

describe('signing in', () => {
  it('is counted by address, before a body is read', async () => {
    await over(`${signIn}rates: { requests: 2, seconds: 600 }`, async (service) => {
      const send = (): ReturnType<typeof sendTo> =>
        sendTo('POST', `${service.url}/sign-in/program/token`, {
          code: 'x',
          verifier: 'v'.repeat(43),
        });
      expect([(await send()).status, (await send()).status]).toEqual([401, 401]);
      expect((await send()).status).toBe(429);
      // Anyone who is known is counted for themselves.
      expect((await service.get('/api/tables', as('ann'))).status).toBe(200);
    });
  });
});

describe('what one caller may hold', () => {
  it('is so many event streams; others are not in its way', async () => {
    await over(`${signIn}rates: { streams: 3 }`, async (service) => {
      const open: AbortController[] = [];
      const stream = async (name: string): Promise<Response> => {
        const controller = new AbortController();
        open.push(controller);
        return fetch(`${service.url}/api/tables/berths/live`, {
          headers: { ...as(name) },
          signal: controller.signal,
        });
      };
      for (let count = 0; count < 3; count += 1) expect((await stream('ann')).status).toBe(200);
      const refused = await stream('ann');
      expect([refused.status, refused.headers.get('retry-after')]).toEqual([429, '30']);
      expect((await stream('bob')).status).toBe(200);
      open[0]?.abort();
      await until(
        () => stream('ann'),
        ({ status }) => status === 200,
      );
      for (const controller of open) controller.abort();
    });
  });
});

describe('the log', () => {
  const lines = (service: TestService): any[] =>
    service.log.map((line) => JSON.parse(line)).filter(({ audit }) => audit !== undefined);

  it('reports who requested which table, and no values', async () => {
    await over(`${signIn}odata: true`, async (service) => {
      await service.get(
        `/api/tables/berths/rows?filter=name IN ('secret one','two') AND fee BETWEEN 77 AND 88&search="secret words"&sort=-fee&limit=7&after=key:77`,
        as('ann'),
      );
      await service.get(`/odata/berths?$filter=name eq 'secret one'&$top=2`, as('bob'));
      await service.get(`/api/tables/berths/rows?filter=nme = 'secret'`, as('bob'));
      await sendTo(
        'POST',
        `${service.url}/api/tables/berths/changes`,
        { changes: [{ kind: 'remove', key: ['77'], was: {} }] },
        { headers: as('bob') },
      );
      const answer = lines(service);
      expect(answer).toHaveLength(4);
      expect(answer[0]).toMatchObject({
        audit: 'question',
        caller: 'ann',
        address: '127.0.0.1',
        route: '/api/tables/:table/rows',
        table: 'berths',
        query: `filter=name IN ('…') AND fee BETWEEN '…' AND '…'&search=…&sort=-fee&limit=7`,
        status: 200,
        rows: 0,
      });
      expect(answer[1]).toMatchObject({ caller: 'bob', table: 'berths', status: 200 });
      expect(answer[2]).toMatchObject({ caller: 'bob', query: "filter=nme = '…'", status: 400 });
      expect(answer[3]).toMatchObject({
        audit: 'change',
        caller: 'bob',
        method: 'POST',
        tables: ['berths'],
        changes: 1,
        status: 422,
      });
      const texts = answer.map(({ query }) => query).join(' ');
      expect(texts).not.toMatch(/77|88/);
      expect(JSON.stringify(answer)).not.toContain('secret');
    });
  });

  it('reports the values where that is wanted, whatever its level, or nothing of it', async () => {
    await over(`${signIn}audit: { questions: values }`, async (service) => {
      await service.get(`/api/tables/berths/rows?filter=fee = 77&total=none`, as('ann'));
      expect(lines(service)[0]).toMatchObject({ query: 'filter=fee = 77&total=none', rows: 1 });
    });
    for (const configuration of [`${signIn}audit: { questions: nothing }`, '']) {
      await over(configuration, async (service) => {
        await service.get('/api/tables', as('ann'));
        expect(lines(service)).toEqual([]);
      });
    }
  });
});

describe('a page elsewhere', () => {
  it('can have a browser send nothing that might change something', async () => {
    await over('origins: ["https://desk.example"]', async (service) => {
      const post = (origin: string): Promise<number> =>
        sendTo(
          'POST',
          `${service.url}/api/tables/berths/query`,
          {},
          {
            headers: { Origin: origin },
          },
        ).then(({ status }) => status);
      expect(await post('https://elsewhere.example')).toBe(403);
      expect(await post('null')).toBe(403);
      expect(await post('https://desk.example')).toBe(200);
      expect(await post(service.url)).toBe(200);
    });
  });
});

describe('a client that keeps the service waiting', () => {
  /** Sends this much and no more; resolves to what came by the time that the connection ended. */
  const held = (service: TestService, sent: string): Promise<string> =>
    new Promise((resolve) => {
      const { port, hostname } = new URL(service.url);
      const socket = connect(Number(port), hostname, () => socket.write(sent));
      let came = '';
      socket.on('data', (data) => (came += data.toString()));
      socket.on('error', () => undefined);
      socket.on('close', () => resolve(came));
    });

  it('is let go where its request does not come to an end', async () => {
    await over(
      '',
      async (service) => {
        const head = 'POST /api/tables/berths/query HTTP/1.1\r\nHost: 127.0.0.1\r\n';
        expect(await held(service, head)).toContain(' 408 ');
        const long = `${head}Content-Type: application/json\r\nContent-Length: 1000\r\n\r\n{`;
        expect(await held(service, long)).toContain(' 408 ');
      },
      { requestLimit: 600 },
    );
  });

  it('is let go where it reads nothing of a long answer', async () => {
    await over(
      '',
      async (service) => {
        const client = new pg.Client({ connectionString: url });
        await client.connect();
        const path = '/api/tables/wide/export?format=json';
        const sent = `GET ${path} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n`;
        const { port, hostname } = new URL(service.url);
        const socket = connect(Number(port), hostname, () => socket.write(sent)).pause();
        const running = async (): Promise<number> => {
          const { rows } = await client.query<{ running: number }>(
            "select count(*)::int as running from pg_stat_activity where query ilike 'copy%wide%' and state = 'active' and datname = current_database() and pid <> pg_backend_pid()",
          );
          return rows[0]?.running ?? 0;
        };
        while ((await running()) === 0) await new Promise((resolve) => setTimeout(resolve, 20));
        // Nothing of it is read: the statement behind it ends with the connection.
        while ((await running()) > 0) await new Promise((resolve) => setTimeout(resolve, 20));
        await client.end();
        socket.destroy();
      },
      { readerLimit: 500 },
    );
  });
});
