import { until } from '../../../core/src/testing/until.ts';
import { createLocalClient, cacheSmallResults } from './index.ts';

describe('a small result that is stored', () => {
  it('answers its own search, and no other', async () => {
    const names = ['heron', 'otter', 'heron and otter'];
    const rows = names.map((name, id) => ({ id, name }));
    const client = cacheSmallResults(createLocalClient({ t: { rows } }), { maxRows: 10 });
    const herons = client.table('t').search('heron');
    await herons.rows();
    await until(
      () => Promise.resolve(client.cached('t', herons.query).where),
      (where) => where === 'memory',
    );
    expect(client.cached('t', client.table('t').search('otter').query).where).toBe('service');
    expect(client.cached('t').where).toBe('service');
    const found = await client.table('t').search('otter').rows();
    expect(found.rows.map(({ name }) => name)).toEqual(['otter', 'heron and otter']);
    expect((await client.table('t').rows()).rows).toHaveLength(3);
  });
});
