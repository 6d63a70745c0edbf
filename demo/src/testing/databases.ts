import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';

export interface TestDatabases {
  /** The demo's data, to be read only. */
  readonly lowmere: string;
  readonly maintenance: string;
  /** Rows of `passages`. */
  readonly passages: number;
}

export const testFolder = join(process.cwd(), '.ephoros', 'test');
export const urlsFile = 'databases.json';

/** Where the tests' databases are; the tests' global set-up wrote it down. */
export function testDatabases(): TestDatabases {
  return JSON.parse(readFileSync(join(testFolder, urlsFile), 'utf8')) as TestDatabases;
}

/** A database of a test's own, made from statements; `drop` removes it. */
export async function freshDatabase(
  name: string,
  statements: readonly string[],
): Promise<{ url: string; drop: () => Promise<void> }> {
  const { maintenance } = testDatabases();
  const url = maintenance.replace(/postgres$/, name);
  await perform(maintenance, [
    `drop database if exists "${name}" with (force)`,
    `create database "${name}"`,
  ]);
  await perform(url, statements);
  return { url, drop: () => perform(maintenance, [`drop database "${name}" with (force)`]) };
}

/** Runs statements, one after the other, on a connection of their own. */
export async function perform(url: string, statements: readonly string[]): Promise<void> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    for (const statement of statements) await client.query(statement);
  } finally {
    await client.end();
  }
}
