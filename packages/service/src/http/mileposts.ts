import type { CheckedQuery } from '@ephoros/core/check';
import { problem } from '@ephoros/core/problem';
import { valueEncoder } from '../encode/index.ts';
import {
  countingOf,
  surveyingOf,
  surveyKey,
  type Milepost,
  type SurveyState,
} from '../survey/index.ts';
import {
  type Asked,
  type Parameters,
  Refused,
  type Timings,
  readCount,
  readQuery,
} from '../question/index.ts';
import { totalWithin } from './total.ts';

/** Ticks where a request names no number, and at most. */
const defaultTicks = 200;
const mostTicks = 2_000;

const none: SurveyState = { state: 'waiting', posts: [], passed: 0 };

/**
 * The leading sort values at even positions of a result, as far as its mileposts are set; has
 * them set where they are not.
 * @throws Refused
 */
export async function answerMileposts(
  { ticks, ...parameters }: Parameters & { readonly ticks: string | undefined },
  asked: Asked,
  timings: Timings,
): Promise<string> {
  const { catalog, description, surveyor } = asked;
  const { count = defaultTicks, problems } = readCount('ticks', ticks, { most: mostTicks });
  const read = { ...parameters, problems: [...parameters.problems, ...problems] };
  const { checked } = readQuery(read, description, catalog, timings);
  if (description.key.length === 0) {
    throw new Refused([problem('no-key', { table: description.name })]);
  }
  const counting = countingOf(checked, catalog.locate);
  const key = surveyKey(checked, counting.key);
  const known = await surveyor.overview(key, count);
  if (known === undefined) {
    const ground = { surveyor, relations: catalog.locate, ruled: catalog.ruled };
    await surveyor.begin(await surveyingOf(checked, ground));
  }
  const total = await totalWithin(0, checked, 'estimate', asked);
  const { state, posts, passed } = known ?? none;
  const { name, ...leading } = leadingOf(checked);
  const head = JSON.stringify({
    table: description.name,
    column: name,
    ...leading,
    state,
    passed,
    total: total?.rows ?? null,
    totalKind: total?.kind ?? 'none',
  });
  return `${head.slice(0, -1)},"ticks":${encodeTicks(checked, posts)}}`;
}

function leadingOf({ sort }: CheckedQuery): {
  name: string;
  descending: boolean;
  indexed: boolean;
} {
  const [leading] = sort;
  if (leading === undefined) throw new Error('a table with a key has a sort');
  const { name, indexed } = leading.column;
  return { name, descending: leading.descending, indexed };
}

function encodeTicks({ sort }: CheckedQuery, posts: readonly Milepost[]): string {
  const [leading] = sort;
  if (leading === undefined) return '[]';
  const encode = valueEncoder(leading.column.type);
  const ticks = posts.map(({ number, values: [value = null] }) => {
    // Numbers count from 1, offsets from 0.
    return `{"offset":${number - 1},"value":${value === null ? 'null' : encode(value)}}`;
  });
  return `[${ticks.join(',')}]`;
}
