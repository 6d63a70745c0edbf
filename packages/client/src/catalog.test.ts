import { passages } from '../../core/src/testing/passages.ts';
import type { TableDescription } from '@ephoros/core/schema';
import { Catalog } from './catalog.ts';

const locks: TableDescription = { ...passages, name: 'locks', label: 'note' };
const referring: TableDescription = {
  ...passages,
  relationships: [
    { name: 'lock', kind: 'one', table: 'locks', columns: ['lock_id'], references: ['id'] },
    { name: 'tolls', kind: 'many', table: 'tolls', columns: ['id'], references: ['passage_id'] },
  ],
};

/** A catalog over two tables, the questions that it asks, and its clock. */
function catalogOver(tables: Record<string, TableDescription>): {
  catalog: Catalog;
  requests: string[];
  clock: { now: number };
} {
  const requests: string[] = [];
  const clock = { now: 0 };
  const describe = (table: string): Promise<TableDescription> => {
    requests.push(table);
    const found = tables[table];
    return found === undefined
      ? Promise.reject(new Error('unavailable'))
      : Promise.resolve(structuredClone(found));
  };
  return { catalog: new Catalog({ describe }, { now: () => clock.now }), requests, clock };
}

describe('a catalog', () => {
  it('reads each table when it is needed, and once for all who ask', async () => {
    const { catalog, requests } = catalogOver({ passages: referring, locks });
    const [table] = await Promise.all([catalog.describe('passages'), catalog.describe('passages')]);
    expect(requests).toEqual(['passages']);
    expect(catalog.column('lock.note', table)).toBeUndefined();
    const columns = await catalog.columns(['toll', 'lock.note', 'nothing'], table);
    expect(columns.map((column) => column?.label)).toEqual(['Toll', 'Lock', undefined]);
    expect(requests).toEqual(['passages', 'locks']);
    expect(catalog.column('lock.note', table)?.label).toBe('Lock');
    await catalog.around('passages', 2);
    expect(requests).toEqual(['passages', 'locks']);
  });

  it('reads again what is old, and gives the same object where nothing has changed', async () => {
    const tables = { passages: referring };
    const { catalog, requests: given, clock } = catalogOver(tables);
    const first = await catalog.describe('passages');
    clock.now = 29_000;
    await catalog.describe('passages');
    expect(given).toHaveLength(1);
    clock.now = 31_000;
    tables.passages = { ...referring, estimatedRows: 3 };
    expect(await catalog.describe('passages')).toBe(first);
    expect(given).toHaveLength(2);
    clock.now = 70_000;
    tables.passages = { ...referring, title: 'Other' };
    expect((await catalog.describe('passages')).title).toBe('Other');
    expect(catalog.known('passages')?.title).toBe('Other');
  });

  it('reads again what an answer speaks against, but not again and again', async () => {
    const { catalog, requests: requested, clock } = catalogOver({ passages: referring });
    expect(catalog.invalidate('passages')).toBe(false);
    await catalog.describe('passages');
    expect(catalog.invalidate('passages')).toBe(false);
    clock.now = 3_000;
    expect(catalog.invalidate('passages')).toBe(true);
    await catalog.describe('passages');
    expect(requested).toHaveLength(2);
    expect(catalog.invalidate('passages')).toBe(false);
  });

  it('asks again for what failed', async () => {
    const tables: Record<string, TableDescription> = {};
    const { catalog } = catalogOver(tables);
    await expect(catalog.describe('passages')).rejects.toThrow('unavailable');
    tables.passages = referring;
    expect((await catalog.describe('passages')).name).toBe('passages');
  });
});
