import type { RemoteRows } from '../remote-rows.ts';
import type { RowsAnswer } from '@ephoros/core/answer';
import type { WrittenQuery } from '@ephoros/core/query';

/** A request, and how it is answered. */
export interface Requested {
  /** `offset 20`, `after 19`, `before 20`, or `count`. */
  readonly place: string;
  readonly total: string | undefined;
  readonly signal: AbortSignal;
  readonly answer: () => void;
  readonly fail: (error: Error) => void;
}

/** A service over a sorted list of numbers, to which others write; cursors are numbers. */
export class FakeService {
  readonly wanted: Requested[] = [];
  readonly ids: number[];
  /** Answers at once unless the test does it. */
  manual = true;
  /** What `total=exact` and `total=estimate` give. */
  exact = true;
  estimate: number | undefined;

  constructor(count: number) {
    this.ids = Array.from({ length: count }, (_, n) => n);
  }

  request = (query: WrittenQuery, signal: AbortSignal): Promise<RowsAnswer> =>
    new Promise((resolve, reject) => {
      const { place, limit = 0, total } = query;
      const counting = limit === 1;
      const text = place === undefined ? '' : Object.values(place).join(' ');
      signal.addEventListener('abort', () => reject(new Error('aborted')));
      const wanted: Requested = {
        place: counting ? 'count' : text,
        total,
        signal,
        answer: () => resolve(this.window(query)),
        fail: reject,
      };
      this.wanted.push(wanted);
      if (!this.manual) setTimeout(wanted.answer);
    });

  places(): string[] {
    return this.wanted.map(({ place }) => place).filter((place) => place !== 'count');
  }

  private window({ place, limit = 0, total }: WrittenQuery): RowsAnswer {
    const { ids } = this;
    let from = place?.kind === 'offset' ? place.offset : 0;
    let to = from + limit;
    if (place?.kind === 'after') {
      const found = ids.findIndex((id) => id > Number(place.token));
      from = found === -1 ? ids.length : found;
      to = from + limit;
    } else if (place?.kind === 'before') {
      const found = ids.findIndex((id) => id >= Number(place.token));
      to = found === -1 ? ids.length : found;
      from = Math.max(0, to - limit);
    }
    const rows = ids.slice(from, to);
    const estimated = total === 'estimate' || (total === 'exact' && !this.exact);
    const totalKind = total === 'none' ? 'none' : estimated ? 'estimate' : 'exact';
    return {
      table: 't',
      columns: ['id'],
      rows: rows.map((id) => ({ id })),
      window: {
        offset: from,
        limit,
        count: rows.length,
        total: total === 'none' ? null : estimated ? (this.estimate ?? ids.length) : ids.length,
        totalKind,
      },
      next: to < ids.length && rows.length > 0 ? String(rows.at(-1)) : null,
      previous: from > 0 && rows.length > 0 ? String(rows[0]) : null,
    };
  }
}

/** What distinguishes the rows at some positions. */
export function idsOf(source: RemoteRows, from: number, to: number): unknown[] {
  return Array.from({ length: to - from }, (_, index) => source.row(from + index)?.id);
}
