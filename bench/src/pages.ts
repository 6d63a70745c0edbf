import { startService, type Endpoint } from './endpoints.ts';
import { fetched, load, readied } from './load.ts';
import { firstPage, pageAt } from './questions.ts';
import { median, milliseconds, type Figure } from './report.ts';

/** Ms of one turn of a comparison; the two take turns, so that both have the same weather. */
const turn = 1_000;

/** First pages: the latency of one reader, the throughput of sixteen. */
export async function firstPages(
  name: string,
  ours: Endpoint,
  theirs: Endpoint,
  rounds: number,
): Promise<Figure[]> {
  let startedAt = 0;
  const chunk = (endpoint: Endpoint, connections: number): ReturnType<typeof load> =>
    load(
      () => endpoint.url + firstPage((startedAt += 1))[endpoint === ours ? 'ours' : 'theirs'],
      connections,
      turn,
    );
  // Both run some thousands of times before they count: engines compile what runs often.
  for (let round = 0; round < rounds; round += 1) {
    await chunk(ours, 16);
    await chunk(theirs, 16);
  }
  const figures: Figure[] = [];
  for (const connections of [1, 16]) {
    const pairs: { one: Awaited<ReturnType<typeof load>>; other: (typeof pairs)[0]['one'] }[] = [];
    for (let round = 0; round < rounds; round += 1) {
      pairs.push({ one: await chunk(ours, connections), other: await chunk(theirs, connections) });
    }
    const latency = median(pairs.map(({ one, other }) => one.p50 / other.p50));
    const throughput = median(pairs.map(({ one, other }) => one.throughput / other.throughput));
    figures.push(
      connections === 1
        ? {
            what: `first page of 100, one reader, median latency${name}`,
            ours: milliseconds(median(pairs.map(({ one }) => one.p50))),
            against: `by hand ${milliseconds(median(pairs.map(({ other }) => other.p50)))}`,
            ratio: latency,
            target: 'at most 1',
            met: latency <= 1,
          }
        : {
            what: `first pages of 100 a second, 16 connections${name}`,
            ours: median(pairs.map(({ one }) => one.throughput)).toFixed(0),
            against: `by hand ${median(pairs.map(({ other }) => other.throughput)).toFixed(0)}`,
            ratio: throughput,
            target: 'at least 1.3',
            met: throughput >= 1.3,
          },
    );
  }
  return figures;
}

async function answered(url: string): Promise<number> {
  const { status, milliseconds: took, body } = await readied(url);
  if (status !== 200) throw new Error(`${url} answered ${status}: ${body.slice(0, 200)}`);
  return took;
}

/** A jump to where nobody has been, each time with a service that has just been started. */
export async function coldJumps(
  database: string,
  theirs: Endpoint,
  offset: number,
): Promise<Figure[]> {
  const { ours: path, theirs: askedByHand } = pageAt(offset);
  const cold: number[] = [];
  const byHand: number[] = [];
  await answered(theirs.url + askedByHand);
  for (let round = 0; round < 3; round += 1) {
    byHand.push(await answered(theirs.url + askedByHand));
    const ours = await startService(database);
    await answered(`${ours.url}/api/tables`);
    cold.push(await answered(ours.url + path));
    await ours.stop();
  }
  const ratio = median(cold) / median(byHand);
  return [
    {
      what: `jump to row ${offset.toLocaleString('en-GB')}, cold: nothing is known yet`,
      ours: milliseconds(median(cold)),
      against: `by hand, OFFSET ${milliseconds(median(byHand))}`,
      ratio,
      target: 'at most 1.1',
      met: ratio <= 1.1,
    },
  ];
}

/** Jumps with mileposts set, against first pages of the same service and the jump by hand. */
export async function warmJumps(ours: Endpoint, theirs: Endpoint, rows: number): Promise<Figure[]> {
  const jumps: number[] = [];
  const firsts: number[] = [];
  for (let round = 0; round < 60; round += 1) {
    const offset = Math.floor(((round * 0.618) % 1) * (rows - 200));
    jumps.push(await answered(ours.url + pageAt(offset).ours));
    firsts.push(await answered(ours.url + pageAt(round % 40).ours));
  }
  const deep = Math.floor(rows * 0.99);
  const byHand = await answered(theirs.url + pageAt(deep).theirs);
  const ratio = median(jumps) / median(firsts);
  return [
    {
      what: 'jump to any row, warm',
      ours: milliseconds(median(jumps)),
      against: `first page ${milliseconds(median(firsts))}`,
      ratio,
      target: 'at most 3',
      met: ratio <= 3,
    },
    {
      what: 'the same against the jump by hand',
      ours: milliseconds(median(jumps)),
      against: `by hand, OFFSET ${deep.toLocaleString('en-GB')}: ${milliseconds(byHand)}`,
      ratio: median(jumps) / byHand,
    },
  ];
}

/** What a total costs the rows, first requested and later; and by hand. */
export async function totals(database: string, theirs: Endpoint): Promise<Figure[]> {
  const first: Record<'none' | 'estimate' | 'exact', number[]> = {
    none: [],
    estimate: [],
    exact: [],
  };
  const kinds = ['none', 'estimate', 'exact'] as const;
  for (const kind of kinds) {
    const ours = await startService(database);
    for (let round = 0; round < 12; round += 1) await answered(ours.url + firstPage(round).ours);
    // Each time other rows, so that nothing is known of how many there are.
    for (let round = 0; round < 25; round += 1) {
      const path = firstPage(round * 3 + 1_000).ours.replace('total=none', `total=${kind}`);
      first[kind].push(await answered(ours.url + path));
    }
    await ours.stop();
  }
  const ours = await startService(database);
  await answered(ours.url + pageAt(0).ours);
  const unknown = await answered(ours.url + pageAt(0, 'exact').ours);
  let body = '';
  for (let tries = 0; tries < 200 && !body.includes('"totalKind":"exact"'); tries += 1) {
    ({ body } = await fetched(ours.url + pageAt(0, 'exact').ours));
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  const known = median(await several(() => answered(ours.url + pageAt(0, 'exact').ours)));
  const none = median(await several(() => answered(ours.url + pageAt(0).ours)));
  await ours.stop();
  const byHand = median(await several(() => answered(theirs.url + pageAt(0, 'exact').theirs), 3));
  const estimated = median(first.estimate) / median(first.none);
  const waited = median(first.exact) / median(first.none);
  return [
    {
      what: 'rows with an estimated total that nobody has asked for yet (what the view asks for)',
      ours: milliseconds(median(first.estimate)),
      against: `total=none ${milliseconds(median(first.none))}`,
      ratio: estimated,
      target: 'at most 1.2',
      met: estimated <= 1.2,
    },
    {
      what: 'rows with `total=exact` that nobody has asked for yet, within its counting time',
      ours: milliseconds(median(first.exact)),
      against: `total=none ${milliseconds(median(first.none))}`,
      ratio: waited,
      target: 'at most 1.2',
      met: waited <= 1.2,
    },
    {
      what: 'first page with the total of the whole table, nobody has asked for it yet',
      ours: milliseconds(unknown),
      against: `by hand, count(*) ${milliseconds(byHand)}`,
      ratio: unknown / byHand,
    },
    {
      what: 'first page with the exact total, known',
      ours: milliseconds(known),
      against: `total=none ${milliseconds(none)}`,
      ratio: known / none,
    },
  ];
}

async function several(request: () => Promise<number>, times = 25): Promise<number[]> {
  const taken: number[] = [];
  for (let round = 0; round < times; round += 1) taken.push(await request());
  return taken;
}

/** Reading on, page after page, by cursor; by hand with an OFFSET that grows. */
export async function walk(ours: Endpoint, theirs: Endpoint, pages: number): Promise<Figure[]> {
  let path = pageAt(0).ours;
  let byCursor = 0;
  const visible = new Set<string>();
  for (let page = 0; page < pages; page += 1) {
    const { body, milliseconds: took } = await fetched(ours.url + path);
    byCursor += took;
    const { rows, next } = JSON.parse(body) as { rows: { id: string }[]; next: string };
    for (const { id } of rows) visible.add(id);
    path = pageAt(0).ours.replace('offset=0', `after=${next}`);
  }
  if (visible.size !== pages * 100) throw new Error('a cursor walk lost or repeated rows');
  let byOffset = 0;
  for (let page = 0; page < pages; page += 1) {
    byOffset += await answered(theirs.url + pageAt(page * 100).theirs);
  }
  return [
    {
      what: `reading on through ${pages} pages, each page`,
      ours: `by cursor ${milliseconds(byCursor / pages)}`,
      against: `by hand, OFFSET ${milliseconds(byOffset / pages)}`,
      ratio: byCursor / byOffset,
    },
  ];
}

/** Setting the mileposts of the whole table, against one walk over the index in psql's place. */
export async function settingMileposts(
  database: string,
  walkIndex: () => Promise<number>,
): Promise<Figure[]> {
  const sorts = {
    'newest first (an index gives the order)': '',
    'by toll (may be null)': 'sort=-toll&',
  };
  const plain = median(await several(walkIndex, 3));
  const figures: Figure[] = [];
  for (const [words, sort] of Object.entries(sorts)) {
    const ours = await startService(database);
    await answered(`${ours.url}/api/tables`);
    const began = performance.now();
    for (;;) {
      const { body } = await fetched(`${ours.url}/api/tables/passages/mileposts?${sort}ticks=1`);
      if (body.includes('"state":"ready"')) break;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    const took = performance.now() - began;
    await ours.stop();
    figures.push({
      what: `setting all mileposts, ${words}`,
      ours: milliseconds(took),
      against: `one walk over an index ${milliseconds(plain)}`,
      ratio: took / plain,
    });
  }
  return figures;
}
