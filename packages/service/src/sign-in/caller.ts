import { accessOfRoles, type Access } from '../access/index.ts';
import type { RolesConfiguration } from '../config/index.ts';
import type { Principal } from './principal.ts';
import { claimsOf } from './sign-in.ts';

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
