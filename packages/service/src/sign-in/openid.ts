import { readFile } from 'node:fs/promises';
import * as client from 'openid-client';
import { isLoopback, type WayIn } from '../config/index.ts';
import { callerOf } from './jwt.ts';
import type { Claims, Principal } from './principal.ts';
import { SignInUnavailable, SignInRefused } from './refusals.ts';

/** What must be remembered until somebody comes back from the provider. */
export interface Begun {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
}

/** Seconds that a provider is waited for. */
const waitLimit = 10;

/** Signing in at an OpenID provider, by code flow with PKCE (OpenID Connect Core 3.1, RFC 7636). */
export class OpenIdWay {
  readonly way: WayIn<'openid'>;
  private found: Promise<client.Configuration> | undefined;

  constructor(way: WayIn<'openid'>) {
    this.way = way;
  }

  /** Where a browser goes to, and what to remember. @throws SignInAway */
  async begin(redirect: string): Promise<{ readonly url: URL; readonly begun: Begun }> {
    const provider = await this.provider();
    const begun = {
      state: client.randomState(),
      nonce: client.randomNonce(),
      verifier: client.randomPKCECodeVerifier(),
    };
    const url = client.buildAuthorizationUrl(provider, {
      redirect_uri: redirect,
      scope: ['openid', ...(this.way.scopes ?? ['profile'])].join(' '),
      state: begun.state,
      nonce: begun.nonce,
      code_challenge: await client.calculatePKCECodeChallenge(begun.verifier),
      code_challenge_method: 'S256',
    });
    return { url, begun };
  }

  /** Who came back, at the address that the browser was sent to. @throws SignInRefused, SignInAway */
  async finish(
    url: URL,
    { state, nonce, verifier }: Begun,
  ): Promise<Pick<Principal, 'name' | 'title' | 'roles' | 'claims'>> {
    const provider = await this.provider();
    const claims = await withFailure(async () => {
      const tokens = await client.authorizationCodeGrant(provider, url, {
        expectedState: state,
        expectedNonce: nonce,
        pkceCodeVerifier: verifier,
        idTokenExpected: true,
      });
      const own: Claims = { ...tokens.claims() };
      // Many providers tell the name and the roles there alone.
      const more =
        provider.serverMetadata().userinfo_endpoint === undefined
          ? {}
          : await client.fetchUserInfo(provider, tokens.access_token, String(own.sub));
      return { ...more, ...own };
    });
    return callerOf(claims, this.way);
  }

  /** Read once; again where that failed. @throws SignInAway */
  private async provider(): Promise<client.Configuration> {
    this.found ??= this.discover();
    try {
      return await this.found;
    } catch (thrown) {
      this.found = undefined;
      throw new SignInUnavailable(thrown);
    }
  }

  private async discover(): Promise<client.Configuration> {
    const { issuer, client: id, secretFile } = this.way;
    const secret =
      secretFile === undefined ? undefined : (await readFile(secretFile, 'utf8')).trim();
    const server = new URL(issuer);
    // Plain HTTP is used only to a provider on this machine.
    const plain = server.protocol === 'http:' && isLoopback(server.hostname);
    return client.discovery(
      server,
      id,
      undefined,
      secret === undefined ? client.None() : client.ClientSecretBasic(secret),
      // eslint-disable-next-line @typescript-eslint/no-deprecated -- the library marks it so that nobody uses it beyond loopback
      { timeout: waitLimit, ...(plain ? { execute: [client.allowInsecureRequests] } : {}) },
    );
  }
}

/** Distinguishes refusals of the provider from its absence. */
async function withFailure<Result>(work: () => Promise<Result>): Promise<Result> {
  try {
    return await work();
  } catch (thrown) {
    const { code } = (thrown ?? {}) as { code?: unknown };
    const isRefusal =
      thrown instanceof client.AuthorizationResponseError ||
      thrown instanceof client.ResponseBodyError ||
      (thrown instanceof client.ClientError && code !== 'OAUTH_TIMEOUT');
    if (!isRefusal) throw new SignInUnavailable(thrown);
    throw new SignInRefused('The provider did not let this sign-in come about. Try once more.');
  }
}
