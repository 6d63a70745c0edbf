import pg from 'pg';
import { startService, type Endpoint } from './endpoints.ts';
import { readied, type Readied } from './load.ts';
import { median, milliseconds, type Figure } from './report.ts';

/** Ms that a single answer may take, for every query. */
const longestAnswer = 1_100;

const rowsOf = (parameters: string): string =>
  `/api/tables/passages/rows?limit=100&columns=id,passed_at,toll,wait_minutes&${parameters}`;

/** What one asks first of a large table, where no index helps: whole or on its way, never a time limit. */
export async function orders(database: string, rows: number): Promise<Figure[]> {
  const direct = new pg.Client({ connectionString: database });
  await direct.connect();
  const answers: Readied[] = [];
  const run: Run = {
    database,
    rows,
    byHand: (statement) => timed(() => direct.query({ text: statement, rowMode: 'array' })),
    request: async (ours, path) => {
      const answer = await readied(ours.url + path);
      answers.push(answer);
      return answer.milliseconds;
    },
  };
  try {
    await direct.query('set jit = off');
    const figures = [
      ...(await related(run)),
      ...(await unindexed(run)),
      ...(await searched(run)),
      ...(await measured(run)),
    ];
    return [...figures, ...waitLimit(answers)];
  } finally {
    await direct.end();
  }
}

interface Run {
  readonly database: string;
  readonly rows: number;
  /** Ms of a statement. */
  readonly byHand: (statement: string) => Promise<number>;
  /** Ms until an answer is whole. */
  readonly request: (ours: Endpoint, path: string) => Promise<number>;
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

type Requested = (turn: number) => Promise<number>;

/** The same requested several times, each time for something a little else. */
async function several(times: number, request: Requested): Promise<number> {
  const taken: number[] = [];
  for (let turn = 0; turn < times; turn += 1) taken.push(await request(turn));
  return median(taken);
}

/** Two questions requested in turns, so that the machine's noise falls on both. */
async function inTurns(times: number, one: Requested, other: Requested): Promise<[number, number]> {
  const others: number[] = [];
  const ones = await several(times, async (turn) => {
    const taken = await one(turn);
    others.push(await other(turn));
    return taken;
  });
  return [ones, median(others)];
}

const firstPage = (turn: number): string => rowsOf(`total=none&filter=id%20%3E%20${turn}`);

/** Orders by related columns. */
async function related({ database, byHand, request }: Run): Promise<Figure[]> {
  const ours = await startService(database);
  const figures: Figure[] = [];
  const sorts = [
    {
      sort: 'lock.name',
      sql: 'select p.id, p.passed_at, p.toll, p.wait_minutes from passages p left join locks l on l.id = p.lock_id order by l.name, p.id limit 100',
    },
    {
      sort: 'boat.owner.name,-toll',
      sql: 'select p.id, p.passed_at, p.toll, p.wait_minutes from passages p left join boats b on b.id = p.boat_id left join owners o on o.id = b.owner_id order by o.name, p.toll desc nulls last, p.id desc limit 100',
      // All of these have to be read, in whatever way: no index has the tolls of an owner in their order.
      least:
        'select p.id, p.passed_at, p.toll, p.wait_minutes from passages p join boats b on b.id = p.boat_id join owners o on o.id = b.owner_id where o.name = (select min(name) from owners) order by p.toll desc nulls last, p.id desc limit 100',
    },
  ];
  for (const { sort, sql, least } of sorts) {
    // Each another question: what took long is remembered.
    const wanted: Requested = (turn) =>
      request(ours, rowsOf(`total=none&sort=${sort}&filter=id%20%3E%20${turn}`));
    const [page, first] = await inTurns(20, wanted, (turn) => request(ours, firstPage(turn)));
    const hand = await byHand(sql);
    const ratio = page / first;
    figures.push(
      {
        what: `first page by \`${sort}\``,
        ours: milliseconds(page),
        against: `first page ${milliseconds(first)}`,
        ratio,
        target: 'at most 5',
        met: ratio <= 5,
      },
      {
        what: 'the same against the statement by hand',
        ours: milliseconds(page),
        against: `by hand ${milliseconds(hand)}`,
        ratio: page / hand,
      },
    );
    if (least === undefined) continue;
    const [again, read] = await inTurns(20, wanted, () => byHand(least));
    figures.push({
      what: 'the same against reading the rows of the first name alone, by hand',
      ours: milliseconds(again),
      against: `by hand ${milliseconds(read)}`,
      ratio: again / read,
    });
  }
  await ours.stop();
  return figures;
}

/** An order that no index gives. */
async function unindexed({ database, rows, byHand, request }: Run): Promise<Figure[]> {
  const sort = 'wait_minutes,-toll';
  const sorted = 'from passages order by wait_minutes, toll desc nulls last, id desc';
  const cold = await startService(database);
  const firstPageOf = await request(cold, rowsOf(`total=none&sort=${sort}`));
  const topRows = await byHand(`select id, passed_at, toll, wait_minutes ${sorted} limit 100`);
  const names = 'lock.name,boat.name,keeper.name';
  const named = await request(
    cold,
    `/api/tables/passages/rows?limit=100&total=none&columns=id,wait_minutes,toll,${names}&sort=wait_minutes,-passed_at`,
  );
  const topNamed = await byHand(
    'select p.id, p.wait_minutes, p.toll, l.name, b.name, k.name from passages p left join locks l on l.id = p.lock_id left join boats b on b.id = p.boat_id left join keepers k on k.id = p.keeper_id order by p.wait_minutes, p.passed_at desc, p.id desc limit 100',
  );
  await cold.stop();
  const ours = await startService(database);
  const middle = Math.floor(rows / 2);
  const began = await request(ours, rowsOf(`total=none&sort=${sort}&offset=${middle}`));
  // The middle is there before the end: until then somebody else would be measured as well.
  await request(ours, rowsOf(`total=none&sort=${sort}&offset=${rows - 150}`));
  const plain = await byHand(
    `select count(*) from (select id, wait_minutes, toll ${sorted} offset 0) all_of_them`,
  );
  const built = await startService(database);
  const building = await request(built, rowsOf(`total=none&sort=${sort}&offset=${rows - 150}`));
  const [anywhere, first] = await inTurns(
    40,
    (turn) => request(ours, rowsOf(`total=none&sort=${sort}&offset=${placeOf(turn, rows)}`)),
    (turn) => request(ours, firstPage(turn)),
  );
  await built.stop();
  await ours.stop();
  const toll = await startService(database);
  const jump = await request(toll, rowsOf(`total=none&sort=-toll&offset=${middle}`));
  await toll.stop();
  const byOffset = await byHand(
    `select id, passed_at, toll, wait_minutes from passages order by toll desc nulls last, id desc limit 100 offset ${middle}`,
  );
  const buildRatio = building / plain;
  const placeRatio = anywhere / first;
  return [
    {
      what: `first page by \`${sort}\` (no index), nothing known`,
      ours: milliseconds(firstPageOf),
      against: `by hand ${milliseconds(topRows)}`,
      ratio: firstPageOf / topRows,
    },
    {
      what: 'the like with the names of lock, boat and keeper',
      ours: milliseconds(named),
      against: `by hand ${milliseconds(topNamed)}`,
      ratio: named / topNamed,
    },
    {
      what: 'a jump to the middle of it, nothing known',
      ours: milliseconds(began),
      against: `the plain sort of key and sort columns ${milliseconds(plain)}`,
      ratio: began / plain,
    },
    {
      what: 'finding all its places',
      ours: milliseconds(building),
      against: `the plain sort of key and sort columns ${milliseconds(plain)}`,
      ratio: buildRatio,
      target: 'at most 1.5',
      met: buildRatio <= 1.5,
    },
    {
      what: 'any place in it from then on',
      ours: milliseconds(anywhere),
      against: `first page ${milliseconds(first)}`,
      ratio: placeRatio,
      target: 'at most 3',
      met: placeRatio <= 3,
    },
    {
      what: `a jump to row ${middle.toLocaleString('en-GB')} under \`-toll\` (an index, may be null), nothing known`,
      ours: milliseconds(jump),
      against: `by hand, OFFSET ${milliseconds(byOffset)}`,
      ratio: jump / byOffset,
    },
  ];
}

function placeOf(turn: number, rows: number): number {
  return Math.floor(((turn * 0.618) % 1) * (rows - 200));
}

/** Conditions and searches that no index answers. */
async function searched({ database, rows, byHand, request }: Run): Promise<Figure[]> {
  const ours = await startService(database);
  const [none, hand] = await inTurns(
    3,
    (turn) => request(ours, rowsOf(`total=exact&search=nowhere${turn}`)),
    (turn) =>
      byHand(
        `select id, passed_at, toll, wait_minutes from passages t where note ilike '%nowhere${turn}%' or lock_id in (select id from locks where name ilike '%nowhere${turn}%') or boat_id in (select id from boats where name ilike '%nowhere${turn}%') or keeper_id in (select id from keepers where name ilike '%nowhere${turn}%') order by passed_at desc, id desc limit 100`,
      ),
  );
  const sort = 'boat.owner.name,-toll';
  const sorted = await request(ours, rowsOf(`total=none&search=nowhere&sort=${sort}`));
  // Some nine hundredths of the way; arithmetic keeps the index out.
  const early = await several(3, async (turn) => {
    const filter = encodeURIComponent(`id + 0 = ${Math.floor(rows * 0.91) + turn}`);
    const { first } = await readied(ours.url + rowsOf(`total=none&filter=${filter}`));
    return first;
  });
  await ours.stop();
  const ratio = none / hand;
  return [
    {
      what: 'a search without hits, to its end, counted',
      ours: milliseconds(none),
      against: `by hand, not counted ${milliseconds(hand)}`,
      ratio,
      target: 'at most 1.3',
      met: ratio <= 1.3,
    },
    {
      what: `the same sorted by \`${sort}\`, not counted`,
      ours: milliseconds(sorted),
      against: `by hand, unsorted ${milliseconds(hand)}`,
      ratio: sorted / hand,
    },
    {
      what: 'the first hit of a condition that no index answers, in the first tenth',
      ours: milliseconds(early),
      target: 'at most 1 s',
      met: early <= 1_000,
    },
  ];
}

/** Values and medians. */
async function measured({ database, byHand, request }: Run): Promise<Figure[]> {
  const ours = await startService(database);
  const figures: Figure[] = [];
  for (const column of ['toll', 'status', 'wait_minutes']) {
    const [values, hand] = await inTurns(
      5,
      (turn) =>
        request(ours, `/api/tables/passages/values/${column}?limit=50&filter=id%20%3E%20${turn}`),
      (turn) =>
        byHand(
          `select ${column}, count(*) from passages where id > ${turn} group by 1 order by 2 desc limit 50`,
        ),
    );
    const ratio = values / hand;
    figures.push({
      what: `the values of \`${column}\` with their counts${column === 'status' ? '' : ' and range'}`,
      ours: milliseconds(values),
      against: `plain grouping ${milliseconds(hand)}`,
      ratio,
      target: 'at most 1.1',
      met: ratio <= 1.1,
    });
  }
  const medians = await request(
    ours,
    '/api/tables/passages/groups?group=year(passed_at)&aggregate=median(toll),percentile(toll,0.9)',
  );
  const hand = await byHand(
    'select extract(year from passed_at), percentile_cont(0.5) within group (order by toll), percentile_disc(0.9) within group (order by toll) from passages group by 1',
  );
  await ours.stop();
  figures.push({
    what: 'median and ninth decile of the toll by year',
    ours: milliseconds(medians),
    against: `by hand ${milliseconds(hand)}`,
    ratio: medians / hand,
  });
  return figures;
}

/** Whether every answer came in time, be it that it was not ready. */
function waitLimit(answers: readonly Readied[]): Figure[] {
  const longest = Math.max(...answers.map((answer) => answer.longest));
  const failed = answers.filter(({ status }) => status !== 200).length;
  return [
    {
      what: 'the longest single answer to any of these, whole or on its way',
      ours: milliseconds(longest),
      target: `at most ${milliseconds(longestAnswer)}`,
      met: longest <= longestAnswer,
    },
    {
      what: 'questions that met a time limit or failed otherwise',
      ours: `${failed} of ${answers.length}`,
      target: 'none',
      met: failed === 0,
    },
  ];
}
