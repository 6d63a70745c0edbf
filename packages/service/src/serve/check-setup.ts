import { readFile } from 'node:fs/promises';
import {
  followerTimeout,
  tablesInLog,
  tablesWithTriggers,
  type Statement,
} from '@ephoros/core/sql';
import { checkRoles } from '../access/index.ts';
import { readRole, type Catalog } from '../catalog/index.ts';
import { configurationOf, isLoopback, type SignInConfiguration } from '../config/index.ts';
import { Engine } from '../engine/index.ts';
import { checkServers } from './check-servers.ts';
import { reasonOf, type CheckedSetup, type Finding, type Say } from './checked-setup.ts';

/**
 * Looks at all that a service would be started with: the database, what the roles may, the indexes behind what tables
 * open with, the records, how callers sign in. Throws nothing: what cannot be reached is a finding.
 */
export async function checkSetup(setup: CheckedSetup): Promise<readonly Finding[]> {
  const findings: Finding[] = [];
  const say: Say = (about, state, text, fix) => {
    findings.push({ about, state, text, ...(fix === undefined ? {} : { fix }) });
  };
  const reached = await checkServers(setup, say);
  if (reached) await checkTables(setup, say);
  await checkOwn(setup, say);
  await checkSignIn(setup, say);
  return findings;
}

/** What is published, and as whom. */
async function checkTables(setup: CheckedSetup, say: Say): Promise<void> {
  const { database, changes, configuration = {}, pooler } = setup;
  const engine = new Engine({ database, configuration, connections: 3, pooler, changes });
  try {
    const role = await readRole(engine.database);
    if (role.superuser) {
      say(
        'role',
        'note',
        `${role.name} is a superuser`,
        'Use a role that may do nothing but SELECT.',
      );
    } else if (role.writes > 0) {
      say(
        'role',
        'note',
        `${role.name} may write to ${role.writes} tables`,
        'Use a role that may do nothing but SELECT.',
      );
    } else say('role', 'fine', `${role.name} may read and no more`);
    const catalog = await engine.ready();
    const file = configurationOf(configuration);
    checkRoles(catalog, file);
    say(
      'tables',
      catalog.tables.size === 0 ? 'wrong' : 'fine',
      `${catalog.tables.size} are published`,
      ...(catalog.tables.size === 0 ? ['Grant the role SELECT on some.'] : []),
    );
    describeTables(catalog, say);
    await describeLive(engine, catalog, say);
    const wanted = Object.entries(file.configuration.tables ?? {}).filter(([, one]) => one.changes);
    for (const [name, one] of wanted) {
      const description = catalog.tables.get(one.name ?? name)?.description;
      if (description?.changes !== undefined) continue;
      say(
        'changes',
        'note',
        `${name} is to be changed, and cannot be`,
        changes === undefined
          ? 'Start the service with --changes.'
          : 'Grant the role of --changes what is missing, and see that the table has a key.',
      );
    }
  } catch (thrown) {
    say('tables', 'wrong', reasonOf(thrown));
  } finally {
    await engine.close();
  }
}

/** From so many rows on an order without an index is felt. */
const large = 100_000;

function describeTables({ tables }: Catalog, say: Say): void {
  for (const [name, { description }] of tables) {
    const { key, defaultSort, columns, estimatedRows, kind } = description;
    if (key.length === 0) {
      say(
        'tables',
        'note',
        `${name} has no key: no cursors, no single rows, nothing to select or change`,
        kind === 'view' ? `Name one: tables: { ${name}: { key: [id] } }` : 'Give it a primary key.',
      );
    }
    const [first] = defaultSort;
    const column = columns.find((one) => one.name === first?.column);
    if (column !== undefined && !column.indexed && (estimatedRows ?? 0) >= large) {
      say(
        'tables',
        'note',
        `${name} opens sorted by ${column.name}, which no index leads with`,
        `ephoros advise ${name} says which one would help.`,
      );
    }
  }
}

/** How the service learns what others write. */
async function describeLive({ database }: Engine, catalog: Catalog, say: Say): Promise<void> {
  const places = new Set(
    [...catalog.tables.keys()].map((name) => {
      const { schema, name: own } = catalog.locate(name);
      return `${schema}.${own}`;
    }),
  );
  const reasonOf = async (statement: Statement): Promise<ReadonlySet<string>> => {
    const { rows } = await database.run(statement);
    return new Set(rows.flatMap(([place]) => (place != null && places.has(place) ? [place] : [])));
  };
  const log = await reasonOf(tablesInLog);
  const triggers = [...(await reasonOf(tablesWithTriggers))].filter((place) => !log.has(place));
  const { rows: timeouts } = log.size > 0 ? await database.run(followerTimeout) : { rows: [] };
  if (timeouts[0]?.[0] === '0') {
    say(
      'live',
      'note',
      'the server never ends a follower of its log that says nothing (wal_sender_timeout = 0): it keeps the log for a process that hangs until the disk is full',
      'Set wal_sender_timeout, to a minute for instance, and max_slot_wal_keep_size.',
    );
  }
  const rest = places.size - log.size - triggers.length;
  const text = `writes are reported row by row for ${log.size} tables from the log and for ${triggers.length} by triggers`;
  if (rest === 0) say('live', 'fine', text);
  else {
    say(
      'live',
      'note',
      `${text}; for ${rest}, later, and only that something was written`,
      'See what `ephoros live TABLE --sql`, or `--sql --log`, prints.',
    );
  }
}

/** What is the service's own: records, changes, where it listens. */
async function checkOwn(setup: CheckedSetup, say: Say): Promise<void> {
  const { records, changes, configuration = {}, host = '127.0.0.1', unprotected = false } = setup;
  const { configuration: read } = configurationOf(configuration);
  if (records === undefined) {
    say(
      'records',
      'note',
      'there are none: no saved views, no large selections, no history',
      'Name a database that the service may write to: --records.',
    );
  } else {
    const engine = new Engine({ database: setup.database, records, connections: 3 });
    try {
      await engine.records?.ready();
      say('records', 'fine', 'they are there, and as this version has them');
    } catch (thrown) {
      say('records', 'wrong', reasonOf(thrown));
    } finally {
      await engine.close();
    }
  }
  if (changes === undefined)
    say('changes', 'note', 'they are off: there is no role that writes', 'Name one: --changes.');
  const isHere = isLoopback(host);
  if (read.signIn === undefined && !isHere) {
    say(
      'callers',
      unprotected ? 'note' : 'wrong',
      `anyone who reaches ${host} sees everything`,
      'Say how callers sign in: signIn.',
    );
  }
  if (read.signIn !== undefined && read.origins?.includes('*') === true) {
    say(
      'callers',
      'note',
      'pages of every origin may read with the token of a caller (origins: *)',
      'Name the origins that need it.',
    );
  }
  if (read.signIn !== undefined && read.roles === undefined) {
    say('callers', 'note', 'everybody who is signed in may everything', 'Say who may what: roles.');
  }
  const browsers = read.signIn?.some(({ kind }) => kind === 'openid') === true;
  if (browsers && read.address?.startsWith('https:') !== true && !isHere) {
    say(
      'callers',
      'note',
      'the cookies of browsers go over plain HTTP',
      'Put something that speaks TLS before it, and say its address: https://…',
    );
  }
}

async function checkSignIn(setup: CheckedSetup, say: Say): Promise<void> {
  const { signIn = [] } = configurationOf(setup.configuration ?? {}).configuration;
  for (const way of signIn) await checkWay(way, setup, say);
}

async function checkWay(
  way: SignInConfiguration[number],
  { records }: CheckedSetup,
  say: Say,
): Promise<void> {
  const about = `sign-in by ${way.kind}`;
  const read = async (source: string): Promise<unknown> => {
    if (!/^https?:/.test(source)) return JSON.parse(await readFile(source, 'utf8'));
    const response = await fetch(source, { signal: AbortSignal.timeout(5_000) });
    if (!response.ok) throw new Error(`${source} answers ${response.status}`);
    return response.json();
  };
  try {
    switch (way.kind) {
      case 'tokens':
        if (records === undefined)
          say(about, 'wrong', 'tokens are stored in the records', 'Name them: --records.');
        else say(about, 'fine', 'ephoros token add makes one');
        return;
      case 'proxy': {
        const everywhere = way.from.filter((network) => network.endsWith('/0'));
        if (everywhere.length === 0)
          say(about, 'fine', `${way.header} from ${way.from.join(', ')}`);
        else {
          say(
            about,
            'wrong',
            `${way.header} is trusted from everywhere (${everywhere.join(', ')}): anyone can name any caller`,
            'Name the addresses of the proxy alone: from.',
          );
        }
        return;
      }
      case 'jwt': {
        const { keys } = (await read(way.keys)) as { keys?: unknown[] };
        const many = Array.isArray(keys) ? keys.length : 0;
        say(about, many > 0 ? 'fine' : 'wrong', `${many} keys of ${way.issuer}`);
        return;
      }
      case 'openid': {
        if (records === undefined)
          say(about, 'wrong', 'sessions are stored in the records', 'Name them: --records.');
        const address = `${way.issuer.replace(/\/$/, '')}/.well-known/openid-configuration`;
        const { issuer } = (await read(address)) as { issuer?: string };
        if (issuer === way.issuer) say(about, 'fine', `${way.issuer} answers`);
        else
          say(
            about,
            'wrong',
            `${way.issuer} calls itself ${String(issuer)}`,
            'Write the issuer as it calls itself.',
          );
        if (way.secretFile !== undefined) await readFile(way.secretFile);
        return;
      }
      default:
        throw new Error(`unknown way ${JSON.stringify(way satisfies never)}`);
    }
  } catch (thrown) {
    say(about, 'wrong', reasonOf(thrown));
  }
}
