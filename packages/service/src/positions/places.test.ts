import { mkdtemp, readdir, rmdir } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { EntryFile } from './entry-file.ts';
import { Places } from './places.ts';

/** More than are written to the file at once. */
const many = 100_000;

async function numbered(count: number, folder = tmpdir()): Promise<Places> {
  const places = await Places.create(folder, ['int32']);
  for (let id = 0; id < count; id += 1) places.add([String(id * 2)]);
  return places;
}

const ids = async (places: Places, offset: number, count: number): Promise<number[]> =>
  (await places.keys(offset, count)).map(([id]) => Number(id) / 2);

describe('the places of a result', () => {
  it('are read anywhere, also where they have not reached the file yet', async () => {
    const places = await numbered(many);
    for (const offset of [0, 32_760, 65_530, 99_990]) {
      expect(await ids(places, offset, 20)).toEqual(
        Array.from({ length: Math.min(20, many - offset) }, (_, at) => offset + at),
      );
    }
    expect(await ids(places, many, 20)).toEqual([]);
    const before = places.held;
    await places.seal();
    expect([places.complete, places.held < before]).toEqual([true, true]);
    expect(await ids(places, 32_767, 2)).toEqual([32_767, 32_768]);
    await places.close();
  });

  it('leave no file behind', async () => {
    // A folder of its own: others make and remove such files meanwhile.
    const folder = await mkdtemp(join(tmpdir(), 'ephoros-own-'));
    const places = await numbered(many, folder);
    expect(await readdir(folder)).toEqual([]);
    await places.close();
    await rmdir(folder);
  });

  it('know where a row is, and up to where they were looked through', async () => {
    const places = await numbered(many);
    places.reach(['edge', null]);
    places.add(['-7']);
    expect(await places.offsetOf(['99998'], [])).toEqual({ rows: 49_999, self: true });
    expect(await places.offsetOf(['1'], ['edge', null])).toEqual({ rows: many, self: false });
    expect(await places.offsetOf(['1'], ['elsewhere', null])).toBeUndefined();
    // No key, though its bytes stand there, at an odd place.
    expect(await places.offsetOf(['512'], [])).toEqual({ rows: 256, self: true });
    expect(await places.offsetOf([String(2 ** 24)], [])).toBeUndefined();
    await places.close();
  });

  it('know which groups they stand in, one behind the other', async () => {
    const places = await Places.create(tmpdir(), ['int32']);
    const groups = ['a', null, '', 'b'];
    groups.forEach((group, at) => {
      for (let id = 0; id < 10; id += 1) places.add([String((at * 10 + id) * 2), group, 'x']);
    });
    expect(places.groupOf(['a', 'x'])).toEqual({ begin: 0, count: 10 });
    expect(places.groupOf([null, 'x'])).toEqual({ begin: 10, count: 10 });
    // It may go on.
    expect(places.groupOf(['b', 'x'])).toBeUndefined();
    await places.seal();
    expect(places.groupOf(['b', 'x'])).toEqual({ begin: 30, count: 10 });
    expect(places.groupOf(['c', 'x'])).toBeUndefined();
    await places.lose([['4'], ['44']], 0);
    expect(places.groupOf(['a', 'x'])).toEqual({ begin: 0, count: 9 });
    expect(places.groupOf(['', 'x'])).toEqual({ begin: 19, count: 9 });
    expect(places.groupOf(['b', 'x'])).toEqual({ begin: 28, count: 10 });
    await places.close();
  });

  it('are none where a group stands in two pieces', async () => {
    const places = await Places.create(tmpdir(), ['int32']);
    expect([places.add(['1', 'a']), places.add(['2', 'b']), places.add(['3', 'a'])]).toEqual([
      ...[true, true, false],
    ]);
    await places.close();
  });

  it('have no holes where rows have gone', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.integer({ min: 0, max: 199 }), { maxLength: 40 }),
        fc.integer({ min: 0, max: 199 }),
        async (gone, offset) => {
          const places = await numbered(200);
          const keys = gone.map((id) => [String(id * 2)]);
          await places.lose(keys, 0);
          // Twice is no more than once.
          await places.lose(keys, offset);
          const left = Array.from({ length: 200 }, (_, id) => id).filter(
            (id) => !gone.includes(id),
          );
          expect(places.count).toBe(left.length);
          expect(await ids(places, offset, 15)).toEqual(left.slice(offset, offset + 15));
          const [first] = left.slice(offset);
          if (first !== undefined) {
            const at = await places.offsetOf([String(first * 2)], []);
            expect(at).toEqual({ rows: offset, self: true });
          }
          await places.close();
        },
      ),
      { numRuns: 60 },
    );
  });

  it('refuse a folder that there is none of', async () => {
    await expect(EntryFile.create('/nowhere/at/all', 8)).rejects.toThrow('ENOENT');
  });
});
