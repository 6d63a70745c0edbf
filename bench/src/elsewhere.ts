import { createLocalClient } from '@ephoros/client/local';
import { startMounted, type Endpoint } from './endpoints.ts';
import { took } from './load.ts';
import { firstPage } from './questions.ts';
import { median, milliseconds, type Figure } from './report.ts';

/** The router in an application of somebody else, against the same written by hand. */
export async function mounted(
  database: string,
  theirs: Endpoint,
  rounds: number,
): Promise<Figure[]> {
  const app = await startMounted(database);
  try {
    const request = (turn: number, path: string): string =>
      app.url + firstPage(turn).ours.replace('/api/', `/${path}/`);
    const times = { own: [], borrowed: [], ruled: [], byHand: [], byHandOfOne: [] } as Record<
      'own' | 'borrowed' | 'ruled' | 'byHand' | 'byHandOfOne',
      number[]
    >;
    for (let turn = 0; turn < rounds * 60; turn += 1) {
      // Everything takes turns; the first rounds warm up.
      const own = await took(request(turn * 5, 'own'));
      const borrowed = await took(request(turn * 5 + 1, 'borrowed'));
      const ruled = await took(request(turn * 5 + 2, 'ruled'));
      const byHand = await took(theirs.url + firstPage(turn * 5 + 3).theirs);
      const byHandOfOne = await took(`${theirs.url}${firstPage(turn * 5 + 4).theirs}&lock=3`);
      if (turn < 40) continue;
      times.own.push(own);
      times.borrowed.push(borrowed);
      times.ruled.push(ruled);
      times.byHand.push(byHand);
      times.byHandOfOne.push(byHandOfOne);
    }
    const against = (
      what: string,
      [ours, name]: readonly [number[], string],
      other: number[],
      most?: number,
    ): Figure => {
      const ratio = median(ours) / median(other);
      return {
        what,
        ours: milliseconds(median(ours)),
        against: `${name} ${milliseconds(median(other))}`,
        ratio,
        ...(most === undefined ? {} : { target: `at most ${most}`, met: ratio <= most }),
      };
    };
    return [
      against(
        'first page of 100, the router with connections of its own',
        [times.own, 'by hand'],
        times.byHand,
        1.1,
      ),
      against(
        'the same over a pool of the application’s',
        [times.borrowed, 'connections of its own'],
        times.own,
      ),
      against(
        'first page of 100 of those that a row rule lets through',
        [times.ruled, 'by hand, WHERE lock_id ='],
        times.byHandOfOne,
        1.1,
      ),
    ];
  } finally {
    await app.stop();
  }
}

/** Rows of the local table. */
const many = 100_000;

/** Rows at hand: a sorted and filtered page, against an array that is filtered and sorted. */
export async function atHand(): Promise<Figure[]> {
  const rows = Array.from({ length: many }, (_, id) => ({
    id,
    toll: ((id * 7919) % 20_000) / 100,
    name: `boat ${(id * 104_729) % many}`,
  }));
  const client = createLocalClient({ passages: { rows } });
  const collator = new Intl.Collator('und');
  const ours: number[] = [];
  const again: number[] = [];
  const byHand: number[] = [];
  for (let round = 0; round < 7; round += 1) {
    const query = client.table('passages').filter(`toll > ${round}`).sort('name').limit(100);
    const began = performance.now();
    await query.rows();
    ours.push(performance.now() - began);
    const next = performance.now();
    await query.offset(50_000).rows();
    again.push(performance.now() - next);
    const hand = performance.now();
    rows
      .filter(({ toll }) => toll > round)
      .sort((one, other) => collator.compare(one.name, other.name))
      .slice(0, 100);
    byHand.push(performance.now() - hand);
  }
  const written = many.toLocaleString('en-GB');
  return [
    {
      what: `the first page of ${written} rows at hand, filtered and sorted by a text`,
      ours: milliseconds(median(ours)),
      against: `Array.filter and sort ${milliseconds(median(byHand))}`,
      ratio: median(ours) / median(byHand),
    },
    {
      what: 'another page of that result',
      ours: milliseconds(median(again)),
      against: `the first ${milliseconds(median(ours))}`,
      ratio: median(again) / median(ours),
    },
  ];
}
