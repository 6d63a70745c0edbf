import type { Catalog } from '../catalog/index.ts';
import { Failure } from '../run/index.ts';
import { CurrentCatalog } from './current-catalog.ts';

const catalogOf = (fingerprint: string, isWritableKnown = true): Catalog =>
  ({ fingerprint, isWritableKnown }) as Catalog;

describe('the catalog as it was read last', () => {
  /** A catalog that is looked at each time it is read, over a database that is `here`. */
  const watched = (here: { mark: string | Error; version: string; isWritableKnown?: boolean }) => {
    const counts = { readings: 0, looks: 0 };
    const clock = { now: 0 };
    const current = new CurrentCatalog(
      () => {
        counts.readings += 1;
        return Promise.resolve(catalogOf(here.version, here.isWritableKnown));
      },
      {
        age: 1_000,
        now: () => clock.now,
        mark: () => {
          counts.looks += 1;
          return here.mark instanceof Error
            ? Promise.reject(here.mark)
            : Promise.resolve(here.mark);
        },
      },
    );
    const later = async (): Promise<string> => {
      clock.now += 1_000;
      await current.read();
      await new Promise((resolve) => setImmediate(resolve));
      return (await current.read()).fingerprint;
    };
    return { counts, current, later };
  };

  it('is not read again while the database has the same mark', async () => {
    const here = { mark: 'a', version: 'one' };
    const { counts, current, later } = watched(here);
    await current.read();
    for (let times = 0; times < 5; times += 1) expect(await later()).toBe('one');
    expect(counts.readings).toBe(1);
    expect(counts.looks).toBeGreaterThan(4);
  });

  it('is read again with another mark', async () => {
    const here = { mark: 'a', version: 'one' };
    const { current, later } = watched(here);
    await current.read();
    Object.assign(here, { mark: 'b', version: 'two' });
    expect(await later()).toBe('two');
  });

  it('is read again now and then under the same mark too', async () => {
    const here = { mark: 'a', version: 'one' };
    const { current, later } = watched(here);
    await current.read();
    here.version = 'two';
    const found: string[] = [];
    for (let times = 0; times < 12; times += 1) found.push(await later());
    expect(found).toContain('two');
  });

  it('is read again where nobody can tell, or where its grants are not known', async () => {
    for (const odd of [{ mark: new Error('no counters') }, { isWritableKnown: false }]) {
      const here = { mark: 'a', version: 'one', ...odd };
      const { current, later } = watched(here);
      await current.read();
      here.version = 'two';
      expect(await later()).toBe('two');
    }
  });

  it('is read again at once after a failure that tells of a change', async () => {
    const here = { mark: 'a', version: 'one' };
    const { current } = watched(here);
    await current.read();
    here.version = 'two';
    expect(await current.renewedAfter(new Failure('changed'))).toBe(true);
    expect((await current.read()).fingerprint).toBe('two');
  });
});
