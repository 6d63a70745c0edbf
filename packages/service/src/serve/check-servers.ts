import { serverFacts } from '@ephoros/core/sql';
import pg from 'pg';
import { connectionOf } from '../run/index.ts';
import { findNeeds } from './check-engine.ts';
import { reasonOf, type CheckedSetup, type Say } from './checked-setup.ts';

/** The oldest PostgreSQL that it is tested with. */
const oldestTested = 15;
/** Ms that a server is waited for. */
const waitLimit = 5_000;

interface Facts {
  readonly version: string;
  readonly encoding: string;
  readonly most: number;
  readonly role_most: number;
  readonly database_most: number;
  readonly behind: boolean;
  readonly read_only: boolean;
  readonly bypasses_row_security: boolean;
  readonly temp_limit: string | null;
  readonly process: number;
  readonly name: string;
  readonly database: string;
  readonly started: string;
  readonly unpopulated: readonly string[];
}

/** A server that was reached: what it says of itself, and whether a pooler stands in between. */
interface Reached {
  readonly facts: Facts;
  readonly isBehindPooler: boolean;
}

/** Looks at the server of each address of a setup. Whether the database answers as PostgreSQL does. */
export async function checkServers(setup: CheckedSetup, say: Say): Promise<boolean> {
  const reached = await reach(setup.database, async (client, found) => {
    describeDatabase(setup, found, say);
    for (const { what, there, without, text: written } of await findNeeds(client)) {
      if (there) continue;
      const text = `it has no ${what}${without === undefined ? '' : `; without: ${without}`} (${written ?? ''})`;
      say('database', without === undefined ? 'wrong' : 'note', text);
    }
  }).catch((thrown: unknown) => {
    say(
      'database',
      'wrong',
      `it cannot be reached: ${reasonOf(thrown)}`,
      'Look at --database, and whether it runs.',
    );
  });
  if (reached === undefined) return false;
  await checkChanges(setup, reached, say);
  await checkDirect(setup, reached, say);
  for (const replica of setup.replicas ?? []) await checkReplica(replica, reached, say);
  return true;
}

/** Connects to a server, and looks at it. Rejects where it cannot be reached, or does not answer as PostgreSQL does. */
async function reach(
  url: string,
  look: (client: pg.Client, found: Reached) => Promise<void> = () => Promise.resolve(),
): Promise<Reached> {
  const client = new pg.Client({
    ...connectionOf(url),
    connectionTimeoutMillis: waitLimit,
    query_timeout: waitLimit,
  });
  client.on('error', () => undefined);
  try {
    await client.connect();
    const { rows } = await client.query<Facts>(serverFacts);
    const [facts] = rows;
    if (facts === undefined) throw new Error('it does not say what it is');
    const { processID } = client as unknown as { readonly processID: number | null };
    const found = { facts, isBehindPooler: facts.process !== processID };
    await look(client, found);
    return found;
  } finally {
    client.end().catch(() => undefined);
  }
}

function describeDatabase(
  { connections = 10, workers = 1, pooler = 'detect', direct }: CheckedSetup,
  { facts, isBehindPooler }: Reached,
  say: Say,
): void {
  const about = 'database';
  const { version, encoding, most, role_most, database_most, behind } = facts;
  if (Number.parseInt(version, 10) < oldestTested) {
    say(
      about,
      'note',
      `PostgreSQL ${version} is older than what this is tested with`,
      `Use ${oldestTested} or later.`,
    );
  } else say(about, 'fine', `PostgreSQL ${version}${behind ? ', a replica' : ''}`);
  if (encoding !== 'UTF8') {
    say(about, 'note', `it keeps texts in ${encoding}: functions of letters are off`);
  }
  const limits = [
    ['the role', role_most],
    ['the database', database_most],
  ] as const;
  for (const [whose, limit] of limits) {
    if (limit < 0 || limit >= connections) continue;
    say(
      about,
      'wrong',
      `${whose} may have ${limit} connections, the service opens up to ${connections}`,
      'Lower --connections, or raise CONNECTION LIMIT.',
    );
  }
  if (connections > most * 0.8) {
    say(
      about,
      'note',
      `${connections} connections of at most ${most} leave little for others`,
      'Lower --connections, or raise max_connections.',
    );
  }
  if (connections < workers + 3) {
    say(
      about,
      'note',
      `${connections} connections are few for ${workers} workers`,
      'Raise --connections.',
    );
  }
  if (facts.temp_limit !== null) {
    say(
      about,
      'note',
      `a statement may use ${facts.temp_limit} of temporary space (temp_file_limit): larger sorts and groups are refused`,
      'Raise temp_file_limit for the role, or add indexes for these sorts.',
    );
  }
  for (const view of facts.unpopulated) {
    say(
      'tables',
      'note',
      `the materialized view ${view} was never populated: it cannot be read`,
      `Run REFRESH MATERIALIZED VIEW ${view}.`,
    );
  }
  if (facts.bypasses_row_security) {
    say(
      'role',
      'note',
      'the role bypasses the row security of the database (BYPASSRLS)',
      'ALTER ROLE … NOBYPASSRLS.',
    );
  }
  if (isBehindPooler && pooler !== 'session') {
    say(
      about,
      'note',
      'a pooler stands in between: each query runs in a transaction of its own, and nothing is prepared',
      'Say --pooler session if it keeps sessions.',
    );
    if (direct === undefined) {
      say(
        'live',
        'note',
        'nothing is heard through a pooler: changes come by polling',
        'Name a way past it: --direct.',
      );
    }
  }
}

/** Where changes go: the same database, and one that can be written to. */
async function checkChanges(
  { changes }: CheckedSetup,
  { facts: read }: Reached,
  say: Say,
): Promise<void> {
  if (changes === undefined) return;
  const about = 'changes';
  const found = await reach(changes).catch((thrown: unknown) => {
    say(
      about,
      'wrong',
      `the database of --changes cannot be reached: ${reasonOf(thrown)}`,
      'Look at --changes, and whether the role may sign in.',
    );
  });
  if (found === undefined) return;
  const { facts } = found;
  if (!isSame(facts, read)) {
    say(
      about,
      'wrong',
      `--changes leads to another database (${facts.name}) than --database (${read.name})`,
      'Name the same database with a role that may write.',
    );
  } else if (facts.behind) {
    say(
      about,
      'wrong',
      'the server of --changes is a replica: nothing can be written there',
      'Name the primary.',
    );
  } else if (facts.read_only) {
    say(
      about,
      'note',
      'transactions of --changes are read-only unless they say otherwise (default_transaction_read_only): changes say so',
      'Set it to off for the role.',
    );
  }
}

async function checkDirect(
  { direct }: CheckedSetup,
  { facts: read }: Reached,
  say: Say,
): Promise<void> {
  if (direct === undefined) return;
  const found = await reach(direct).catch((thrown: unknown) => {
    say(
      'database',
      'wrong',
      `--direct cannot be reached: ${reasonOf(thrown)}`,
      'Look at --direct.',
    );
  });
  if (found === undefined) return;
  if (!isSame(found.facts, read)) {
    say('database', 'wrong', '--direct leads to another database', 'Name the same database.');
  } else if (found.isBehindPooler) {
    say('database', 'wrong', '--direct leads through a pooler too', 'Name the server itself.');
  }
}

async function checkReplica(url: string, { facts: read }: Reached, say: Say): Promise<void> {
  const about = `replica ${new URL(url).host}`;
  const found = await reach(url).catch((thrown: unknown) => {
    say(about, 'wrong', `it cannot be reached: ${reasonOf(thrown)}`, 'Look at --replica.');
  });
  if (found === undefined) return;
  const { behind, name, database } = found.facts;
  if (!behind) {
    say(about, 'wrong', 'it follows no other server', 'Name a server in recovery (streaming).');
  } else if (database !== read.database || name !== read.name) {
    say(about, 'wrong', `it has another database (${name}) than --database (${read.name})`);
  } else say(about, 'fine', 'it follows the primary');
}

/** Whether two connections lead to one database. A replica started at another time than its primary. */
function isSame(one: Facts, other: Facts): boolean {
  const isOneServer = one.behind !== other.behind || one.started === other.started;
  return isOneServer && one.name === other.name && one.database === other.database;
}
