/** Who may see what: the catalog as one caller sees it. */
export {
  AccessError,
  ClaimsUnfit,
  rule,
  type Abilities,
  type Access,
  type CallerDetails,
  type ChangeAccess,
  type RowRule,
  type RuleValue,
  type TableAccess,
  type TablePart,
} from './access.ts';
export { restrict, shownOf } from './restrict.ts';
export type { Shown } from './add-up.ts';
export { accessOfRoles, type RoleGrant } from './of-roles.ts';
export { checkRoles } from './check-roles.ts';
