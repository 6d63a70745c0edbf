import { Samples } from './samples.ts';

function filled(step: number, count: number): Samples {
  const samples = new Samples(step);
  for (let index = 1; index <= count; index += 1) {
    samples.add({ number: index * step, values: [String(index * step), null] });
  }
  return samples;
}

describe('mileposts', () => {
  it('give the last one before a place', () => {
    const samples = filled(10, 5);
    expect(samples.before(9)).toBeUndefined();
    expect(samples.before(10)).toEqual({ number: 10, values: ['10', null] });
    expect(samples.before(39)?.number).toBe(30);
    expect(samples.before(1_000)?.number).toBe(50);
    expect(samples.reach).toBe(50);
  });

  it('are thinned out where there are too many, and stay right', () => {
    const samples = filled(3, 100_000);
    expect(samples.step).toBe(24);
    expect(samples.before(299_999)).toEqual({ number: 299_976, values: ['299976', null] });
    expect(samples.bytes).toBeLessThan(16_385 * 200);
    expect(filled(3, 10).bytes).toBeLessThan(samples.bytes);
  });

  it('give even places over all of them', () => {
    const numbers = filled(10, 9)
      .even(3)
      .map(({ number }) => number);
    expect(numbers).toEqual([10, 50, 90]);
    expect(filled(10, 2).even(5)).toHaveLength(2);
    expect(filled(10, 5).even(1)).toHaveLength(1);
  });
});
