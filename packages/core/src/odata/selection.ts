import type { Tables } from '../schema/index.ts';
import { problem } from '../problem/index.ts';
import type { EdmNavigation, EdmProperty, Entity } from './model.ts';
import { notImplemented, Refusal, TokenReader } from './reader.ts';
import { navigationOf, unknownName } from './resolve.ts';

/** What of a row is answered: columns, and rows that it refers to. */
export interface Selection {
  readonly entity: Entity;
  readonly properties: readonly EdmProperty[];
  readonly expanded: readonly Expanded[];
  /** Whether the columns were named. */
  readonly isNamed: boolean;
}

/** A row that another one refers to, as a part of it. */
export interface Expanded extends Selection {
  readonly navigation: EdmNavigation;
}

type Selected = Pick<Selection, 'properties' | 'isNamed'>;

/** Rows that one question may expand, one in another. */
const mostExpanded = 8;

/** `$select`: names by commas, `*` for all columns. @throws Refusal */
export function parseSelect(text: string, entity: Entity): Selected {
  const reader = new TokenReader(text);
  const selected = readSelect(reader, entity);
  reader.end();
  return selected;
}

/** `$expand`: references by commas, each with options in parentheses. @throws Refusal */
export function parseExpand(text: string, entity: Entity, tables: Tables): readonly Expanded[] {
  const reader = new TokenReader(text);
  const expanded = readExpand(reader, entity, tables, 1);
  reader.end();
  return expanded;
}

/** All columns of an entity. */
export function wholeOf({ properties }: Entity): Selected {
  return { properties, isNamed: false };
}

function readSelect(reader: TokenReader, entity: Entity): Selected {
  const wanted = new Set<EdmProperty>();
  let isWhole = false;
  do {
    if (reader.take('*')) {
      isWhole = true;
      continue;
    }
    const { value, span } = reader.word('the name of a property');
    if (reader.is('/')) throw notImplemented('a path in $select', reader.peek().span);
    if (reader.is('(')) throw notImplemented('options in $select', reader.peek().span);
    const property = entity.properties.find(({ name }) => name === value);
    if (property !== undefined) wanted.add(property);
    // A reference that is named alone is a link, which is not sent here.
    else if (!entity.navigations.some(({ name }) => name === value)) {
      throw new Refusal(unknownName(value, entity, span));
    }
  } while (reader.take(','));
  const properties = isWhole
    ? entity.properties
    : entity.properties.filter((one) => wanted.has(one));
  return { properties, isNamed: !isWhole };
}

function readExpand(
  reader: TokenReader,
  entity: Entity,
  tables: Tables,
  level: number,
): readonly Expanded[] {
  const expanded = new Map<string, Expanded>();
  do {
    const { span } = reader.peek();
    if (reader.take('*')) {
      for (const { name, relationship } of entity.navigations) {
        if (relationship.kind === 'many' || expanded.has(name)) continue;
        const { navigation, target } = navigationOf({ name, span }, entity, tables);
        const whole = { navigation, entity: target, ...wholeOf(target), expanded: [] };
        expanded.set(name, whole);
      }
      continue;
    }
    const { value: name } = reader.word('the name of a reference');
    if (reader.is('/')) throw notImplemented('a path in $expand', reader.peek().span);
    if (expanded.has(name)) throw new Refusal(problem('repeated-term', { name }, span));
    const { navigation, target } = navigationOf({ name, span }, entity, tables);
    if (navigation.relationship.kind === 'many') {
      throw notImplemented('$expand of many rows', span);
    }
    if (level > mostExpanded)
      throw new Refusal(problem('nested-too-deep', { most: mostExpanded }, span));
    expanded.set(name, { navigation, ...readOptions(reader, target, tables, level) });
  } while (reader.take(','));
  return [...expanded.values()];
}

// options = [ "(" option { ";" option } ")" ]; option = ( "$select" | "$expand" ) "=" …
function readOptions(
  reader: TokenReader,
  entity: Entity,
  tables: Tables,
  level: number,
): Selection {
  let selected = wholeOf(entity);
  let expanded: readonly Expanded[] = [];
  if (reader.take('(')) {
    do {
      const { value, span } = reader.word('$select or $expand');
      const name = value.replace(/^\$/, '').toLowerCase();
      if (name !== 'select' && name !== 'expand') throw notImplemented(`${value} in $expand`, span);
      reader.expect('=');
      if (name === 'select') selected = readSelect(reader, entity);
      else expanded = readExpand(reader, entity, tables, level + 1);
    } while (reader.take(';'));
    reader.expect(')');
  }
  return { entity, ...selected, expanded };
}
