import { createHash } from 'node:crypto';
import {
  catalogMarkStatement,
  encodingStatement,
  grantsStatement,
  relationsStatement,
  roleStatement,
  typesStatement,
} from '@ephoros/core/sql';
import type { Database } from '../run/index.ts';
import type { ConfigurationFile } from '../config/index.ts';
import { z } from 'zod';
import { publish, type Catalog } from './publish.ts';
import { grantRow, relationRow } from './relation.ts';
import { typeRow } from './types.ts';

/** The documents that a statement gives on a connection that may write; undefined while that fails. */
type Rows = (statement: string) => Promise<readonly string[] | undefined>;

/**
 * Reads the database's catalog and publishes what the role may read, as the configuration says.
 * @throws ConfigurationError where the configuration names what is not there
 */
export async function readCatalog(
  database: Database,
  file: ConfigurationFile,
  changes?: Rows,
): Promise<Catalog> {
  // One after the other: a reading needs no more than one connection.
  const relations = await documents(database, relationsStatement, relationRow);
  const types = await documents(database, typesStatement, typeRow);
  const [encoding = 'UTF8'] = await documents(database, encodingStatement, z.string());
  const granted = (await changes?.(grantsStatement))?.map((text) =>
    grantRow.parse(JSON.parse(text)),
  );
  const isWritableKnown = changes === undefined || granted !== undefined;
  const known = new Map(types.map((type) => [type.id, type]));
  const all = JSON.stringify([relations, types, encoding, granted, isWritableKnown]);
  const fingerprint = createHash('sha256').update(all).digest('base64url');
  const facts = { unicode: encoding === 'UTF8', fingerprint, isWritableKnown };
  return publish(relations, known, facts, file, granted);
}

/** A text that is another one after the database's catalog has changed. @throws Failure */
export async function readCatalogMark(database: Database): Promise<string> {
  const [mark = ''] = await documents(database, catalogMarkStatement, z.string());
  return mark;
}

/** Ms that a reading of the catalog may take, which takes seconds for thousands of tables. */
const timeLimit = 60_000;

const roleRow = z.object({
  name: z.string(),
  superuser: z.boolean(),
  /** How many tables it may write to. */
  writes: z.number(),
});

export type RoleRow = z.infer<typeof roleRow>;

/** What the role that the service has could do beyond reading. @throws Failure */
export async function readRole(database: Database): Promise<RoleRow> {
  const [role] = await documents(database, roleStatement, roleRow);
  if (role === undefined) throw new Error('a session has a role');
  return role;
}

async function documents<Row>(
  database: Database,
  text: string,
  row: z.ZodType<Row>,
): Promise<Row[]> {
  const read: Row[] = [];
  // As they come: of many tables they would be too much for one answer.
  const take = ([document]: readonly (string | null)[]): void => {
    read.push(row.parse(JSON.parse(document ?? 'null')));
  };
  await database.stream({ text, parameters: [] }, take, { timeLimit });
  return read;
}
