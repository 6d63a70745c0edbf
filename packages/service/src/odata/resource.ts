import { valueAs } from '@ephoros/core/check';
import { and, call, compare, property, type Expression } from '@ephoros/core/expression';
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
import { Refused } from '../query/index.ts';

/** A row, by what holds for it alone. */
export interface Row {
  readonly entity: Entity;
  readonly condition?: Expression;
}

/** What an address of the OData service leads to. */
export type Resource = { readonly kind: 'service' | 'metadata' } | Found;

/** Something of a table. */
type Found = (
  | {
      /** All rows of a table, or those that refer to a row; their number; one row. */
      readonly kind: 'collection' | 'count' | 'entity';
    }
  | {
      /** A value of a row, in JSON or as it is. */
      readonly kind: 'property' | 'rawValue';
      readonly property: Entity['properties'][number];
    }
) & {
  readonly entity: Entity;
  readonly condition?: Expression;
  /** What the context says of it (Protocol 4.01, 10). */
  readonly context: string;
  /** The row that the way begins at. */
  readonly from?: Row;
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
  const condition = conditionOf(keyParts(first.key, entity));
  return ofRow(entity, condition, first.key, others, catalog);
}

/** A collection, or its number. */
function ofSet(
  entity: Entity,
  [next, ...others]: readonly AddressPart[],
  condition: Expression | undefined,
  context: string,
): Found | undefined {
  const about = { entity, ...(condition && { condition }), context };
  if (next === undefined) return { kind: 'collection', ...about };
  if (next.name === '$count' && others.length === 0) return { kind: 'count', ...about };
  return next.name === '$query' && others.length === 0
    ? { kind: 'collection', ...about }
    : undefined;
}

function ofRow(
  entity: Entity,
  condition: Expression | undefined,
  key: ReadonlyMap<string, string> | undefined,
  [next, ...others]: readonly AddressPart[],
  catalog: Catalog,
): Found | undefined {
  const about = { entity, ...(condition && { condition }) };
  if (next === undefined) return { kind: 'entity', ...about, context: `${entity.name}/$entity` };
  const property = entity.properties.find(({ name }) => name === next.name);
  if (property !== undefined && next.key === undefined) {
    const context = `${entity.name}/${property.name}`;
    const [raw, ...rest] = others;
    if (raw === undefined) return { kind: 'property', ...about, property, context };
    const isRaw = raw.name === '$value' && rest.length === 0;
    return isRaw ? { kind: 'rawValue', ...about, property, context } : undefined;
  }
  const navigation = entity.navigations.find(({ name }) => name === next.name);
  const target = navigation && entityOf(navigation.target, catalog.describe);
  if (navigation === undefined || target === undefined || next.key !== undefined) return undefined;
  if (key === undefined) {
    throw new Refused(inPath([problem('not-implemented', { what: 'a path over several rows' })]));
  }
  const there = referring(navigation.relationship, entity, target, key);
  const found =
    navigation.relationship.kind === 'many'
      ? ofSet(target, others, there, target.name)
      : ofRow(target, there, undefined, others, catalog);
  return found && { ...found, from: about };
}

/** Rows on the other side of a foreign key from the row with this key. */
function referring(
  { name, kind, columns, references }: Entity['navigations'][number]['relationship'],
  entity: Entity,
  target: Entity,
  key: ReadonlyMap<string, string>,
): Expression | undefined {
  const { table } = entity;
  const parts = keyParts(key, entity);
  // By the key itself where the foreign key leads to it; else back along the same foreign key.
  const direct = columns.map((column) => parts.find((part) => part.name === column));
  if (kind === 'many' && direct.every((part) => part !== undefined)) {
    return and(
      direct.map((part, at) => compare(property(references[at] ?? ''), '=', part.literal)),
    );
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
  const prefix = kind === 'one' ? '' : `${back.name}.`;
  const own = conditionOf(parts, prefix);
  return kind === 'one' && own !== undefined ? call('has', property(back.name), own) : own;
}

/** A part of a key: its column in the database, and its value. */
interface KeyPart {
  readonly name: string;
  readonly literal: Expression;
}

function conditionOf(parts: readonly KeyPart[], prefix = ''): Expression | undefined {
  return and(parts.map(({ name, literal }) => compare(property(prefix + name), '=', literal)));
}

/** The parts of a key in the order of its columns. @throws Refused */
function keyParts(
  key: ReadonlyMap<string, string>,
  { table, properties }: Entity,
): readonly KeyPart[] {
  const parts = table.key.flatMap((column): readonly KeyPart[] => {
    const own = properties.find((one) => one.column.name === column);
    const value =
      key.get(own?.name ?? column) ?? (table.key.length === 1 ? key.get('') : undefined);
    if (own === undefined || value === undefined) return [];
    const isTruth = own.type.name === 'Edm.Boolean' && (value === 'true' || value === 'false');
    const span = { start: 0, end: 0 };
    const literal = isTruth
      ? { kind: 'boolean' as const, value: value === 'true', span }
      : { kind: 'text' as const, value, span };
    const read = valueAs(literal, own.column.type);
    if ('problem' in read) throw new Refused(inPath([read.problem]));
    return [{ name: column, literal }];
  });
  if (parts.length === table.key.length && key.size === table.key.length) return parts;
  const facts = { expected: table.key.join(', '), found: key.size };
  throw new Refused(inPath([problem('malformed-key', facts)]));
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
