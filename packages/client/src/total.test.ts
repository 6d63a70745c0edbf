import type { RowsAnswer, Window } from './index.ts';
import { ServiceError, type ServiceErrorKind } from './service-error.ts';
import { countExactly, learnt, unknownTotal, type KnownTotal } from './total.ts';

type Counted = Pick<Window, 'total' | 'totalKind'>;

function answer(count: number, next: string | null, counted?: Counted): RowsAnswer {
  const { total, totalKind } = counted ?? { total: null, totalKind: 'none' };
  return {
    table: 't',
    columns: [],
    rows: Array.from({ length: count }, () => ({})),
    window: { offset: null, limit: 10, count, total, totalKind },
    next,
    previous: null,
  };
}

const about = (total: number): Counted => ({ total, totalKind: 'estimate' });
const exactly = (total: number): Counted => ({ total, totalKind: 'exact' });
const exact = (total: number): KnownTotal => ({ total, totalKind: 'exact', open: false });
const estimate = (total: number): KnownTotal => ({ total, totalKind: 'estimate', open: false });
const open = (total: number): KnownTotal => ({ total, totalKind: 'none', open: true });

describe('what an answer says about the number of rows', () => {
  it.each([
    ['an exact total is the total', unknownTotal, 0, answer(10, 'c', exactly(95)), exact(95)],
    ['an estimate is one', unknownTotal, 0, answer(10, 'c', about(95)), estimate(95)],
    [
      'an estimate below what was seen is raised',
      unknownTotal,
      90,
      answer(10, 'c', about(50)),
      estimate(101),
    ],
    [
      'an estimate where the end was read gives way',
      unknownTotal,
      0,
      answer(4, null, about(95)),
      exact(4),
    ],
    ['nothing at all is none', unknownTotal, 0, answer(0, null, about(95)), exact(0)],
    [
      'an estimate behind the end is lowered',
      unknownTotal,
      90,
      answer(0, null, about(95)),
      estimate(90),
    ],
    ['uncounted, the end is open', unknownTotal, 0, answer(10, 'c'), open(10)],
    ['and is found by reading on', open(10), 10, answer(3, null), exact(13)],
    ['looking back takes nothing away', open(30), 10, answer(10, 'c'), open(30)],
    ['a result may have become shorter', exact(100), 90, answer(5, null), exact(95)],
    ['much shorter', exact(100), 90, answer(0, null), estimate(90)],
    ['or longer', exact(100), 90, answer(10, 'c'), estimate(101)],
    ['in the middle nothing is learnt', exact(100), 50, answer(10, 'c'), exact(100)],
  ])('%s', (_words, known, first, given, expected) => {
    expect(learnt(known, first, given, 10, true)).toEqual(expected);
  });

  it('takes a full window without a cursor for the end only where there is a key', () => {
    expect(learnt(unknownTotal, 0, answer(10, null), 10, true)).toEqual(exact(10));
    expect(learnt(unknownTotal, 0, answer(10, null), 10, false)).toEqual(open(10));
    expect(learnt(exact(100), 90, answer(10, null), 10, false)).toEqual(exact(100));
  });
});

describe('an exact count', () => {
  /** What comes of answers that are given one by one, and the estimates that are reported meanwhile. */
  async function counting(
    ...answers: readonly (RowsAnswer | ServiceError)[]
  ): Promise<[number | undefined, number[], number]> {
    const reported: number[] = [];
    let startedAt = 0;
    const request = (): Promise<RowsAnswer> => {
      const given = answers[startedAt] ?? new ServiceError('failed', 'That was all.');
      startedAt += 1;
      return given instanceof ServiceError ? Promise.reject(given) : Promise.resolve(given);
    };
    const count = await countExactly(request, {}, new AbortController().signal, (near) =>
      reported.push(near),
    );
    return [count, reported, startedAt];
  }
  const error = (kind: ServiceErrorKind): ServiceError => new ServiceError(kind, 'No.');

  it('is requested until it is there, estimates being reported', async () => {
    expect(await counting(answer(1, 'c', about(90)), answer(1, 'c', exactly(95)))).toEqual([
      ...[95, [90], 2],
    ]);
    expect(await counting(answer(1, 'c'), answer(1, 'c', exactly(95)))).toEqual([95, [], 2]);
  });

  it('is requested again where the service is away, and given up where the question is wrong', async () => {
    const there = answer(1, 'c', exactly(95));
    expect(await counting(error('unavailable'), there)).toEqual([95, [], 2]);
    expect(await counting(error('refused'), there)).toEqual([undefined, [], 1]);
  });
});
