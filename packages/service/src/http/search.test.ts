import pg from 'pg';
import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { overLowmere } from '../testing/lowmere.ts';
import { rowsPath, startService } from '../testing/service.ts';

const { lowmere } = testDatabases();
const at = overLowmere();

async function expected(statement: string): Promise<number> {
  const { rows } = await at.client.query<{ n: number }>(statement);
  return rows[0]?.n ?? -1;
}

describe('a search', () => {
  it.each([
    ['heron', ["'%heron%'"]],
    ['HERON gate', ["'%heron%'", "'%gate%'"]],
    ['"upper gate"', ["'%upper gate%'"]],
    ['10%', ["'%10\\%%'"]],
    ['level_low', ["'%level\\_low%'"]],
    ['C:\\\\log', ["'%c:\\\\log%'"]],
  ])('for %s finds what contains every term', async (search, patterns) => {
    // In the texts of a passage, or in what names the rows that it refers to.
    const places = ['p.note', 'l.name', 'b.name', 'k.name'];
    const tests = patterns.map(
      (pattern) => `(${places.map((place) => `${place} ilike ${pattern}`).join(' or ')})`,
    );
    const wanted = await expected(
      `select count(*)::int as n from passages p left join locks l on l.id = p.lock_id
         left join boats b on b.id = p.boat_id left join keepers k on k.id = p.keeper_id
         where ${tests.join(' and ')}`,
    );
    const { body } = await at.service.get(
      rowsPath('passages', { search: search.replace('\\\\', '\\'), limit: '1' }),
    );
    expect(wanted).toBeGreaterThan(0);
    expect(body.window.total).toBe(wanted);
  });

  it('looks where the configuration says, along foreign keys, or by words of a language', async () => {
    const configured = await startService(
      lowmere,
      'tables: { passages: { search: [note, lock.canal.name] }, boats: { search: [name], fullText: english } }',
    );
    try {
      const { body } = await configured.get(
        rowsPath('passages', { search: 'wend heron', limit: '1' }),
      );
      const wanted = await expected(
        `select count(*)::int as n from passages p join locks l on l.id = p.lock_id join canals c on c.id = l.canal_id
         where (note ilike '%wend%' or c.name ilike '%wend%') and (note ilike '%heron%' or c.name ilike '%heron%')`,
      );
      expect([body.window.total > 0, body.window.total]).toEqual([true, wanted]);
      const words = await configured.get(
        rowsPath('boats', { search: 'lanterns', explain: 'true', limit: '1' }),
      );
      expect(words.body.window.total).toBe(
        await expected(`select count(*)::int as n from boats where name ~ 'Lantern'`),
      );
      expect(words.body.explanation.paths.search).toBe('full text');
    } finally {
      await configured.close();
    }
  });

  it('puts first what meets it best, where it goes by words of a language', async () => {
    const fresh = await freshDatabase('ephoros_relevance', [
      'create table poems (id int primary key, text text)',
      `insert into poems select i, repeat('heron ', i % 7) || repeat('reed ', 20 - i % 5) from generate_series(1, 300) i`,
    ]);
    const poems = await startService(fresh.url, 'tables: { poems: { fullText: english } }');
    const path = (more: Record<string, string>): string =>
      rowsPath('poems', { columns: 'id', shape: 'arrays', limit: '50', search: 'herons', ...more });
    try {
      const own = new pg.Client({ connectionString: fresh.url });
      await own.connect();
      const { rows: wanted } = await own.query<{ id: number }>(
        `select id from (select id, to_tsvector('english', coalesce(text, '')) v from poems) p, phraseto_tsquery('english', 'herons') q
         where v @@ q order by ts_rank(v, q) desc, id desc`,
      );
      await own.end();
      const found: unknown[] = [];
      let place: Record<string, string> = {};
      for (;;) {
        const { body } = await poems.get(path({ sort: '-relevance', ...place }));
        found.push(...body.rows.flat());
        if (body.next === null) break;
        place = { after: body.next };
      }
      expect(found).toEqual(wanted.map(({ id }) => id));
      const { status, body } = await poems.get(rowsPath('poems', { sort: '-relevance' }));
      expect([status, body.errors[0].code, body.errors[0].position]).toEqual([
        400,
        'relevance-needs-search',
        1,
      ]);
    } finally {
      await poems.close();
      await fresh.drop();
    }
  });

  it('is refused where there is no text, and where the configuration names what is none', async () => {
    await expect(
      startService(lowmere, 'tables: { passages: { search: [notes, toll] } }'),
    ).rejects.toThrow('Unknown column notes in table passages.');
  });
});
