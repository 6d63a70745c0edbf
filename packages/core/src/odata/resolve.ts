import type { Span } from '../expression/index.ts';
import { nearest, problem } from '../problem/index.ts';
import type { Tables } from '../schema/index.ts';
import { entityOf, type EdmNavigation, type EdmProperty, type Entity } from './model.ts';
import type { Segment } from './node.ts';
import { notImplemented, Refusal } from './reader.ts';

/** What a path leads to; `name` is what the query language calls a column there. */
export type Resolved =
  | {
      readonly kind: 'property';
      readonly name: string;
      readonly property: EdmProperty;
      readonly nullable: boolean;
    }
  | {
      readonly kind: 'navigation';
      /** What stands before the names of columns there. */
      readonly prefix: string;
      readonly navigation: EdmNavigation;
      readonly target: Entity;
    };

/** Follows a path of names from an entity along references to one row. @throws Refusal */
export function resolve(
  [first, ...others]: readonly Segment[],
  entity: Entity,
  tables: Tables,
  prefix = '',
): Resolved {
  if (first === undefined) throw notImplemented('a row as a value');
  const property = entity.properties.find(({ name }) => name === first.name);
  if (property !== undefined) {
    const [below] = others;
    if (below !== undefined) throw notImplemented('a part of a value', below.span);
    const { column } = property;
    const nullable = prefix !== '' || column.nullable;
    return { kind: 'property', name: `${prefix}${column.name}`, property, nullable };
  }
  const { navigation, target } = navigationOf(first, entity, tables);
  const path = `${prefix}${navigation.relationship.name}.`;
  if (others.length === 0) return { kind: 'navigation', prefix: path, navigation, target };
  if (navigation.relationship.kind === 'many') {
    throw notImplemented('a path over many rows', others[0]?.span);
  }
  return resolve(others, target, tables, path);
}

/** A navigation of an entity by its name. @throws Refusal */
export function navigationOf(
  { name, span }: Segment,
  entity: Entity,
  tables: Tables,
): { readonly navigation: EdmNavigation; readonly target: Entity } {
  const navigation = entity.navigations.find((one) => one.name === name);
  const target = navigation && entityOf(navigation.target, tables);
  if (navigation !== undefined && target !== undefined) return { navigation, target };
  throw new Refusal(unknownName(name, entity, span));
}

export function unknownName(name: string, entity: Entity, span: Span): Refusal['problem'] {
  const names = [...entity.properties, ...entity.navigations].map((one) => one.name);
  const facts = { name, table: entity.name, near: nearest(name, names) };
  return problem('unknown-column', facts, span);
}
