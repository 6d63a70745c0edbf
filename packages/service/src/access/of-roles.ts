import type { RoleConfiguration, RolesConfiguration } from '../config/index.ts';
import { partsOfRule } from '../config/index.ts';
import {
  ruleOf,
  type Abilities,
  type Access,
  type RowRule,
  type RuleValue,
  type TableAccess,
} from './access.ts';

/** What of a caller the rules of a role may use. */
export interface RoleHolder {
  readonly name: string;
  readonly roles: readonly string[];
  /** A claim by its name; undefined where there is none. */
  readonly claim: (name: string) => unknown;
}

/** What a role gives a caller of a table, or why it gives nothing. */
export interface RoleGrant {
  readonly role: string;
  readonly table: string;
  /** Undefined where the caller lacks what the rule of rows needs. */
  readonly part: TableAccess | undefined;
  /** The claims that are missing. */
  readonly missing: readonly string[];
}

/** What a caller may see and do, and by which of the roles. */
export interface RolesAccess {
  readonly access: Access;
  readonly grants: readonly RoleGrant[];
  /** Roles of the caller that the configuration does not know. */
  readonly unknown: readonly string[];
}

/**
 * What the roles of a caller show and allow together: what none of them names is refused. A value of the caller's
 * that a rule of rows needs and that is missing, null or an empty list takes the table out of that role.
 */
export function accessOfRoles(roles: RolesConfiguration, holder: RoleHolder): RolesAccess {
  const own = holder.roles.filter((name) => Object.hasOwn(roles, name));
  const held = own.flatMap((name) => {
    const role = roles[name];
    return role === undefined ? [] : [{ name, role }];
  });
  const grants = held.flatMap(({ name, role }) => grantsOf(name, role, holder));
  const wholes = held.filter(({ role }) => role.tables === 'all').map(({ role }) => wholeOf(role));
  const tables: Record<string, TableAccess[]> = {};
  for (const { table, part } of grants) {
    if (part !== undefined) (tables[table] ??= [...wholes]).push(part);
  }
  const [rest] = [...wholes].sort(
    (one, other) => Number('changes' in one) - Number('changes' in other),
  );
  return {
    access: {
      caller: holder.name,
      tables,
      ...(rest && { rest }),
      may: abilitiesOf(held.map(({ role }) => role)),
    },
    grants,
    unknown: holder.roles.filter((name) => !own.includes(name)),
  };
}

/** A table that a role shows whole. */
function wholeOf({ changes = false }: RoleConfiguration): TableAccess {
  return changes ? {} : { changes: false };
}

function abilitiesOf(roles: readonly RoleConfiguration[]): Required<Abilities> {
  const views = roles.map((role) => role.views);
  return {
    exports: roles.some((role) => role.exports === true),
    explanations: roles.some((role) => role.explanations === true),
    views: views.includes(true) || (views.includes('open') ? 'open' : false),
    metrics: roles.some((role) => role.metrics === true),
  };
}

function grantsOf(
  role: string,
  configuration: RoleConfiguration,
  holder: RoleHolder,
): readonly RoleGrant[] {
  const { tables } = configuration;
  if (typeof tables === 'string') return [];
  return Object.entries(tables).flatMap(([table, given]): RoleGrant[] => {
    if (given === false) return [];
    if (given === true) return [{ role, table, part: wholeOf(configuration), missing: [] }];
    const { rows, columns, hidden, changes } = given;
    const { rule, missing } = rows === undefined ? noRule : filled(rows, holder);
    if (missing.length > 0) return [{ role, table, part: undefined, missing }];
    const part: TableAccess = {
      ...(rule && { rows: rule }),
      ...(columns && { columns }),
      ...(hidden && { hidden }),
      ...(changes === true
        ? {}
        : { changes: changes === undefined ? false : describeRights(changes) }),
    };
    return [{ role, table, part, missing }];
  });
}

/** Without what is not stated. */
function describeRights(changes: {
  readonly add?: boolean | undefined;
  readonly change?: boolean | readonly string[] | undefined;
  readonly remove?: boolean | undefined;
}): Exclude<TableAccess['changes'], false | undefined> {
  const { add = false, change = false, remove = false } = changes;
  return { add, change, remove };
}

const noRule = { rule: undefined, missing: [] };

function filled(
  rows: string,
  { name, claim }: RoleHolder,
): { readonly rule: RowRule | undefined; readonly missing: readonly string[] } {
  const { texts, names } = partsOfRule(rows);
  const values = names.map((one) =>
    one === 'caller' ? name : usable(claim(one.slice('claims.'.length))),
  );
  const missing = names.filter((_one, index) => values[index] === undefined);
  const given = values.filter((value) => value !== undefined);
  return missing.length > 0
    ? { rule: undefined, missing }
    : { rule: ruleOf(texts, given), missing };
}

/** A claim as a value of a rule: numbers as texts, which a column of either type compares with. */
function usable(value: unknown): RuleValue | undefined {
  if (Array.isArray(value)) {
    const all = value.map(usable);
    return all.length === 0 || all.includes(undefined) || all.some(Array.isArray)
      ? undefined
      : all.filter((one) => one !== undefined);
  }
  if (typeof value === 'number') return Number.isFinite(value) ? String(value) : undefined;
  return typeof value === 'string' || typeof value === 'boolean' ? value : undefined;
}
