import type { IncomingMessage } from 'node:http';
import type { Request } from 'express';
import type { Access } from '../access/index.ts';
import { canonicalAddress, networks, type Configuration } from '../config/index.ts';
import { accessOfPrincipal, remoteAddressOf, type SignIn } from '../sign-in/index.ts';
import { isOfOwnPage, isSafe } from './own-origin.ts';
import { foreignPage } from './refusals.ts';

/**
 * What anyone who is signed in may see. What a browser sends by itself, its cookies and what a proxy adds, counts for
 * a request that may change something from a page of the service alone.
 */
export function accessBySignIn(
  signIn: SignIn,
  { roles, address }: Configuration,
): (request: Request) => Promise<Access | undefined> {
  return async (request) => {
    const principal = await signIn.identify(request);
    if (principal === undefined) return undefined;
    const byItself = principal.by === 'session' || principal.by === 'proxy';
    if (byItself && !isSafe(request) && isOfOwnPage(request, address) !== true) {
      throw foreignPage();
    }
    return accessOfPrincipal(principal, roles);
  };
}

/**
 * The address that a request comes from: what trusted proxies say, from the last one on (X-Forwarded-For), in its one
 * spelling. What is no address ends the way: nobody knows who has written what stands before it.
 */
export function addressBehind(proxies: readonly string[]): (request: IncomingMessage) => string {
  const isTrusted = networks(proxies);
  return (request) => {
    const { headers } = request;
    const remoteAddress = remoteAddressOf(request) ?? '';
    let address = canonicalAddress(remoteAddress) ?? remoteAddress;
    const forwarded = String(headers['x-forwarded-for'] ?? '').split(',');
    for (const text of forwarded.reverse()) {
      const before = isTrusted(address) ? canonicalAddress(text) : undefined;
      if (before === undefined) break;
      address = before;
    }
    return address;
  };
}
