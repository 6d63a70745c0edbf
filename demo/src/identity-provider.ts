import { generateKeyPairSync } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { Adapter, AdapterPayload, Configuration, default as Provider } from 'oidc-provider';

/** Somebody at the Lowmere Navigation: all invented. */
interface Person {
  readonly id: string;
  readonly name: string;
  readonly what: string;
  readonly roles: readonly string[];
  readonly lock?: number;
}

const people: readonly Person[] = [
  {
    id: 'ines.arkwright',
    name: 'Ines Arkwright',
    what: 'keeps the seventh lock, and sees the traffic of all',
    roles: ['keeper', 'traffic'],
    lock: 7,
  },
  {
    id: 'tomas.brill',
    name: 'Tomas Brill',
    what: 'is of the toll office',
    roles: ['toll_office'],
  },
  { id: 'maud.ferrier', name: 'Maud Ferrier', what: 'is the warden', roles: ['warden'] },
];

export interface IdentityProvider {
  readonly issuer: string;
  stop(): Promise<void>;
}

export interface IdentityProviderOptions {
  /** On 127.0.0.1; the port must be free. */
  readonly port: number;
  /** Where the service may send people back to. */
  readonly redirects: readonly string[];
}

/**
 * A stand-in for a provider of identities (OpenID Connect): anyone who comes chooses one of three people, without a
 * password. For the demo alone.
 */
export async function startIdentityProvider({
  port,
  redirects,
}: IdentityProviderOptions): Promise<IdentityProvider> {
  const issuer = `http://127.0.0.1:${port}`;
  // Loaded by anyone who wants it: nothing else of the demo needs it.
  const { default: Provider } = await import('oidc-provider');
  const provider = new Provider(issuer, configurationOf(redirects));
  const answer = provider.callback();
  const server = createServer((request, response) => {
    if (request.url?.startsWith('/people/') !== true) {
      void answer(request, response);
      return;
    }
    choose(provider, request, response).catch(() => {
      response.writeHead(400, { 'Content-Type': 'text/plain' }).end('Begin once more.');
    });
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  return {
    issuer,
    stop: async () => {
      const closed = new Promise((resolve) => server.close(resolve));
      server.closeAllConnections();
      await closed;
    },
  };
}

function configurationOf(redirects: readonly string[]): Configuration {
  const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
  return {
    clients: [
      {
        client_id: 'lowmere',
        token_endpoint_auth_method: 'none',
        redirect_uris: [...redirects],
        response_types: ['code'],
        grant_types: ['authorization_code'],
      },
    ],
    adapter: Kept,
    jwks: { keys: [{ ...privateKey.export({ format: 'jwk' }), alg: 'RS256', use: 'sig' }] },
    cookies: { keys: ['nothing of this demo is secret'] },
    features: { devInteractions: { enabled: false } },
    claims: { openid: ['sub'], profile: ['name', 'roles', 'lock'] },
    interactions: { url: (_context, { uid }) => `/people/${uid}` },
    findAccount: (_context, id) => {
      const person = people.find((one) => one.id === id);
      if (person === undefined) return undefined;
      const { name, roles, lock } = person;
      return {
        accountId: id,
        claims: () => ({ sub: id, name, roles, ...(lock !== undefined && { lock }) }),
      };
    },
    // Anyone who chose somebody agrees to what is passed on about them.
    loadExistingGrant: async ({ oidc }) => {
      const { client, session, params } = oidc;
      const grant = new oidc.provider.Grant({
        ...(client?.clientId && { clientId: client.clientId }),
        ...(session?.accountId && { accountId: session.accountId }),
      });
      grant.addOIDCScope(typeof params?.scope === 'string' ? params.scope : 'openid');
      await grant.save();
      return grant;
    },
  };
}

/** What the provider keeps, as long as the demo runs. */
class Kept implements Adapter {
  private readonly things = new Map<string, AdapterPayload>();

  // The library asks for promises.
  /* eslint-disable @typescript-eslint/require-await */
  async upsert(id: string, payload: AdapterPayload): Promise<void> {
    this.things.set(id, payload);
  }

  async find(id: string): Promise<AdapterPayload | undefined> {
    return this.things.get(id);
  }

  async findByUid(uid: string): Promise<AdapterPayload | undefined> {
    return [...this.things.values()].find((one) => one.uid === uid);
  }

  async findByUserCode(): Promise<undefined> {
    return undefined;
  }

  async consume(id: string): Promise<void> {
    const thing = this.things.get(id);
    if (thing !== undefined) thing.consumed = Math.floor(Date.now() / 1000);
  }

  async destroy(id: string): Promise<void> {
    this.things.delete(id);
  }

  async revokeByGrantId(grant: string): Promise<void> {
    for (const [id, { grantId }] of this.things) if (grantId === grant) this.things.delete(id);
  }
  /* eslint-enable @typescript-eslint/require-await */
}

/** The page on which one chooses whom to be, and what follows from that. */
async function choose(
  provider: Provider,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const { uid } = await provider.interactionDetails(request, response);
  const chosen = new URL(request.url ?? '/', 'http://here').searchParams.get('as');
  const person = people.find(({ id }) => id === chosen);
  if (person !== undefined) {
    await provider.interactionFinished(request, response, { login: { accountId: person.id } });
    return;
  }
  const lines = people.map(
    ({ id, name, what }) =>
      `<li><a href="/people/${uid}?as=${encodeURIComponent(id)}"><b>${name}</b> ${what}</a></li>`,
  );
  response.writeHead(200, {
    'Content-Type': 'text/html; charset=utf-8',
    'Cache-Control': 'no-store',
  }).end(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Who are you?</title>
<style>
  body { font: 1.05rem/1.6 Georgia, serif; background: #f6f1e7; color: #2b2620; max-width: 34rem; margin: 12vh auto; padding: 0 1.5rem }
  h1 { font-weight: 500 } ul { list-style: none; padding: 0; border-top: 1px solid #d9cfbd }
  li { border-bottom: 1px solid #d9cfbd } a { display: block; padding: .8rem .3rem; color: inherit; text-decoration: none }
  a:hover, a:focus { background: #efe4cd } p { color: #6b6152 }
</style>
<h1>Who are you?</h1>
<p>A stand-in for the place where the staff of the Lowmere Navigation sign in. Nobody here is real, and nobody is asked for a password.</p>
<ul>${lines.join('')}</ul></html>`);
}
