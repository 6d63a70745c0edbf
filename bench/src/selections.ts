import type { Endpoint } from './endpoints.ts';
import { took } from './load.ts';
import { compared, type Figure } from './report.ts';

/** Keys of a selection that one question has no room for. */
const many = 100_000;
/** Keys that travel with a question. */
const few = 1_000;

/** Pages and groups of what is selected, against the same of all rows. */
export async function selections(
  ours: Endpoint,
  passages: number,
  rounds: number,
): Promise<Figure[]> {
  const table = `${ours.url}/api/tables/passages`;
  const id = await remaining(ours, keysAmong(passages, many));
  const page = (filter?: string): string =>
    `${table}/rows?${new URLSearchParams({ limit: '100', total: 'none', ...(filter && { filter }) }).toString()}`;
  const [plain, selected] = await inTurns(
    rounds,
    () => page(),
    () => page(`SELECTED('stored:${id}')`),
  );
  const listed = keysAmong(passages, few).map(([key]) => `'${key ?? ''}'`);
  const groups = async (aggregate: string, round: number): Promise<number> =>
    took(`${table}/groups`, {
      group: 'lock_id',
      aggregate,
      // Another question each time: nothing of it is remembered.
      filter: `id > ${round}`,
    });
  const [counted, grouped]: number[][] = [[], []];
  for (let round = 0; round < rounds; round += 1) {
    grouped?.push(await groups('count()', round * 2));
    counted?.push(await groups(`count(),count(SELECTED(${listed.join(',')}))`, round * 2 + 1));
  }
  const ends = keysAmong(passages, 2).map(([key]) => `'${key ?? ''}'`);
  const [first, range] = await inTurns(
    rounds,
    () => page(),
    () => `${page(`SELECTED(${ends.join(',')})`)}&columns=id,passed_at`,
  );
  return [
    compared(
      `a first page of ${many.toLocaleString('en-GB')} selected rows`,
      selected,
      plain,
      'first page of all',
      3,
    ),
    compared(
      `groups with those of ${few.toLocaleString('en-GB')} selected rows counted`,
      counted ?? [],
      grouped ?? [],
      'the same groups',
      1.1,
    ),
    compared(
      'the one question by which a range of any length is selected',
      range,
      first,
      'first page of all',
    ),
  ];
}

/** Keys that lie all over the table. */
function keysAmong(passages: number, count: number): string[][] {
  const step = Math.max(1, Math.floor(passages / count));
  return Array.from({ length: Math.min(count, passages) }, (_, index) => [
    String(1 + index * step),
  ]);
}

async function remaining({ url }: Endpoint, keys: string[][]): Promise<string> {
  const response = await fetch(`${url}/api/selections`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ table: 'passages', keys }),
  });
  const { id } = (await response.json()) as { id: string };
  return id;
}

/** How long two questions take, requested in turns. */
async function inTurns(
  rounds: number,
  one: () => string,
  other: () => string,
): Promise<[number[], number[]]> {
  const times: [number[], number[]] = [[], []];
  for (let round = 0; round < rounds * 10; round += 1) {
    times[0].push(await took(one()));
    times[1].push(await took(other()));
  }
  return times;
}
