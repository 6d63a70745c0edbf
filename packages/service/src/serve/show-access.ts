import {
  accessOfRoles,
  checkRoles,
  shownOf,
  type Abilities,
  type RoleGrant,
  type Shown,
} from '../access/index.ts';
import { configurationOf } from '../config/index.ts';
import { Engine, type EngineOptions } from '../engine/index.ts';
import { Tokens } from '../records/index.ts';
import { claimsOf } from '../sign-in/index.ts';

/** A caller that there need not be. */
export interface SupposedCaller {
  /** Of a token that was given out, whose roles and claims count where none are given here. */
  readonly name: string;
  readonly roles?: readonly string[] | undefined;
  readonly claims?: Readonly<Record<string, unknown>> | undefined;
}

/** What somebody sees of one table, and by what. */
export interface ShownTable {
  readonly table: string;
  /** Conditions of which a row meets one to be visible; undefined for all rows. */
  readonly rows: readonly string[] | undefined;
  readonly columns: readonly string[];
  readonly hidden: readonly string[];
  /** Columns that are null but in rows that meet one of the conditions. */
  readonly partly: Readonly<Record<string, readonly string[]>>;
  readonly changes: readonly (Exclude<Shown['changes'], false> & {
    readonly rows: readonly string[] | undefined;
  })[];
  /** Roles that show something of it. */
  readonly by: readonly string[];
}

/** What somebody sees and may do, and why. */
export interface ShownAccess {
  readonly caller: string;
  readonly roles: readonly string[];
  /** Roles that the configuration does not know. */
  readonly unknownRoles: readonly string[];
  readonly may: Abilities;
  readonly tables: readonly ShownTable[];
  /** Tables that are not shown, and why. */
  readonly others: readonly { readonly table: string; readonly why: string }[];
}

/**
 * What a caller with these roles and claims would see; undefined where nothing says which roles somebody has.
 * @throws ConfigurationError, AccessError, RecordsError, Failure
 */
export async function showAccess(
  options: EngineOptions,
  supposed: SupposedCaller,
): Promise<ShownAccess | undefined> {
  const engine = new Engine({ ...options, connections: 3 });
  try {
    const catalog = await engine.ready();
    const file = configurationOf(options.configuration ?? {});
    checkRoles(catalog, file);
    const { roles: known, signIn = [] } = file.configuration;
    const token =
      supposed.roles === undefined && engine.records !== undefined
        ? (await new Tokens(engine.records).list()).find(({ name }) => name === supposed.name)
        : undefined;
    const own = supposed.roles ?? token?.roles;
    if (own === undefined) return undefined;
    const claims = supposed.claims ?? token?.claims ?? {};
    const given = token === undefined ? [] : signIn.filter(({ kind }) => kind === 'tokens');
    const roles = [...new Set([...own, ...given.flatMap(({ give = [] }) => give)])];
    const holder = { name: supposed.name, roles, claim: claimsOf({ claims }) };
    const { access, grants, unknown } =
      known === undefined
        ? { access: { tables: 'all' as const }, grants: [], unknown: roles }
        : accessOfRoles(known, holder);
    const shown = shownOf(catalog, access);
    const wholes = roles.filter((role) => known?.[role]?.tables === 'all');
    const tables = [...catalog.tables.keys()].flatMap((table): ShownTable[] => {
      const sum = shown.get(table);
      if (sum === undefined) return [];
      const { shown: observed, altering } = sum;
      const columns = catalog.describe(table)?.columns.map(({ name }) => name) ?? [];
      const by = grants.filter((one) => one.table === table && one.part !== undefined);
      return [
        {
          table,
          rows: observed.rows,
          columns: columns.filter((name) => observed.columns.has(name)),
          hidden: columns.filter((name) => !observed.columns.has(name)),
          partly: Object.fromEntries(observed.cells),
          changes: altering.flatMap(({ changes, rows }) =>
            changes === false ? [] : [{ ...changes, rows }],
          ),
          by: known === undefined ? [] : [...new Set([...wholes, ...by.map(({ role }) => role)])],
        },
      ];
    });
    return {
      caller: supposed.name,
      roles,
      unknownRoles: known === undefined ? [] : unknown,
      may: 'may' in access ? (access.may ?? {}) : {},
      tables,
      others: [...catalog.tables.keys()]
        .filter((table) => !shown.has(table))
        .map((table) => ({ table, why: whyNot(table, grants) })),
    };
  } finally {
    await engine.close();
  }
}

function whyNot(table: string, grants: readonly RoleGrant[]): string {
  const missing = grants.filter((one) => one.table === table && one.missing.length > 0);
  if (missing.length === 0) return 'no role names it';
  return missing.map(({ role, missing: names }) => `${role} needs ${names.join(', ')}`).join('; ');
}
