import pg from 'pg';
import * as names from './names.ts';
import { indexStatements, schemaStatements } from './schema.ts';

export interface ScenarioOptions {
  /** A superuser's connection to the database `postgres` of the cluster. */
  readonly maintenanceUrl: string;
  /** The database to make; it is replaced when it holds something else. */
  readonly database: string;
  /** A connection to it. */
  readonly url: string;
  /** Passages to make: 0 to 10,000,000. */
  readonly passages: number;
  /** The same seed makes the same data. */
  readonly seed: number;
  /** Called with the progress: rows made of all rows of a step. */
  readonly progress?: (step: string, done: number, all: number) => void;
}

const version = 3;
const batch = 250_000;

/**
 * Makes the Lowmere Navigation, unless the database holds just that already. A database that
 * was left half made, or made from other numbers, is replaced.
 * @returns whether anything had to be made
 */
export async function makeScenario(options: ScenarioOptions): Promise<boolean> {
  const { database, url, passages, seed, progress = () => undefined } = options;
  const stamp = `lowmere ${version}: ${passages} passages, seed ${seed}`;
  const replaced = await withClient(options.maintenanceUrl, async (client) => {
    if ((await stampOf(client, database)) === stamp) return false;
    const name = client.escapeIdentifier(database);
    await client.query(`drop database if exists ${name} with (force)`);
    await client.query(`create database ${name}`);
    return true;
  });
  if (!replaced) return false;
  await withClient(url, async (client) => {
    for (const statement of schemaStatements) await client.query(statement);
    await client.query(drawFunctions(seed));
    const sizes = sizesFor(passages);
    await makeBasics(client, sizes);
    progress('passages', 0, passages);
    for (let first = 1; first <= passages; first += batch) {
      const last = Math.min(passages, first + batch - 1);
      await client.query(passagesStatement, [first, last, passages, sizes.boats, names.notes]);
      progress('passages', last, passages);
    }
    for (const [index, statement] of indexStatements.entries()) {
      progress('indexes', index, indexStatements.length);
      await client.query(statement);
    }
    progress('indexes', indexStatements.length, indexStatements.length);
    await client.query(
      'drop function draw(bigint, int), skewed(bigint, int), one_of(text[], bigint, int)',
    );
    await client.query('vacuum analyze');
    // Written last: without it the database counts as half made.
    await client.query(
      `comment on database ${client.escapeIdentifier(database)} is ${client.escapeLiteral(stamp)}`,
    );
  });
  return true;
}

async function withClient<Result>(
  url: string,
  work: (client: pg.Client) => Promise<Result>,
): Promise<Result> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

async function stampOf(client: pg.Client, database: string): Promise<string | undefined> {
  const { rows } = await client.query<{ stamp: string | null }>(
    `select shobj_description(oid, 'pg_database') as stamp from pg_database where datname = $1`,
    [database],
  );
  return rows[0]?.stamp ?? undefined;
}

interface Sizes {
  readonly keepers: number;
  readonly owners: number;
  readonly boats: number;
}

const lockCount = 64;

function sizesFor(passages: number): Sizes {
  const boats = Math.max(40, Math.min(20_000, Math.round(passages / 80)));
  return { keepers: 96, owners: Math.round(boats * 0.7), boats };
}

/** Reproducible draws: from 0 up to 1 by a number and a salt, evenly or crowded at 0. */
function drawFunctions(seed: number): string {
  const base = BigInt(Math.trunc(seed)) * 1000n;
  return `
    create function draw(n bigint, salt int) returns float8 language sql immutable parallel safe as
      $$ select (hashint8extended(n, ${base} + salt) & 9007199254740991)::float8 / 9007199254740992::float8 $$;
    create function skewed(n bigint, salt int) returns float8 language sql immutable parallel safe as
      $$ select power(draw(n, salt), 2.2::float8) $$;
    create function one_of(list text[], n bigint, salt int) returns text language sql immutable parallel safe as
      $$ select list[1 + floor(draw(n, salt) * cardinality(list))::int] $$;`;
}

async function makeBasics(client: pg.Client, sizes: Sizes): Promise<void> {
  await client.query(
    `insert into canals
     select row_number() over (), name, opened::date, length::numeric, draught::numeric, tidal
     from unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::bool[])
       as c(name, opened, length, draught, tidal)`,
    [0, 1, 2, 3, 4].map((field) => names.canals.map((canal) => canal[field])),
  );
  await client.query(
    `insert into locks
     select n, 1 + floor(skewed(n, 1) * 8)::int,
       ($2::text[])[1 + n % cardinality($2)] || ' ' || one_of($3, n, 3),
       round((draw(n, 4) * 40)::numeric, 2), round((0.6 + draw(n, 5) * 4)::numeric, 2),
       numrange(round((3 + draw(n, 6))::numeric, 1), round((5 + draw(n, 7) * 9)::numeric, 1)),
       time '05:30' + floor(draw(n, 8) * 6) * interval '15 min',
       time '19:00' + floor(draw(n, 9) * 12) * interval '15 min',
       draw(n, 10) < 0.2
     from generate_series(1, $1::int) n`,
    [lockCount, names.lockFirst, names.lockSecond],
  );
  await client.query(
    `insert into keepers
     select n, case when draw(n, 20) < 0.9 then 1 + (n * 7) % $2::int end,
       one_of($3, n, 21) || ' ' || one_of($4, n, 22),
       date '1988-01-01' + floor(draw(n, 23) * 13000)::int,
       case when draw(n, 24) < 0.5 then '{en}'::text[]
            when draw(n, 25) < 0.5 then '{en,fr}' else '{en,nl,"Wend dialect"}' end,
       draw(n, 26) < 0.15
     from generate_series(1, $1::int) n`,
    [sizes.keepers, lockCount, names.givenNames, names.familyNames],
  );
  await client.query(
    `insert into owners
     select n, person.name, one_of($4, n, 32),
       md5(n || 'account' || draw(n, 33))::uuid,
       case when draw(n, 34) < 0.8 then 'owner' || n || '@lowmere.example' end,
       date '1990-01-01' + floor(draw(n, 35) * 12000)::int
     from generate_series(1, $1::int) n,
       lateral (select one_of($2, n, 30) || ' ' || one_of($3, n, 31)) person(name)`,
    [sizes.owners, names.givenNames, names.familyNames, names.towns],
  );
  await client.query(
    `insert into boats
     select n, case when draw(n, 40) < 0.97 then 1 + floor(draw(n, 41) * $2::int)::int end,
       one_of($3, n, 42) || ' ' || one_of($4, n, 43),
       '/demo/boats/' || n || '.svg',
       (enum_range(null::hull))[1 + floor(skewed(n, 44) * 5)::int],
       round((6 + draw(n, 45) * 26)::numeric, 2), round((0.4 + skewed(n, 46) * 2.4)::numeric, 2),
       case when draw(n, 47) < 0.93 then 1890 + floor(draw(n, 48) * 134)::int end,
       case when draw(n, 49) < 0.85 then (8 + skewed(n, 50) * 400)::real end,
       case when draw(n, 51) < 0.3 then '{}'::text[] else array[one_of($5, n, 52), one_of($5, n, 53)] end,
       jsonb_build_object('radio', draw(n, 54) < 0.6, 'lamps', floor(draw(n, 55) * 6)::int,
         'fuel', one_of('{diesel,electric,sail,horse}', n, 56))
     from generate_series(1, $1::int) n`,
    [sizes.boats, sizes.owners, names.boatAdjectives, names.boatNouns, names.givenNames],
  );
}

/**
 * Passages $1 to $2 of $3. Their moments rise with their numbers over ten and a half years,
 * crowded in summer and by day; boats in one convoy pass at the same minute.
 */
const passagesStatement = `
  insert into passages
  select n, moment,
    1 + floor(skewed(n / 2, 60) * ${lockCount})::int,
    1 + floor(skewed(n, 61) * $4::int)::int,
    case when draw(n, 62) < 0.94 then 1 + floor(skewed(n / 2, 63) * 96)::int end,
    case when draw(n / 2, 64) < 0.52 then 'up'::direction else 'down' end,
    round((0.4 + skewed(n, 65) * 2.4)::numeric, 2),
    floor(-18 * ln(1 - draw(n, 66)) * (1 + 0.8 * summer))::int,
    (8 + floor(skewed(n, 67) * 50)) * interval '1 minute' + floor(draw(n, 68) * 4) * interval '15 s',
    case when draw(n, 69) < 0.88 then round((4 + skewed(n, 70) * 180)::numeric * 20) / 20 end,
    (case when fate < 0.0006 then 'expected' when fate < 0.0016 then 'waiting'
          when fate < 0.03 then 'corrected' when fate < 0.045 then 'disputed'
          when fate < 0.055 then 'waived' when fate < 0.058 then 'turned back'
          else 'passed' end)::passage_status,
    case when draw(n, 71) < 0.12 then one_of($5::text[], n, 72)
         when draw(n, 73) < 0.0015 then repeat(one_of($5::text[], n, 74) || '. ', 60) end
  from (
    select n, draw(n, 75) as fate,
      greatest(0, sin(2 * pi() * (10.58 * share - 0.08))) as summer,
      date_trunc('minute', timestamptz '2016-03-01 00:00:00Z'
        + floor(3864 * (share + 0.06 * cos(2 * pi() * (10.58 * share - 0.08)) / 6.2832)) * interval '1 day'
        + (5.5 + 14 * (draw(convoy, 76) + draw(convoy, 77)) / 2) * interval '1 hour') as moment
    from (select n, n / 3 as convoy, (n - 1)::float8 / $3 as share
          from generate_series($1::bigint, $2::bigint) n) drawn
  ) placed`;
