import type { Pool } from 'pg';
import { z } from 'zod';
import type { ConfigurationFile } from '../config/index.ts';
import { relationsStatement, typesStatement } from './statements.ts';
import { publish, type Published } from './publish.ts';
import { typeRow } from './types.ts';

/** A relation as the database's catalog tells it. */
export const relationRow = z.object({
  schema: z.string(),
  name: z.string(),
  kind: z.string(),
  estimated: z.number().nullable(),
  comment: z.string().nullable(),
  columns: z.array(
    z.object({
      name: z.string(),
      type: z.number(),
      modifier: z.number(),
      nullable: z.boolean(),
      comment: z.string().nullable(),
    }),
  ),
  indexes: z.array(
    z.object({
      primary: z.boolean(),
      unique: z.boolean(),
      usable: z.boolean(),
      // Null where the index holds an expression.
      columns: z.array(z.string().nullable()),
    }),
  ),
});

export type RelationRow = z.infer<typeof relationRow>;

/** The published tables, in the order in which they are listed. */
export interface Catalog {
  readonly title: string;
  readonly tables: ReadonlyMap<string, Published>;
}

/**
 * Reads the database's catalog and publishes what the role may read, as the configuration says.
 * @throws ConfigurationError where the configuration names what is not there
 */
export async function readCatalog(pool: Pool, file: ConfigurationFile): Promise<Catalog> {
  const [relations, types] = await Promise.all([
    documents(pool, relationsStatement, relationRow),
    documents(pool, typesStatement, typeRow),
  ]);
  return publish(relations, new Map(types.map((type) => [type.id, type])), file);
}

async function documents<Row>(pool: Pool, text: string, row: z.ZodType<Row>): Promise<Row[]> {
  const { rows } = await pool.query<[unknown]>({ text, rowMode: 'array' });
  return rows.map(([document]) => row.parse(document));
}
