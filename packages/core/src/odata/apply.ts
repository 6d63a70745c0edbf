import { and, call, property, type Expression } from '../expression/index.ts';
import { nearest, problem } from '../problem/index.ts';
import type { Tables } from '../schema/index.ts';
import { conditionOf } from './meaning.ts';
import type { EdmProperty, Entity } from './model.ts';
import type { Segment } from './node.ts';
import { readNode } from './parse.ts';
import { notImplemented, Refusal, TokenReader } from './reader.ts';
import { resolve } from './resolve.ts';

/** A column that rows are grouped by: where it stands in the answer, and what the query language calls it. */
export interface AppliedLevel {
  readonly path: readonly string[];
  readonly name: string;
  readonly property: EdmProperty;
}

/** A value made of many rows, by the name that it has in the answer. */
export interface AppliedAggregate {
  readonly alias: string;
  /** A call, whose canonical spelling (`termOf`) names its column. */
  readonly expression: Expression;
}

/** What `$apply` asks for (OData Data Aggregation 4.0). */
export interface Applied {
  readonly filter?: Expression;
  /** Absent where rows are only filtered. */
  readonly made?: {
    readonly levels: readonly AppliedLevel[];
    readonly aggregates: readonly AppliedAggregate[];
  };
}

/** The standard's methods, as the query language calls them. */
const methods: Readonly<Record<string, string>> = {
  sum: 'sum',
  min: 'min',
  max: 'max',
  average: 'avg',
  countdistinct: 'distinct',
};

/** `filter(…)` any number of times, then `groupby(…)` or `aggregate(…)`. @throws Refusal */
export function parseApply(text: string, entity: Entity, tables: Tables): Applied {
  const reader = new TokenReader(text);
  const filters: Expression[] = [];
  let made: Applied['made'];
  do {
    const { value, span } = reader.word('a transformation');
    const name = value.toLowerCase();
    if (made !== undefined) throw notImplemented(`${value} behind groupby or aggregate`, span);
    reader.expect('(');
    if (name === 'filter') filters.push(conditionOf(readNode(reader), entity, tables));
    else if (name === 'aggregate') {
      made = { levels: [], aggregates: aggregatesIn(reader, entity, tables) };
    } else if (name === 'groupby') made = groupingIn(reader, entity, tables);
    else throw notImplemented(`${value} in $apply`, span);
    reader.expect(')');
  } while (reader.take('/'));
  reader.end();
  const filter = and(filters);
  return { ...(filter && { filter }), ...(made && { made }) };
}

// groupby = "(" path { "," path } ")" [ "," "aggregate" "(" … ")" ]
function groupingIn(reader: TokenReader, entity: Entity, tables: Tables): Applied['made'] {
  reader.expect('(');
  const levels: AppliedLevel[] = [];
  do {
    const { span } = reader.peek();
    if (reader.is('rollup')) throw notImplemented('rollup', span);
    const found = columnAt(reader, entity, tables);
    if (levels.some(({ name }) => name === found.name)) {
      throw new Refusal(problem('repeated-term', { name: found.name }, span));
    }
    levels.push(found);
  } while (reader.take(','));
  reader.expect(')');
  if (!reader.take(',')) return { levels, aggregates: [] };
  const { value, span } = reader.word('aggregate');
  if (value.toLowerCase() !== 'aggregate') throw notImplemented(`${value} in groupby`, span);
  reader.expect('(');
  const aggregates = aggregatesIn(reader, entity, tables);
  reader.expect(')');
  return { levels, aggregates };
}

// aggregate = ( "$count" | path "with" method ) "as" alias { "," … }
function aggregatesIn(
  reader: TokenReader,
  entity: Entity,
  tables: Tables,
): readonly AppliedAggregate[] {
  const aggregates: AppliedAggregate[] = [];
  do {
    const { span } = reader.peek();
    const made = reader.take('$count')
      ? { expression: call('count') }
      : methodOf(reader, entity, tables);
    if (reader.is('from')) throw notImplemented('from', reader.peek().span);
    reader.expect('as');
    const { value: alias } = reader.word('a name for the value');
    if (aggregates.some((one) => one.alias === alias)) {
      throw new Refusal(problem('repeated-term', { name: alias }, span));
    }
    aggregates.push({ alias, ...made, expression: { ...made.expression, span } });
  } while (reader.take(','));
  return aggregates;
}

function methodOf(
  reader: TokenReader,
  entity: Entity,
  tables: Tables,
): Pick<AppliedAggregate, 'expression'> {
  const { name } = columnAt(reader, entity, tables);
  reader.expect('with');
  const { value, span } = reader.word('a method');
  const method = Object.hasOwn(methods, value.toLowerCase())
    ? methods[value.toLowerCase()]
    : undefined;
  if (method === undefined) {
    const facts = {
      near: nearest(value, Object.keys(methods)),
      known: Object.keys(methods).join(', '),
    };
    throw new Refusal(problem('unknown-aggregate', facts, span));
  }
  return { expression: call(method, property(name)) };
}

function columnAt(reader: TokenReader, entity: Entity, tables: Tables): AppliedLevel {
  const segments: Segment[] = [];
  do {
    const { value, span } = reader.word('the name of a property');
    segments.push({ name: value, span });
    if (reader.is('(')) throw notImplemented(`${value}()`, span);
  } while (reader.take('/'));
  const { kind } = reader.peek();
  if (kind === 'word' && ['mul', 'add', 'sub', 'div'].some((one) => reader.is(one))) {
    throw notImplemented('an expression in aggregate', reader.peek().span);
  }
  const found = resolve(segments, entity, tables);
  if (found.kind === 'navigation') throw notImplemented('a row as a value', segments.at(-1)?.span);
  return { path: segments.map(({ name }) => name), name: found.name, property: found.property };
}
