import { rowsFrom, type WantedWindow } from './index.ts';
import { simulated } from './simulated.ts';

describe('trouble on demand', () => {
  it('fails as often as is wanted', async () => {
    const fails = (fail: number, random: number): Promise<boolean> =>
      simulated({ fail }, undefined, () => random).then(
        () => false,
        () => true,
      );
    expect(await fails(0.05, 0.049)).toBe(true);
    expect(await fails(0.05, 0.05)).toBe(false);
    expect(await fails(1, 0.999)).toBe(true);
    expect(await fails(0, 0)).toBe(false);
  });

  it('is given up with its question', async () => {
    const controller = new AbortController();
    const waiting = simulated({ delay: 60_000 }, controller.signal);
    controller.abort(new Error('nobody waits'));
    await expect(waiting).rejects.toThrow('nobody waits');
  });

  it('is none where nothing is wanted', async () => {
    await expect(simulated(undefined, undefined)).resolves.toBeUndefined();
    await expect(simulated({}, undefined)).resolves.toBeUndefined();
  });

  it('comes before a backend of one’s own gets requests', async () => {
    const requests: WantedWindow[] = [];
    const source = rowsFrom(
      (window) => {
        requests.push(window);
        return [];
      },
      { simulate: { fail: 1 } },
    );
    const failed = new Promise<void>((resolve) => {
      source.subscribe(() => {
        if (source.state().status === 'failed') resolve();
      });
    });
    source.setVisibleRows(0, 10);
    await failed;
    expect(source.state().error?.message).toBe('This failure is simulated.');
    expect(requests).toEqual([]);
    source.close();
  });
});
