import { property, type Expression } from '@ephoros/core/expression';
import {
  entityOf,
  optionsOf,
  parseAddress,
  reading,
  type AddressPart,
  type Entity,
} from '@ephoros/core/odata';
import { inParameter, nearest, problem, type Problem } from '@ephoros/core/problem';
import type { Catalog } from '../catalog/index.ts';
import { Refused } from '../question/index.ts';

/** What an address of the OData service leads to. */
export type Resource =
  | { readonly kind: 'service' | 'metadata' }
  | {
      /** All rows of a table, or those that refer to a row; their number; one row. */
      readonly kind: 'collection' | 'count' | 'entity';
      readonly entity: Entity;
      readonly condition?: Expression;
      /** What the context says of it (Protocol 4.01, 10). */
      readonly context: string;
      /** Whether a row that is not there is an empty answer, as that of a reference. */
      readonly isReference?: true;
    }
  | {
      /** A value of a row, in JSON or as it is. */
      readonly kind: 'property' | 'rawValue';
      readonly entity: Entity;
      readonly condition: Expression;
      readonly property: Entity['properties'][number];
      readonly context: string;
    };

/** The published tables that OData's model has, in their order. */
export function entitiesOf({ tables, describe }: Catalog): readonly Entity[] {
  return [...tables.values()].flatMap(({ description }) => entityOf(description, describe) ?? []);
}

/** Where an address leads. @throws Refused, URIError; undefined where nothing is served */
export function resourceAt(path: string, catalog: Catalog): Resource | undefined {
  const problems: Problem[] = [];
  const resource = reading('path', problems, () => follow(parseAddress(path), catalog));
  if (problems.length > 0) throw new Refused(problems);
  return resource;
}

function follow(parts: readonly AddressPart[], catalog: Catalog): Resource | undefined {
  const [first, ...others] = parts;
  if (first === undefined) return { kind: 'service' };
  if (first.name === '$metadata') return others.length === 0 ? { kind: 'metadata' } : undefined;
  if (['$batch', '$all', '$entity'].includes(first.name) || first.name.startsWith('$crossjoin')) {
    throw new Refused(inPath([problem('not-implemented', { what: first.name })]));
  }
  const entities = entitiesOf(catalog);
  const entity = entities.find(({ name }) => name === first.name);
  if (entity === undefined) {
    const near = nearest(
      first.name,
      entities.map(({ name }) => name),
    );
    throw new Refused(inPath([problem('unknown-table', { name: first.name, near })]));
  }
  if (first.key === undefined) return ofSet(entity, others, undefined, entity.name);
  return ofRow(entity, keyCondition(first.key, entity), first.key, others, catalog);
}

/** A collection, or its number. */
function ofSet(
  entity: Entity,
  [next, ...others]: readonly AddressPart[],
  condition: Expression | undefined,
  context: string,
): Resource | undefined {
  const about = { entity, ...(condition && { condition }), context };
  if (next === undefined) return { kind: 'collection', ...about };
  if (next.name === '$count' && others.length === 0) return { kind: 'count', ...about };
  return next.name === '$query' && others.length === 0
    ? { kind: 'collection', ...about }
    : undefined;
}

function ofRow(
  entity: Entity,
  condition: Expression,
  key: ReadonlyMap<string, string> | undefined,
  [next, ...others]: readonly AddressPart[],
  catalog: Catalog,
): Resource | undefined {
  if (next === undefined)
    return { kind: 'entity', entity, condition, context: `${entity.name}/$entity` };
  const property = entity.properties.find(({ name }) => name === next.name);
  if (property !== undefined && next.key === undefined) {
    const context = `${entity.name}/${property.name}`;
    const [raw, ...rest] = others;
    if (raw === undefined) return { kind: 'property', entity, condition, property, context };
    const isRaw = raw.name === '$value' && rest.length === 0;
    return isRaw ? { kind: 'rawValue', entity, condition, property, context } : undefined;
  }
  const navigation = entity.navigations.find(({ name }) => name === next.name);
  const target = navigation && entityOf(navigation.target, catalog.describe);
  if (navigation === undefined || target === undefined || next.key !== undefined) return undefined;
  if (key === undefined) {
    throw new Refused(inPath([problem('not-implemented', { what: 'a path over several rows' })]));
  }
  const there = referring(navigation.relationship, entity, target, key);
  if (navigation.relationship.kind === 'many') return ofSet(target, others, there, target.name);
  const [more] = others;
  if (more === undefined) {
    const context = `${target.name}/$entity`;
    return { kind: 'entity', entity: target, condition: there, context, isReference: true };
  }
  return ofRow(target, there, undefined, others, catalog);
}

/** Rows on the other side of a foreign key from the row with this key. */
function referring(
  { name, kind, columns, references }: Entity['navigations'][number]['relationship'],
  { table, properties }: Entity,
  target: Entity,
  key: ReadonlyMap<string, string>,
): Expression {
  const values = keyValues(key, { table, properties });
  // By the key itself where the foreign key leads to it; else back along the same foreign key.
  const direct = columns.map((column) => values.get(column));
  if (kind === 'many' && direct.every((value) => value !== undefined)) {
    return all(references.map((column, at) => equal(column, direct[at] ?? '')));
  }
  const back = target.table.relationships.find(
    (one) =>
      one.table === table.name &&
      one.kind !== kind &&
      one.columns.join() === references.join() &&
      one.references.join() === columns.join(),
  );
  if (back === undefined) {
    throw new Refused(inPath([problem('not-implemented', { what: `the way ${name} from a row` })]));
  }
  const own = [...values].map(([column, value]) =>
    equal(kind === 'one' ? column : `${back.name}.${column}`, value),
  );
  if (kind === 'many') return all(own);
  return {
    kind: 'call',
    name: 'has',
    args: [property(back.name), all(own)],
    span: { start: 0, end: 0 },
  };
}

function keyCondition(key: ReadonlyMap<string, string>, entity: Entity): Expression {
  return all([...keyValues(key, entity)].map(([column, value]) => equal(column, value)));
}

/** The values of a key by the names of its columns in the database. @throws Refused */
function keyValues(
  key: ReadonlyMap<string, string>,
  { table, properties }: Pick<Entity, 'table' | 'properties'>,
): ReadonlyMap<string, string> {
  const values = table.key.map((column): readonly [string, string | undefined] => {
    const name = properties.find((one) => one.column.name === column)?.name ?? column;
    return [column, key.get(name) ?? (table.key.length === 1 ? key.get('') : undefined)];
  });
  const sound = values.filter((pair): pair is [string, string] => pair[1] !== undefined);
  if (sound.length === table.key.length && key.size === table.key.length) return new Map(sound);
  const facts = { expected: table.key.join(', '), found: key.size };
  throw new Refused(inPath([problem('malformed-key', facts)]));
}

function equal(column: string, value: string): Expression {
  const span = { start: 0, end: 0 };
  const isTruth = value === 'true' || value === 'false';
  const right: Expression = isTruth
    ? { kind: 'boolean', value: value === 'true', span }
    : { kind: 'text', value, span };
  return { kind: 'comparison', comparator: '=', left: property(column), right, span };
}

function all(conditions: readonly Expression[]): Expression {
  const [only] = conditions;
  return conditions.length === 1 && only !== undefined
    ? only
    : { kind: 'and', operands: conditions, span: { start: 0, end: 0 } };
}

function inPath(problems: readonly Problem[]): Problem[] {
  return inParameter('path', problems);
}

/** The options that a resource takes. */
export function optionsAt({ kind }: Resource): readonly (typeof optionsOf.collection)[number][] {
  switch (kind) {
    case 'collection':
    case 'entity':
    case 'count':
      return optionsOf[kind];
    case 'property':
    case 'rawValue':
      return optionsOf.value;
    case 'service':
    case 'metadata':
      return optionsOf.document;
    default:
      throw new Error(`unknown resource ${JSON.stringify(kind satisfies never)}`);
  }
}
