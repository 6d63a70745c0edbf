import { createHash } from 'node:crypto';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { exportJWK, generateKeyPair, SignJWT, type CryptoKey, type JWK } from 'jose';

/** An OpenID provider for tests, whose answers a test can bend. */
export interface TestProvider {
  readonly issuer: string;
  /** Claims of anyone who is sent there next. */
  person: Record<string, unknown>;
  /** What of an ID token is not as it should be. */
  wrong: Partial<Record<'nonce' | 'aud' | 'iss', string>>;
  /** A token signed by its key. */
  sign(
    claims: Record<string, unknown>,
    more?: {
      readonly expires?: string | number;
      readonly key?: CryptoKey;
      readonly kid?: string;
    },
  ): Promise<string>;
  close(): Promise<void>;
}

interface Visit {
  readonly nonce: string | null;
  readonly challenge: string | null;
  readonly redirect: string;
}

/** Starts one on loopback: it lets in anyone who comes, as its `person`. */
export async function startProvider(audience = 'ephoros'): Promise<TestProvider> {
  const { privateKey, publicKey } = await generateKeyPair('RS256');
  const jwk: JWK = { ...(await exportJWK(publicKey)), kid: 'one', alg: 'RS256', use: 'sig' };
  const visits = new Map<string, Visit>();
  const at = { issuer: '' };
  const provider: TestProvider = {
    get issuer() {
      return at.issuer;
    },
    person: { sub: 'ann' },
    wrong: {},
    sign: (claims, { expires = '5m', key = privateKey, kid = 'one' } = {}) =>
      new SignJWT({ iss: at.issuer, aud: audience, ...claims })
        .setProtectedHeader({ alg: 'RS256', kid })
        .setIssuedAt()
        .setExpirationTime(expires)
        .sign(key),
    close: () => new Promise((resolve) => server.close(() => resolve())),
  };

  const token = async (request: IncomingMessage): Promise<[number, object]> => {
    const form = new URLSearchParams(await textOf(request));
    const visit = visits.get(form.get('code') ?? '');
    visits.delete(form.get('code') ?? '');
    const proof = createHash('sha256')
      .update(form.get('code_verifier') ?? '')
      .digest('base64url');
    if (visit?.challenge !== proof || visit.redirect !== form.get('redirect_uri')) {
      return [400, { error: 'invalid_grant' }];
    }
    const id_token = await provider.sign({
      sub: provider.person.sub,
      nonce: visit.nonce,
      ...provider.wrong,
    });
    return [200, { access_token: 'open', token_type: 'Bearer', expires_in: 60, id_token }];
  };

  const server: Server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', at.issuer);
    const send = (status: number, body: object): void => {
      response.writeHead(status, { 'Content-Type': 'application/json' }).end(JSON.stringify(body));
    };
    switch (url.pathname) {
      case '/.well-known/openid-configuration':
        send(200, {
          issuer: at.issuer,
          authorization_endpoint: `${at.issuer}/authorize`,
          token_endpoint: `${at.issuer}/token`,
          userinfo_endpoint: `${at.issuer}/person`,
          jwks_uri: `${at.issuer}/keys`,
          response_types_supported: ['code'],
          id_token_signing_alg_values_supported: ['RS256'],
          subject_types_supported: ['public'],
        });
        return;
      case '/keys':
        send(200, { keys: [jwk] });
        return;
      case '/authorize': {
        const code = String(visits.size + 1);
        const redirect = url.searchParams.get('redirect_uri') ?? '';
        visits.set(code, {
          nonce: url.searchParams.get('nonce'),
          challenge: url.searchParams.get('code_challenge'),
          redirect,
        });
        const back = new URL(redirect);
        back.searchParams.set('code', code);
        back.searchParams.set('state', url.searchParams.get('state') ?? '');
        response.writeHead(303, { Location: back.href }).end();
        return;
      }
      case '/token':
        void token(request).then(([status, body]) => send(status, body));
        return;
      case '/person':
        send(200, provider.person);
        return;
      default:
        send(404, {});
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  at.issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return provider;
}

async function textOf(request: IncomingMessage): Promise<string> {
  let text = '';
  for await (const part of request) text += String(part);
  return text;
}
