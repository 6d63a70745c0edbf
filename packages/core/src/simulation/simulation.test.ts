import { printSimulation, readSimulation } from './index.ts';

describe('trouble on demand', () => {
  it.each([
    ['', {}],
    ['delay=800ms', { delay: 800 }],
    ['fail=5%, delay=1.5s', { delay: 1_500, fail: 0.05 }],
    ['fail=100%', { fail: 1 }],
  ])('is read as it is written: %s', (text, simulation) => {
    expect(readSimulation(text)).toEqual(simulation);
    expect(readSimulation(printSimulation(simulation))).toEqual(simulation);
  });

  it.each(['delay=8', 'delay=61s', 'fail=101%', 'fail=5', 'delay=1s,delay=2s', 'slow', 'fail=-1%'])(
    'is nothing else: %s',
    (text) => expect(readSimulation(text)).toBeUndefined(),
  );
});
