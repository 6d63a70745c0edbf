import { readFile } from 'node:fs/promises';
import {
  createLocalJWKSet,
  createRemoteJWKSet,
  decodeJwt,
  errors,
  jwtVerify,
  type JSONWebKeySet,
  type JWTPayload,
  type JWTVerifyGetKey,
} from 'jose';
import type { WayIn } from '../config/index.ts';
import { namesAt, textAt, type Claims, type Principal } from './principal.ts';
import { SignInUnavailable, SignInRefused } from './refusals.ts';

/** Seconds that the clocks of anyone who signs and of this machine may differ. */
const defaultSkew = 60;
/** The last moment that a Date holds, in ms (ECMA-262, 21.4.1.1). */
const lastMoment = 8.64e15;
const defaultAlgorithms = ['RS256', 'ES256'] as const;

/** Reads who somebody is from tokens that others have signed (RFC 7519), by what the configuration pins. */
export class SignedTokens {
  private readonly ways: readonly { readonly way: WayIn<'jwt'>; readonly key: JWTVerifyGetKey }[];

  constructor(ways: readonly WayIn<'jwt'>[]) {
    this.ways = ways.map((way) => ({ way, key: keysOf(way.keys) }));
  }

  /** @throws SignInRefused for a token that does not count; SignInAway where that is not known */
  async read(token: string): Promise<Principal> {
    const issuer = issuerOf(token);
    const found = this.ways.find(({ way }) => way.issuer === issuer);
    if (found === undefined) {
      throw new SignInRefused('The token is of nobody whose tokens are taken here.');
    }
    const { way, key } = found;
    // A key that is not known may be a new one, which is not read again yet.
    const mayBeNew = 'coolingDown' in key && key.coolingDown === true;
    const payload = await verified(token, key, mayBeNew, {
      issuer: way.issuer,
      audience: way.audience,
      algorithms: [...(way.algorithms ?? defaultAlgorithms)],
      clockTolerance: way.skew ?? defaultSkew,
      requiredClaims: ['exp'],
    });
    return {
      ...callerOf(payload, way),
      by: 'jwt',
      expiresAt: new Date(Math.min(Number(payload.exp) * 1000, lastMoment)),
    };
  }
}

/** Who a set of claims is about, by what the configuration calls them. @throws SignInRefused */
export function callerOf(
  claims: Claims,
  way: Pick<WayIn<'jwt'>, 'name' | 'title' | 'roles' | 'give' | 'prefix'>,
): Pick<Principal, 'name' | 'title' | 'roles' | 'claims'> {
  const { name = 'sub', title = 'name', roles = 'roles', give = [], prefix = '' } = way;
  const found = textAt(claims, name);
  if (found === undefined) {
    throw new SignInRefused(`Nothing says who this is: there is no claim ${name}.`);
  }
  return {
    name: prefix + found,
    title: textAt(claims, title) ?? found,
    roles: [...new Set([...namesAt(claims, roles), ...give])],
    claims,
  };
}

function issuerOf(token: string): string | undefined {
  try {
    return decodeJwt(token).iss;
  } catch {
    throw new SignInRefused('This is no token that is known here.');
  }
}

async function verified(
  token: string,
  key: JWTVerifyGetKey,
  mayBeNew: boolean,
  options: Parameters<typeof jwtVerify>[2],
): Promise<JWTPayload> {
  try {
    return (await jwtVerify(token, key, options)).payload;
  } catch (thrown) {
    if (thrown instanceof errors.JWTExpired) throw new SignInRefused('The token has expired.');
    if (thrown instanceof errors.JWTClaimValidationFailed) {
      throw new SignInRefused(`The token does not hold here: its claim ${thrown.claim} is wrong.`);
    }
    if (mayBeNew && thrown instanceof errors.JWKSNoMatchingKey) throw new SignInUnavailable(thrown);
    // The keys could not be read: nothing is known of the token.
    if (isUnavailable(thrown)) throw new SignInUnavailable(thrown);
    if (thrown instanceof errors.JOSEError) {
      throw new SignInRefused('The signature of the token does not hold.');
    }
    throw thrown;
  }
}

function isUnavailable(thrown: unknown): boolean {
  if (thrown instanceof errors.JWKSTimeout || thrown instanceof errors.JWKSInvalid) return true;
  // Of an answer that is none, jose reports this alone.
  if (thrown instanceof errors.JOSEError) return thrown.code === 'ERR_JOSE_GENERIC';
  // What fetch throws is reported by its name (Fetch standard, 5.6), and a file that is not there by its code.
  const { name, code } = (thrown ?? {}) as { name?: unknown; code?: unknown };
  return name === 'TypeError' || code === 'ENOENT';
}

/** The keys at an address, which are read again where a new one signs; or in a file. */
function keysOf(source: string): JWTVerifyGetKey {
  if (/^https?:\/\//.test(source)) {
    return createRemoteJWKSet(new URL(source), {
      timeoutDuration: 5_000,
      cooldownDuration: 10_000,
    });
  }
  let keys: Promise<JWTVerifyGetKey> | undefined;
  return async (...given) => {
    keys ??= readFile(source, 'utf8').then((text) =>
      createLocalJWKSet(JSON.parse(text) as JSONWebKeySet),
    );
    return (await keys)(...given);
  };
}
