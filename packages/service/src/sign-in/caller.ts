import type { IncomingMessage } from 'node:http';
import { accessOfRoles, type Access } from '../access/index.ts';
import type { RolesConfiguration } from '../config/index.ts';
import type { Principal } from './principal.ts';
import { claimsOf, type SignIn } from './sign-in.ts';

/** What a signed-in caller may see: by the roles, or everything where there are none. */
export function accessOfPrincipal(
  principal: Principal,
  roles: RolesConfiguration | undefined,
): Access {
  const { name, title, expiresAt, by } = principal;
  const about = {
    title,
    roles: principal.roles,
    bySession: by === 'session',
    ...(expiresAt && { expiresAt }),
  };
  if (roles === undefined) return { caller: name, tables: 'all', about };
  const holder = { name, roles: principal.roles, claim: claimsOf(principal) };
  return { ...accessOfRoles(roles, holder).access, about };
}

/**
 * Who sends a request and what they may see; undefined where nobody is known to. `refuse` is asked before anything
 * that a browser would send for a page of others.
 */
export async function accessOfRequest(
  request: IncomingMessage,
  signIn: SignIn,
  roles: RolesConfiguration | undefined,
  refuse: (principal: Principal) => void,
): Promise<Access | undefined> {
  const principal = await signIn.identify(request);
  if (principal === undefined) return undefined;
  refuse(principal);
  return accessOfPrincipal(principal, roles);
}
