import { ConnectionLimiter } from './connection-limiter.ts';

/** Enters and notes it; the result leaves again. */
function entering(gate: ConnectionLimiter, pool: string, inside: string[]): Promise<() => void> {
  return gate.enter(pool).then((leave) => {
    inside.push(pool);
    return leave;
  });
}

const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

describe('the gate in front of the connections', () => {
  it('leaves a quarter of the places to other tables than the busiest', async () => {
    const gate = new ConnectionLimiter({ places: 4, queue: 10, waitLimit: 60_000 });
    const inside: string[] = [];
    const slow = Array.from({ length: 6 }, () => entering(gate, 'slow', inside));
    await turn();
    expect(inside).toEqual(['slow', 'slow', 'slow']);
    const leave = await entering(gate, 'quick', inside);
    expect(inside).toHaveLength(4);
    leave();
    await turn();
    expect(inside).toEqual(['slow', 'slow', 'slow', 'quick']);
    for (const one of slow) (await one)();
  });

  it('lets those who wait in by turns of their tables', async () => {
    const gate = new ConnectionLimiter({ places: 1, queue: 10, waitLimit: 60_000 });
    const inside: string[] = [];
    const first = await gate.enter('a');
    const waiting = ['a', 'a', 'a', 'b', 'c'].map((pool) => entering(gate, pool, inside));
    first();
    for (const one of [waiting[0], waiting[3], waiting[4], waiting[1], waiting[2]]) {
      (await one)?.();
    }
    expect(inside).toEqual(['a', 'b', 'c', 'a', 'a']);
    expect(gate.waiting).toBe(0);
  });

  it('is shut at once behind a full queue, which one table cannot fill', async () => {
    const gate = new ConnectionLimiter({ places: 1, queue: 4, waitLimit: 60_000 });
    const leave = await gate.enter('a');
    const inside: string[] = [];
    const waiting = [1, 2, 3].map(() => entering(gate, 'a', inside));
    await expect(gate.enter('a')).rejects.toMatchObject({ kind: 'full' });
    const other = entering(gate, 'b', inside);
    await expect(gate.enter('c')).rejects.toMatchObject({ kind: 'full' });
    leave();
    for (const one of [waiting[0], other, waiting[1], waiting[2]]) (await one)?.();
    expect(inside).toEqual(['a', 'b', 'a', 'a']);
  });

  it('forgets who loses wait limit or goes away', async () => {
    const gate = new ConnectionLimiter({ places: 1, queue: 4, waitLimit: 20 });
    const leave = await gate.enter('a');
    const controller = new AbortController();
    const gone = gate.enter('a', controller.signal);
    controller.abort();
    await expect(gone).rejects.toMatchObject({ kind: 'cancelled' });
    await expect(gate.enter('a')).rejects.toMatchObject({ kind: 'full' });
    expect(gate.waiting).toBe(0);
    leave();
    leave();
    const again = await gate.enter('b');
    await expect(gate.enter('c')).rejects.toMatchObject({ kind: 'full' });
    again();
  });
});
