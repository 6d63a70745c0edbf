import type { CheckedQuery } from '@ephoros/core/check';
import {
  compileIndex,
  compileIndexFacts,
  compilePlan,
  compileRows,
  indexSize,
  readPlan,
  serves,
  wantedIndexes,
  type ExistingIndex,
  type Statement,
  type WantedIndex,
} from '@ephoros/core/sql';
import type { AdviceAnswer } from '@ephoros/core/answer';
import { z } from 'zod';
import type { Engine } from './engine.ts';
import type { RequestContext } from './request-context.ts';

type Advice = AdviceAnswer['advice'][number];

const facts = z.object({
  kind: z.string(),
  rows: z.number(),
  trigrams: z.boolean(),
  hypothetical: z.string().nullable(),
  widths: z.record(z.string(), z.number()),
  indexes: z.array(
    z.object({
      name: z.string(),
      method: z.string(),
      plain: z.boolean(),
      trigrams: z.boolean(),
      columns: z.array(
        z.object({ name: z.string(), descending: z.boolean(), nullsFirst: z.boolean() }),
      ),
    }),
  ),
});

type Facts = z.output<typeof facts>;

const partitioned = 'p';
/** Relations that have indexes: tables, partitioned ones, materialised views. */
const indexable: ReadonlySet<string> = new Set(['r', partitioned, 'm']);

/** Which indexes a question about rows would want, and which of them there are. @throws Failure */
export async function adviseOn(
  query: CheckedQuery,
  engine: Pick<Engine, 'database'>,
  context: RequestContext,
): Promise<AdviceAnswer> {
  const { catalog } = context;
  const found = new Map<string, Facts>();
  const advice: Advice[] = [];
  const statement = compileRows(query, catalog.locate);
  for (const wanted of wantedIndexes(query)) {
    const known = found.get(wanted.table) ?? (await factsOf(wanted.table, engine, context));
    found.set(wanted.table, known);
    if (!indexable.has(known.kind)) continue;
    advice.push(await adviceOf(wanted, known, statement, engine, context));
  }
  return { table: query.table.name, advice };
}

async function factsOf(
  table: string,
  { database }: Pick<Engine, 'database'>,
  { catalog, signal }: RequestContext,
): Promise<Facts> {
  const statement = compileIndexFacts(catalog.locate(table));
  const { rows } = await database.run(statement, { signal, table });
  return facts.parse(JSON.parse(rows[0]?.[0] ?? '{}'));
}

async function adviceOf(
  wanted: WantedIndex,
  known: Facts,
  statement: Statement,
  { database }: Pick<Engine, 'database'>,
  { catalog, signal }: RequestContext,
): Promise<Advice> {
  const { kind, table, columns, equal } = wanted;
  const serving = known.indexes.find((one: ExistingIndex) => serves(one, wanted));
  const concurrently = known.kind !== partitioned;
  const text = compileIndex(wanted, catalog.locate, concurrently);
  const needed = kind === 'trigrams' && !known.trigrams;
  const names = columns.map(({ name }) => name);
  const planned = async (
    before: readonly Statement[],
    after: readonly Statement[],
  ): Promise<number | undefined> => {
    const all = [...before, compilePlan(statement), ...after];
    const answers = await database.together(all, { signal, table });
    return readPlan(answers[before.length]?.rows[0]?.[0])?.['Total Cost'];
  };
  const costs = async (): Promise<Advice['cost']> => {
    const without = await planned([], []);
    const schema = known.hypothetical;
    if (without === undefined) return undefined;
    if (schema === null || serving !== undefined || kind !== 'ordered') return { without };
    const { begin, end } = supposed(schema, compileIndex(wanted, catalog.locate, false));
    const cost = await planned(begin, [end]);
    return { without, ...(cost === undefined ? {} : { with: cost }) };
  };
  const cost = await costs();
  return {
    kind,
    table,
    statement: needed ? `create extension if not exists pg_trgm; ${text}` : text,
    equal: names.slice(0, equal),
    columns: names,
    served: serving?.name ?? null,
    size: indexSize(wanted, known.rows, known.widths),
    ...(cost === undefined ? {} : { cost }),
  };
}

/** An index that is there for the planner of one session alone, until what was supposed is dropped. */
function supposed(
  schema: string,
  index: string,
): { readonly begin: readonly Statement[]; readonly end: Statement } {
  const of = `"${schema.replaceAll('"', '""')}"`;
  const end = { text: `select ${of}.hypopg_reset()::text`, parameters: [] };
  const make = {
    text: `select indexrelid::text from ${of}.hypopg_create_index($1)`,
    parameters: [index],
  };
  // What a question that broke off has left is dropped first.
  return { begin: [end, make], end };
}
