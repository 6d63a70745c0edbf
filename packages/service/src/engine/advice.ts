import type { CheckedQuery } from '@ephoros/core/check';
import {
  compileIndex,
  compileIndexFacts,
  compilePlan,
  compileRows,
  compileSupposed,
  indexSize,
  readPlan,
  serves,
  stepsOf,
  trigramsExtension,
  wantedIndexes,
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
  const statement = compilePlan(compileRows(query, catalog.locate));
  const { rows } = await engine.database.run(statement, { signal: context.signal });
  const plan = readPlan(rows[0]?.[0]);
  const without = plan?.['Total Cost'];
  const taken = new Set(
    plan === undefined ? [] : stepsOf(plan).flatMap(({ node }) => node['Index Name'] ?? []),
  );
  for (const wanted of wantedIndexes(query)) {
    const known = found.get(wanted.table) ?? (await factsOf(wanted.table, engine, context));
    found.set(wanted.table, known);
    if (!indexable.has(known.kind)) continue;
    const one = adviceOf(wanted, known, taken, context);
    const supposed =
      one.served === null
        ? await supposedCost(wanted, known, statement, engine, context)
        : undefined;
    const cost =
      without === undefined
        ? {}
        : { cost: { without, ...(supposed !== undefined && { with: supposed }) } };
    advice.push({ ...one, ...cost });
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

function adviceOf(
  wanted: WantedIndex,
  known: Facts,
  taken: ReadonlySet<string>,
  { catalog }: RequestContext,
): Advice {
  const { kind, table, columns, equal } = wanted;
  const text = compileIndex(wanted, catalog.locate, known.kind !== partitioned);
  const needed = kind === 'trigrams' && !known.trigrams;
  const names = columns.map(({ name }) => name);
  const serving = known.indexes.find(
    (one) =>
      serves(one, wanted) ||
      // Whether one is of these words, the plan alone reports.
      (kind === 'words' && one.method === 'gin' && taken.has(one.name)),
  );
  return {
    kind,
    table,
    statement: needed ? `${trigramsExtension}; ${text}` : text,
    equal: names.slice(0, equal),
    columns: names,
    served: serving?.name ?? null,
    size: indexSize(wanted, known.rows, known.widths),
  };
}

/** The planner's cost with the index; undefined where it cannot suppose one. */
async function supposedCost(
  wanted: WantedIndex,
  { hypothetical }: Facts,
  plan: Statement,
  { database }: Pick<Engine, 'database'>,
  { catalog, signal }: RequestContext,
): Promise<number | undefined> {
  // What hypopg supposes are B-trees, and no indexes of parts of texts.
  if (hypothetical === null || wanted.kind !== 'ordered') return undefined;
  const { begin, end } = compileSupposed(hypothetical, wanted, catalog.locate);
  const options = { signal, table: wanted.table };
  const answers = await database.together([...begin, plan, end], options);
  return readPlan(answers[begin.length]?.rows[0]?.[0])?.['Total Cost'];
}
