/** Who may see what: the catalog as one caller sees it. */
export {
  AccessError,
  rule,
  type Access,
  type ChangeAccess,
  type RowRule,
  type RuleValue,
  type TableAccess,
} from './access.ts';
export { restrict } from './restrict.ts';
