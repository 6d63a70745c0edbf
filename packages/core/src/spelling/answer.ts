import { printAnswer, type RowsAnswer } from '../answer/index.ts';
import type { AnswerSpelling, Spelling } from './spelling.ts';

/** What stands in the body of an answer. */
type Place = Exclude<keyof AnswerSpelling, `${string}Header`>;

type Tree = Partial<Record<string, unknown>>;

/** An answer as a page of another spelling reads it: a body, and headers next to it. */
export interface SpelledAnswer {
  readonly json: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** Writes an answer's rows, and what is known of them, where a spelling has them. */
export function spellAnswer(
  { rows, window, next, previous }: Pick<RowsAnswer, 'rows' | 'window' | 'next' | 'previous'>,
  { answer, parameters }: Spelling,
): SpelledAnswer {
  const { limit, offset, count } = window;
  // A page takes what it reads for a fact: an estimate is none.
  const total = window.totalKind === 'exact' ? window.total : null;
  const pages = total === null ? null : Math.ceil(total / limit);
  const page = offset === null ? null : Math.floor(offset / limit) + (parameters.page?.from ?? 1);
  const known: Readonly<Record<Place, unknown>> = {
    rows,
    total,
    page,
    pages,
    limit,
    offset: offset === null ? null : offset + (parameters.offset?.from ?? 0),
    count,
    next,
    previous,
  };
  const counts = [
    [answer.totalHeader, total],
    [answer.pagesHeader, pages],
  ] as const;
  const headers = counts.flatMap(([header, value]): [string, string][] =>
    header === undefined || value === null ? [] : [[header, String(value)]],
  );
  return { json: printAnswer(bodyOf(answer, known)), headers: Object.fromEntries(headers) };
}

function bodyOf(answer: AnswerSpelling, known: Readonly<Record<Place, unknown>>): unknown {
  if (answer.rows === '') return known.rows;
  const body: Tree = {};
  for (const [name, place] of Object.entries(answer) as [Place, string | undefined][]) {
    if (place === undefined || !(name in known)) continue;
    const path = place.split('.');
    let at = body;
    for (const part of path.slice(0, -1)) at = at[part] ??= {};
    at[path.at(-1) ?? ''] = known[name];
  }
  return body;
}
