import { nearest } from '@ephoros/core/problem';
import type { Catalog } from '../catalog/index.ts';
import { partsOfRule, type ConfigurationFile } from '../config/index.ts';
import { AccessError, ruleOf, type RuleValue } from './access.ts';
import { restrict } from './restrict.ts';

interface ConfigurationFault {
  readonly path: readonly PropertyKey[];
  readonly message: string;
}

/** Values that stand for a caller's: a rule holds where it holds for one of them. */
const samples: readonly RuleValue[] = [
  '0',
  'a',
  true,
  '2000-01-01',
  '2000-01-01T00:00:00Z',
  'PT1H',
  '00000000-0000-0000-0000-000000000000',
  ['0'],
  ['a'],
];

/** What the roles name that there is not, and rules that do not hold. @throws ConfigurationError */
export function checkRoles(catalog: Catalog, file: ConfigurationFile): void {
  const errors: ConfigurationFault[] = [];
  for (const [role, { tables }] of Object.entries(file.configuration.roles ?? {})) {
    if (typeof tables === 'string') continue;
    for (const [table, given] of Object.entries(tables)) {
      const path = ['roles', role, 'tables', table];
      const columns = catalog.describe(table)?.columns.map(({ name }) => name);
      if (columns === undefined) {
        errors.push({
          path,
          message: `no table is published as ${named(table, catalog.tables.keys())}`,
        });
        continue;
      }
      if (typeof given === 'boolean') continue;
      const { changes, rows } = given;
      const change = typeof changes === 'object' ? changes.change : undefined;
      const lists = {
        columns: given.columns ?? [],
        hidden: given.hidden ?? [],
        changes: typeof change === 'object' ? change : [],
      };
      for (const [setting, names] of Object.entries(lists)) {
        for (const name of names) {
          if (columns.includes(name)) continue;
          const message = `${table} has no column ${named(name, columns)}`;
          errors.push({ path: [...path, setting], message });
        }
      }
      const wrong = rows === undefined ? undefined : errorOf(rows, table, catalog);
      if (wrong !== undefined) errors.push({ path: [...path, 'rows'], message: wrong });
    }
  }
  if (errors.length > 0) throw file.refuse(errors);
}

function errorOf(rows: string, table: string, catalog: Catalog): string | undefined {
  const { texts, names } = partsOfRule(rows);
  let first: string | undefined;
  for (const sample of samples) {
    try {
      const rule = ruleOf(
        texts,
        names.map(() => sample),
      );
      restrict(catalog, { tables: { [table]: { rows: rule } } });
      return undefined;
    } catch (thrown) {
      if (!(thrown instanceof AccessError)) throw thrown;
      first ??= thrown.message;
    }
  }
  return first;
}

function named(name: string, known: Iterable<string>): string {
  const near = nearest(name, known);
  return near === undefined ? name : `${name}; perhaps ${near}`;
}
