import { createHash } from 'node:crypto';
import { request } from 'node:http';
import { generateKeyPair, SignJWT, UnsecuredJWT } from 'jose';
import pg from 'pg';
import { freshDatabase } from '../../../../demo/src/testing/databases.ts';
import { until } from '../../../core/src/testing/until.ts';
import { Records, Tokens } from '../records/index.ts';
import { startProvider, type TestProvider } from '../testing/provider.ts';
import { sendTo } from '../testing/sending.ts';
import { startService, type TestService } from '../testing/service.ts';

let url = '';
let provider: TestProvider;
let service: TestService;
let records: Records;

const configuration = (issuer: string): string => `
tables: { berths: { changes: { change: [fee] } } }
signIn:
  - { kind: tokens }
  - { kind: jwt, issuer: "${issuer}", audience: ephoros, keys: "${issuer}/keys", algorithms: [RS256], name: email }
  - { kind: proxy, header: X-Person, rolesHeader: X-Groups, from: [127.0.0.2], claims: { quay: X-Quay } }
  - { kind: openid, issuer: "${issuer}", client: ephoros, label: The harbour office, hours: 1 }
roles:
  berther:
    tables: { berths: { rows: "quay = {claims.quay}", changes: true } }
    views: true
  clerk: { tables: { berths: { hidden: [fee] } }, exports: true }
  chief: { tables: all, changes: true, exports: true, explanations: true, views: true, metrics: true }
`;

beforeAll(async () => {
  ({ url } = await freshDatabase('sign_in', [
    'CREATE TABLE berths (id int PRIMARY KEY, quay int NOT NULL, name text NOT NULL, fee numeric(8,2))',
    "INSERT INTO berths SELECT i, i % 3, 'berth ' || i, i FROM generate_series(1, 9) i",
  ]));
  provider = await startProvider();
  service = await startService(url, configuration(provider.issuer), { records: url, changes: url });
  records = new Records(url);
});

afterAll(async () => {
  await service.close();
  await provider.close();
  await records.close();
});

/** The services of these records count together what did not hold: each test begins again. */
const forgetAttempts = async (): Promise<void> => {
  await records.use((database) => database.execute('delete from ephoros.attempts'));
};

beforeEach(forgetAttempts);

const bearer = (token: string): Record<string, string> => ({ Authorization: `Bearer ${token}` });
const rows = '/api/tables/berths/rows?columns=id&sort=id';
const ids = (body: any): number[] => body.rows.map(({ id }: any) => id);

describe('a service with ways of signing in', () => {
  it('answers nobody whom it does not know, and says how to be known', async () => {
    for (const path of [rows, '/api/tables', '/api/caller', '/api/openapi.json', '/metrics']) {
      const answer = await service.get(path);
      expect([path, answer.status]).toEqual([path, path.endsWith('openapi.json') ? 200 : 401]);
    }
    const { headers, body } = await service.get(rows);
    expect(headers.get('www-authenticate')).toBe('Bearer realm="ephoros"');
    expect(body.type).toBe('urn:ephoros:problem:unauthorized');
    // Whether it is alive anybody may ask.
    expect((await service.get('/health')).status).toBe(200);
    expect((await service.get('/ready')).status).toBe(200);
  });

  it('knows callers by tokens that it has given out, until they are revoked', async () => {
    const tokens = new Tokens(records);
    const { token, text } = await tokens.add({
      name: 'crane',
      roles: ['berther'],
      claims: { quay: 1 },
    });
    expect(ids((await service.get(rows, bearer(text))).body)).toEqual([1, 4, 7]);
    const { body } = await service.get('/api/caller', bearer(text));
    expect(body).toMatchObject({
      name: 'crane',
      roles: ['berther'],
      may: { exports: false, explanations: false, views: true, metrics: false },
      canSignOut: false,
    });
    // What is stored would let nobody in.
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    const remaining = JSON.stringify((await client.query('select * from ephoros.tokens')).rows);
    await client.end();
    expect(remaining).not.toContain(text.slice(-20));
    expect(service.log.join('')).not.toContain(text.slice(-20));

    await tokens.revoke(token.id);
    const refused = async (): Promise<any> => (await service.get(rows, bearer(text))).status;
    // What was known goes on for five seconds.
    for (let tries = 0; (await refused()) !== 401; tries += 1) {
      expect(tries).toBeLessThan(200);
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    const expired = await tokens.add({ name: 'old', roles: ['chief'], expiresAt: new Date(0) });
    expect((await service.get(rows, bearer(expired.text))).status).toBe(401);
    expect((await service.get(rows, bearer(`${text}x`))).status).toBe(401);
  });

  it('knows callers by tokens that a pinned issuer has signed, and by no others', async () => {
    const { issuer } = provider;
    const claims = { email: 'ann@example.com', roles: ['clerk'], name: 'Ann Reed' };
    const good = await provider.sign(claims);
    expect((await service.get('/api/caller', bearer(good))).body).toMatchObject({
      name: 'ann@example.com',
      title: 'Ann Reed',
      roles: ['clerk'],
    });
    expect((await service.get('/api/tables/berths/rows', bearer(good))).body.columns).toEqual([
      'id',
      'quay',
      'name',
    ]);
    const { privateKey } = await generateKeyPair('RS256');
    const secret = new TextEncoder().encode('a secret that both would have to know');
    const symmetric = new SignJWT({ iss: issuer, aud: 'ephoros', ...claims })
      .setProtectedHeader({ alg: 'HS256' })
      .setExpirationTime('5m');
    const wrong: Record<string, string> = {
      'of another key': await provider.sign(claims, { key: privateKey }),
      'of another issuer': await provider.sign({ ...claims, iss: 'https://elsewhere.example' }),
      'for somebody else': await provider.sign({ ...claims, aud: 'another' }),
      expired: await provider.sign(claims, { expires: Math.floor(Date.now() / 1000) - 61 }),
      'not valid yet': await provider.sign({ ...claims, nbf: Math.floor(Date.now() / 1000) + 90 }),
      'without a name': await provider.sign({ roles: ['chief'] }),
      'signed by a secret': await symmetric.sign(secret),
      'not signed': new UnsecuredJWT({ iss: issuer, aud: 'ephoros', ...claims })
        .setExpirationTime('5m')
        .encode(),
      'no token': 'nothing',
    };
    for (const [what, token] of Object.entries(wrong)) {
      const answer = await service.get(rows, bearer(token));
      expect([what, answer.status, answer.body.type]).toEqual([
        what,
        401,
        'urn:ephoros:problem:sign-in-refused',
      ]);
      expect(answer.headers.get('www-authenticate')).toContain('error="invalid_token"');
    }
    // Clocks may differ by a minute.
    const late = await provider.sign(claims, { expires: Math.floor(Date.now() / 1000) - 30 });
    expect((await service.get(rows, bearer(late))).status).toBe(200);
  });

  it('answers claims of any shape, and never by an error of its own', async () => {
    const shapes: readonly unknown[] = [
      1e300,
      -0,
      1.5,
      'x',
      '1e5',
      '99999999999999999999',
      "1' OR true --",
      true,
      null,
      {},
      { a: 1 },
      [],
      [[1]],
      [null],
      [1, 'x'],
      ['1', '2'],
      '',
      ' ',
      '\u0000',
      'NaN',
      'Infinity',
    ];
    for (const quay of shapes) {
      const token = await provider.sign({ email: 'ann', roles: ['berther'], quay });
      const { status, body } = await service.get(rows, bearer(token));
      const result = [JSON.stringify(quay), status, body.type];
      expect([result, [200, 400, 403, 404].includes(status)]).toEqual([result, true]);
      if (status === 200) {
        const shown = new Set(body.rows.map(({ id }: any) => id % 3));
        expect([
          result,
          [...shown].every((one) => [quay].flat().map(Number).includes(Number(one))),
        ]).toEqual([result, true]);
      }
    }
    for (const wrong of [
      { roles: { a: 1 } },
      { roles: [1, null] },
      { name: {} },
      { name: 1e300 },
    ]) {
      const token = await provider.sign({ email: 'ann', roles: ['clerk'], ...wrong });
      const { status } = await service.get('/api/caller', bearer(token));
      expect([wrong, status]).toEqual([wrong, 200]);
    }
    const forever = await provider.sign({ email: 'ann', roles: ['clerk'] }, { expires: 1e300 });
    expect((await service.get('/api/caller', bearer(forever))).status).toBe(200);
    expect((await service.get(rows, bearer(forever))).status).toBe(200);
  });

  it('refuses no token whose key may be a new one', async () => {
    const turning = await startProvider();
    const own = await startService(url, configuration(turning.issuer), { records: url });
    const claims = { email: 'ann@example.com', roles: ['clerk'] };
    try {
      expect((await own.get(rows, bearer(await turning.sign(claims)))).status).toBe(200);
      // The keys were read just now, and are read again in ten seconds at the earliest.
      const { privateKey } = await generateKeyPair('RS256');
      const next = await turning.sign(claims, { key: privateKey, kid: 'next' });
      const answer = await own.get(rows, bearer(next));
      expect([answer.status, answer.body.type]).toEqual([
        503,
        'urn:ephoros:problem:sign-in-unavailable',
      ]);
    } finally {
      await own.close();
      await turning.close();
    }
  });

  it('takes the word of a trusted proxy alone', async () => {
    const headers = { 'X-Person': 'bob', 'X-Groups': 'chief' };
    // This comes from 127.0.0.1.
    expect((await service.get(rows, headers)).status).toBe(401);
    const trusting = await startService(
      url,
      configuration(provider.issuer).replace('127.0.0.2', '127.0.0.0/8'),
      { records: url },
    );
    try {
      expect(ids((await trusting.get(rows, headers)).body)).toHaveLength(9);
      const berther = { 'X-Person': 'bob', 'X-Groups': 'berther, nobody' };
      // Without the claim that the rule needs the table is not there, rather than whole.
      expect((await trusting.get(rows, berther)).status).toBe(404);
      const own = await trusting.get(rows, { ...berther, 'X-Quay': '2' });
      expect(ids(own.body)).toEqual([2, 5, 8]);
      // A value is a value, whatever stands in it.
      const sly = { ...berther, 'X-Quay': "2' OR '1' = '1" };
      const unfit = await trusting.get(rows, sly);
      expect([unfit.status, unfit.body.type]).toEqual([
        403,
        'urn:ephoros:problem:unsuitable-claim',
      ]);
      expect(JSON.stringify(unfit.body)).not.toMatch(/quay|OR/);
      const post = `${trusting.url}/api/tables/berths/query`;
      expect((await sendTo('POST', post, {}, { headers })).status).toBe(403);
      const origin = { Origin: trusting.url };
      expect((await sendTo('POST', post, {}, { headers: { ...headers, ...origin } })).status).toBe(
        200,
      );
    } finally {
      await trusting.close();
    }
  });

  it('takes nobody’s word where a header of a proxy was sent twice', async () => {
    const trusting = await startService(
      url,
      configuration(provider.issuer).replace('127.0.0.2', '127.0.0.0/8'),
      { records: url },
    );
    /** A request with headers as a client and a proxy that adds its own have sent them. */
    const status = (headers: readonly string[]): Promise<number | undefined> =>
      new Promise((resolve, reject) => {
        const sent = request(trusting.url + rows, { headers: [...headers, 'Host', 'localhost'] });
        sent.on('response', (answer) => resolve(answer.resume().statusCode));
        sent.on('error', reject).end();
      });
    try {
      const own = ['X-Person', 'bob', 'X-Groups', 'clerk'];
      expect(await status(own)).toBe(200);
      expect(await status([...own, 'X-Groups', 'chief'])).toBe(401);
      expect(await status(['X-Person', 'eve', ...own])).toBe(401);
      expect(await status([...own, 'X-Quay', '1', 'X-Quay', '2'])).toBe(401);
    } finally {
      await trusting.close();
    }
  });

  it('reads little of anyone who is not known', async () => {
    const big = { token: 'x'.repeat(70_000) };
    for (const path of ['/sign-in/token', '/sign-in/program/token', '/sign-in/program']) {
      const answer = await sendTo('POST', service.url + path, big, {
        headers: { Origin: service.url },
      });
      expect([path, answer.status]).toEqual([path, 413]);
    }
  });

  it('counts tokens that did not hold for all services of the records, by the sender', async () => {
    const proxied = `proxies: [127.0.0.1]\n${configuration(provider.issuer)}`;
    const services = await Promise.all(
      [1, 2].map(() => startService(url, proxied, { records: url })),
    );
    let sent = 0;
    const guess = async (from: string): Promise<number> => {
      const { url: at } = services[(sent += 1) % 2] ?? service;
      const headers = { ...bearer(`ephoros_${String(sent)}`), 'X-Forwarded-For': from };
      return (await sendTo('GET', at + rows, undefined, { headers })).status;
    };
    const held = async (spellings: readonly string[]): Promise<number> => {
      const statuses: number[] = [];
      for (let at = 0; at < 40; at += 1) {
        statuses.push(await guess(spellings[at % spellings.length] ?? ''));
      }
      return statuses.filter((status) => status === 429).length;
    };
    try {
      // One network of 64 bits is one sender, however its addresses are spelled.
      expect(
        await held([
          '2001:db8:1:2::1',
          '2001:DB8:1:2:0:0:0:2',
          '2001:0db8:0001:0002::3',
          '[2001:db8:1:2::4]:443',
          '2001:db8:1:2:ffff::5',
          '2001:db8:1:2::6%eth0',
        ]),
      ).toBe(10);
      expect(
        await held(['198.51.100.7', '::ffff:198.51.100.7', '::FFFF:c633:6407', '198.51.100.7:99']),
      ).toBe(10);
      await forgetAttempts();
      // What is no address leaves the proxy's own.
      expect(await held(['junk', 'more junk', '999.1.1.1', 'localhost'])).toBe(10);
      expect(await held(['2001:db8:1:3::1'])).toBe(10);
    } finally {
      await Promise.all(services.map((one) => one.close()));
    }
  });

  it('makes an address wait that sent too many invalid tokens, and lets valid ones in', async () => {
    const strict = await startService(url, configuration(provider.issuer), { records: url });
    try {
      const { text } = await new Tokens(records).add({ name: 'steady', roles: ['chief'] });
      const statuses: number[] = [];
      for (let tries = 0; tries < 40; tries += 1) {
        const guess = `ephoros_AAAAAAAAAAAA_${'A'.repeat(48)}${String(tries).padStart(3, '0')}`;
        statuses.push((await strict.get(rows, bearer(guess))).status);
      }
      expect(statuses.slice(0, 30).every((status) => status === 401)).toBe(true);
      expect(statuses.at(-1)).toBe(429);
      expect((await strict.get(rows, bearer(text))).status).toBe(200);
    } finally {
      await strict.close();
    }
  });
});

/** A browser as far as cookies go. */
class Visitor {
  readonly jar = new Map<string, string>();

  async go(address: string, options: RequestInit = {}): Promise<Response> {
    const cookie = [...this.jar].map(([name, value]) => `${name}=${value}`).join('; ');
    const response = await fetch(address, {
      redirect: 'manual',
      ...options,
      headers: {
        ...(options.headers as Record<string, string>),
        ...(cookie && { Cookie: cookie }),
      },
    });
    for (const line of response.headers.getSetCookie()) {
      const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(line) ?? [];
      if (value === '') this.jar.delete(name);
      else this.jar.set(name, value);
    }
    return response;
  }

  /** Goes to the provider and back; gives where that led. */
  async signIn(back = '/tables/berths'): Promise<string> {
    const begun = await this.go(`${service.url}/sign-in/at/0?back=${encodeURIComponent(back)}`);
    const provided = await fetch(begun.headers.get('location') ?? '', { redirect: 'manual' });
    const returned = await this.go(provided.headers.get('location') ?? '');
    return returned.headers.get('location') ?? '';
  }

  async caller(): Promise<any> {
    const response = await this.go(`${service.url}/api/caller`);
    return response.status === 200 ? response.json() : undefined;
  }
}

describe('somebody at a browser', () => {
  it('signs in at a provider, comes back to where they were, and signs out', async () => {
    provider.person = {
      sub: 'c7',
      name: 'Cora Pike',
      roles: ['berther'],
      quay: 1,
      more: 'x'.repeat(5000),
    };
    const visitor = new Visitor();
    expect(await (await visitor.go(`${service.url}/sign-in/ways`)).json()).toEqual({
      title: 'Ephoros',
      ways: [
        { kind: 'openid', label: 'The harbour office', path: '/sign-in/at/0' },
        { kind: 'token', label: 'A token', path: '/sign-in/token' },
      ],
    });
    expect(await visitor.signIn('/tables/berths?sort=-id')).toBe('/tables/berths?sort=-id');
    expect(await visitor.caller()).toMatchObject({
      name: 'c7',
      title: 'Cora Pike',
      roles: ['berther'],
      canSignOut: true,
    });
    const answer = await visitor.go(service.url + rows);
    expect(ids(await answer.json())).toEqual([1, 4, 7]);

    const stored = new Map(visitor.jar);
    expect((await visitor.go(`${service.url}/sign-out`, { method: 'POST' })).status).toBe(204);
    expect(await visitor.caller()).toBeUndefined();
    const events = service.log
      .map((line) => JSON.parse(line) as { audit?: string; event?: string; caller?: string })
      .filter(({ audit, caller }) => audit === 'sign-in' && caller === 'c7')
      .map(({ event }) => event);
    expect(events).toEqual(['signed in', 'signed out']);
    // The cookie that somebody has stored counts no longer either.
    for (const [name, value] of stored) visitor.jar.set(name, value);
    expect(await visitor.caller()).toBeUndefined();
  });

  it('has cookies that scripts, pages elsewhere and other services cannot use', async () => {
    provider.person = { sub: 'somebody-told-apart', roles: ['chief'] };
    const visitor = new Visitor();
    const begun = await visitor.go(`${service.url}/sign-in/at/0`);
    expect(begun.headers.getSetCookie()[0]).toMatch(/; Path=\/; .*HttpOnly; SameSite=Lax$/);
    await visitor.signIn();
    const [session = ''] = [...visitor.jar.values()];
    expect(Buffer.from(session.split('.')[0] ?? '', 'base64url').toString()).toContain('A256GCM');
    const whole = session
      .split('.')
      .map((part) => Buffer.from(part, 'base64url').toString('latin1'));
    expect(session + whole.join('')).not.toContain('somebody-told-apart');

    const send = (headers: Record<string, string>): Promise<Response> =>
      visitor.go(`${service.url}/api/tables/berths/changes`, {
        method: 'POST',
        body: JSON.stringify({
          changes: [{ kind: 'change', key: ['3'], was: {}, values: { fee: '5.00' } }],
        }),
        headers: { 'Content-Type': 'application/json', ...headers },
      });
    expect((await send({})).status).toBe(403);
    expect((await send({ Origin: 'https://elsewhere.example' })).status).toBe(403);
    expect((await send({ Origin: 'null' })).status).toBe(403);
    expect((await send({ Origin: service.url })).status).toBe(200);
    const secure = await startService(
      url,
      `address: https://desk.example\n${configuration(provider.issuer)}`,
      { records: url },
    );
    try {
      const answer = await fetch(`${secure.url}/sign-in/at/0`, { redirect: 'manual' });
      expect(answer.headers.getSetCookie()[0]).toMatch(/^__Host-ephoros-way=.*; Secure/);
      const redirect = new URL(answer.headers.get('location') ?? '').searchParams;
      expect(redirect.get('redirect_uri')).toBe('https://desk.example/sign-in/back');
    } finally {
      await secure.close();
    }
  });

  it('is not taken in by what does not belong to the sign-in that was begun', async () => {
    provider.person = { sub: 'c7', roles: ['chief'] };
    const failed = '/sign-in?failed=refused';
    for (const wrong of [{ nonce: 'x' }, { aud: 'x' }, { iss: 'https://elsewhere.example' }]) {
      provider.wrong = wrong;
      const visitor = new Visitor();
      expect([wrong, await visitor.signIn()]).toEqual([wrong, failed]);
      expect(await visitor.caller()).toBeUndefined();
    }
    provider.wrong = {};
    // An answer that another browser was given.
    const other = new Visitor();
    const begun = await other.go(`${service.url}/sign-in/at/0`);
    const provided = await fetch(begun.headers.get('location') ?? '', { redirect: 'manual' });
    const back = provided.headers.get('location') ?? '';
    const visitor = new Visitor();
    await visitor.go(`${service.url}/sign-in/at/0`);
    expect((await visitor.go(back)).headers.get('location')).toBe(failed);
    // Nobody is sent to another host.
    for (const away of [
      '//elsewhere.example',
      '/\\elsewhere.example',
      'https://elsewhere.example',
      '/\t/elsewhere.example',
      '/.//elsewhere.example/x',
      '/..//elsewhere.example',
      '/%2e//elsewhere.example',
    ]) {
      expect([away, await new Visitor().signIn(away)]).toEqual([away, '/']);
    }
  });

  it('learns that its provider is away, and goes on where it is signed in', async () => {
    const leaving = await startProvider();
    const own = await startService(url, configuration(leaving.issuer), { records: url });
    const begin = async (): Promise<string> => {
      const begun = await fetch(`${own.url}/sign-in/at/0?back=/tables/berths`, {
        redirect: 'manual',
      });
      return begun.headers.get('location') ?? '';
    };
    try {
      await leaving.close();
      expect(await begin()).toBe('/sign-in?failed=away&back=%2Ftables%2Fberths');
      const signed = await leaving.sign({ email: 'ann@example.com', roles: ['chief'] });
      const answer = await own.get(rows, bearer(signed));
      expect([answer.status, answer.body.type]).toEqual([
        503,
        'urn:ephoros:problem:sign-in-unavailable',
      ]);
      expect(answer.headers.get('retry-after')).toBe('5');
      // Nobody is let in, and nobody turned away, by what is not known; who is known by the records goes on.
      const { text } = await new Tokens(records).add({ name: 'other', roles: ['chief'] });
      expect((await own.get(rows, bearer(text))).status).toBe(200);
    } finally {
      await own.close();
    }
  });

  it('signs in by a token as well', async () => {
    const { text } = await new Tokens(records).add({ name: 'desk', roles: ['clerk'] });
    const visitor = new Visitor();
    const send = (token: string, headers: Record<string, string> = {}): Promise<Response> =>
      visitor.go(`${service.url}/sign-in/token`, {
        method: 'POST',
        body: JSON.stringify({ token }),
        headers: { 'Content-Type': 'application/json', ...headers },
      });
    expect((await send('nothing')).status).toBe(401);
    expect((await send(text, { Origin: 'https://elsewhere.example' })).status).toBe(403);
    expect((await send(text)).status).toBe(204);
    expect(await visitor.caller()).toMatchObject({ name: 'desk', canSignOut: true });
  });

  /** Lets a program ask as anyone who is signed in at a browser; gives what it is exchanged for. */
  const letIn = async (visitor: Visitor): Promise<{ code: string; verifier: string }> => {
    const verifier = 'v'.repeat(43);
    const challenge = createHash('sha256').update(verifier).digest('base64url');
    const answer = await visitor.go(`${service.url}/sign-in/program`, {
      method: 'POST',
      body: JSON.stringify({ challenge }),
      headers: { 'Content-Type': 'application/json', Origin: service.url },
    });
    expect(answer.status).toBe(201);
    return { code: ((await answer.json()) as { code: string }).code, verifier };
  };
  const exchange = (body: object): ReturnType<typeof sendTo> =>
    sendTo('POST', `${service.url}/sign-in/program/token`, body);
  const signedInBy = async (text: string): Promise<Visitor> => {
    const visitor = new Visitor();
    const answer = await visitor.go(`${service.url}/sign-in/token`, {
      method: 'POST',
      body: JSON.stringify({ token: text }),
      headers: { 'Content-Type': 'application/json' },
    });
    expect(answer.status).toBe(204);
    return visitor;
  };
  const ends = async (pending: () => Promise<number>): Promise<void> => {
    // What was known goes on for five seconds.
    await until(pending, (status) => status === 401);
  };

  it('is signed out, with every program and browser after it, once its token is revoked', async () => {
    const own = await startService(
      url,
      configuration(provider.issuer).replace('kind: tokens', 'kind: tokens, prefix: "app:"'),
      { records: url },
    );
    const before = service;
    service = own;
    try {
      const tokens = new Tokens(records);
      const { token, text } = await tokens.add({ name: 'chained', roles: ['chief'] });
      const browser = await signedInBy(text);
      expect(await browser.caller()).toMatchObject({ name: 'app:chained' });
      const first = (await exchange(await letIn(browser))).body as { token: string };
      const further = await signedInBy(first.token);
      const second = (await exchange(await letIn(further))).body as { token: string };
      expect((await own.get(rows, bearer(second.token))).status).toBe(200);
      const ended = await tokens.revoke(token.id);
      expect([ended.tokens.length, ended.sessions.length]).toEqual([3, 2]);
      for (const one of [text, first.token, second.token]) {
        await ends(async () => (await own.get(rows, bearer(one))).status);
      }
      for (const one of [browser, further]) {
        await ends(async () => (await one.go(own.url + rows)).status);
      }
    } finally {
      service = before;
      await own.close();
    }
  });

  it('ends what programs were let in with by signing out, at once', async () => {
    const { text } = await new Tokens(records).add({ name: 'leaving', roles: ['chief'] });
    const visitor = await signedInBy(text);
    const given = await letIn(visitor);
    const late = await letIn(visitor);
    const { token } = (await exchange(given)).body as { token: string };
    expect((await service.get(rows, bearer(token))).status).toBe(200);
    expect((await visitor.go(`${service.url}/sign-out`, { method: 'POST' })).status).toBe(204);
    expect((await service.get(rows, bearer(token))).status).toBe(401);
    // Nor is a code of the session exchanged any more.
    expect((await exchange(late)).status).toBe(401);
    expect((await service.get(rows, bearer(text))).status).toBe(200);
  });

  it('has a code be exchanged once', async () => {
    const { text } = await new Tokens(records).add({ name: 'once', roles: ['chief'] });
    const given = await letIn(await signedInBy(text));
    const answers = await Promise.all([exchange(given), exchange(given), exchange(given)]);
    expect(answers.map(({ status }) => status).toSorted()).toEqual([201, 401, 401]);
    expect((await exchange(given)).status).toBe(401);
  });

  it('ends a token of a program at once, in memory as well', async () => {
    const { text } = await new Tokens(records).add({ name: 'signing out', roles: ['chief'] });
    expect((await service.get(rows, bearer(text))).status).toBe(200);
    const path = `${service.url}/sign-out`;
    const answer = await sendTo('POST', path, undefined, { headers: bearer(text) });
    expect(answer.status).toBe(204);
    expect((await service.get(rows, bearer(text))).status).toBe(401);
    const events = service.log
      .map((line) => JSON.parse(line) as { audit?: string; event?: string; caller?: string })
      .filter(({ audit, caller }) => audit === 'sign-in' && caller === 'signing out');
    expect(events.map(({ event }) => event)).toEqual(['token ended']);
  });
});
