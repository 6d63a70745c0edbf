import type { Pool } from 'pg';
import type { z } from 'zod';
import type { ConfigurationFile } from '../config/index.ts';
import { relationsStatement, typesStatement } from './statements.ts';
import { publish, type Catalog } from './publish.ts';
import { relationRow } from './relation.ts';
import { typeRow } from './types.ts';

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
