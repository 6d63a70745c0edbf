import { checkQuery, type CheckedQuery } from '../check/index.ts';
import { parseParameters, type QueryParameter } from '../query/index.ts';
import type { TableDescription } from '../schema/index.ts';
import { passages } from '../testing/passages.ts';
import {
  amongKeys,
  canWalkParents,
  compilePlaces,
  compileRows,
  compileChunks,
  pathsOf,
  chunkBetween,
  type ChunkTemplates,
} from './index.ts';

const relations = (name: string): { schema: string; name: string } => ({ schema: 'public', name });

/** What the rows refer to. */
const locks: TableDescription = {
  ...passages,
  name: 'locks',
  columns: passages.columns.filter(({ name }) => ['id', 'note'].includes(name)),
  defaultSort: [],
};
const referring: TableDescription = {
  ...passages,
  relationships: [
    { name: 'lock', kind: 'one', table: 'locks', columns: ['lock_id'], references: ['id'] },
  ],
};

function check(parameters: Partial<Record<QueryParameter, string>>): CheckedQuery {
  const read = checkQuery(parseParameters(parameters).query, referring, { tables: () => locks });
  if ('problems' in read) throw new Error(read.problems[0]?.message);
  return read.checked;
}

function chunks(parameters: Partial<Record<QueryParameter, string>>): ChunkTemplates {
  const made = compileChunks(check(parameters), relations);
  if (made === undefined) throw new Error('no slices');
  return made;
}

type Values = readonly (string | null)[];

const bound = (templates: ChunkTemplates, from?: Values, to?: Values): string[] =>
  chunkBetween(templates, from, to).map(({ text }) => text);

describe('chunks of an order', () => {
  const sort = { sort: '-passed_at', filter: 'lock_id = 7' };

  it('lie behind one row and up to another, with a plain bound for the planner', () => {
    const [statement] = chunkBetween(chunks(sort), ['2024-02-01', '9'], ['2024-01-01', '5']);
    expect(statement?.text).toBe(
      'select t0."id" from "public"."passages" t0' +
        ' where t0."passed_at" <= $1::timestamptz and t0."passed_at" >= $2::timestamptz' +
        ' and (t0."passed_at", t0."id") < ($3::timestamptz, $4::int8)' +
        ' and (t0."passed_at", t0."id") >= ($5::timestamptz, $6::int8)' +
        ' and t0."lock_id" = $7::int4 order by t0."passed_at" desc, t0."id" desc',
    );
    expect(statement?.parameters).toEqual([
      '2024-02-01',
      '2024-01-01',
      '2024-02-01',
      '9',
      '2024-01-01',
      '5',
      '7',
    ]);
  });

  it('are open at the beginning and at the end', () => {
    const [first = ''] = bound(chunks(sort), undefined, ['2024-01-01', '5']);
    expect(first).not.toContain('<=');
    const [last = ''] = bound(chunks(sort), ['2024-01-01', '5'], undefined);
    expect(last).not.toContain('>=');
    const [whole = ''] = bound(chunks(sort), undefined, undefined);
    expect(whole).toContain('where t0."lock_id" = $1::int4 order by');
  });

  it('go over from rows with a leading value to those without one', () => {
    const templates = chunks({ sort: '-toll', filter: 'lock_id = 7' });
    const has = (texts: readonly string[]): string[] =>
      texts.map((text) => (text.includes('"toll" is not null') ? 'valued' : 'missing'));
    expect(has(bound(templates, ['9.00', '4'], ['8.00', '3']))).toEqual(['valued']);
    expect(has(bound(templates, ['9.00', '4'], [null, '3']))).toEqual(['valued', 'missing']);
    expect(has(bound(templates, [null, '4'], [null, '3']))).toEqual(['missing']);
    expect(has(bound(templates, [null, '4'], undefined))).toEqual(['missing']);
    expect(has(bound(templates, undefined, undefined))).toEqual(['valued', 'missing']);
  });

  it('are not cut where a further column may be null', () => {
    expect(compileChunks(check({ sort: 'note,id' }), relations)).toBeDefined();
    expect(compileChunks(check({ sort: 'passed_at,toll' }), relations)).toBeUndefined();
  });
});

describe('places', () => {
  it('are the keys alone, by one sort', () => {
    expect(compilePlaces(check({ sort: 'lock_id,-toll' }), relations).text).toBe(
      'select t0."id" from "public"."passages" t0 order by t0."lock_id", t0."toll" desc nulls last, t0."id" desc',
    );
  });

  it('lead to windows that still meet the condition', () => {
    const query = amongKeys(check({ filter: 'toll > 5', offset: '900', limit: '2' }), [
      ['7'],
      ['9'],
    ]);
    const { text, parameters } = compileRows(query, relations);
    expect(text).toContain('t0."id" in ($1::int8, $2::int8) and t0."toll" > $3::numeric');
    expect(parameters.slice(0, 3)).toEqual(['7', '9', '5']);
    expect(query).toMatchObject({ offset: 0, limit: 2 });
    // Of those that were selected by their keys they stay.
    const selected = check({ filter: 'id IN (7, 8, 9) AND toll > 5' });
    expect(amongKeys(selected, [['7']]).filter).toMatchObject({ operands: { length: 3 } });
    const among = { ...selected, filter: amongKeys(query, [['7'], ['8'], ['9']]).filter };
    expect(compileRows(amongKeys(among as CheckedQuery, [['7']]), relations).parameters).toEqual([
      ...['7', '5'],
    ]);
  });
});

describe('an order by a related column', () => {
  const query = check({ sort: 'lock.note', columns: 'id', limit: '10' });

  it('is walked parent by parent, and then over rows without one', () => {
    expect(canWalkParents(query)).toBe(true);
    expect(canWalkParents(check({ sort: 'id' }))).toBe(false);
    const { text } = compileRows({ ...query, byParents: 'key' }, relations);
    const [mark = '', parents = '', missing = ''] = text.split(' union all ');
    // Where the next one begins is known before its rows are read.
    expect(mark).toMatch(
      / p cross join lateral \(\(select true as mark, null as c0, null as c1\)$/,
    );
    expect(parents).toMatch(/^\(select false, .* where t0."lock_id" = p.k0 .* limit 11\) u\)\) r /);
    expect(parents).toContain('order by p.v, r.c0 offset 0) w where not mark limit 11');
    expect(missing).toContain('"note" is null');
    expect(pathsOf({ ...query, byParents: 'key' }).parents).toBe('one by one');
    expect(pathsOf(query).parents).toBe('sorted');
  });

  it('is walked value by value as well: the parents with the same value are taken together', () => {
    const byValue = { ...query, byParents: 'value' } as const;
    const { text } = compileRows(byValue, relations);
    expect(text).toMatch(/select distinct t0."note" as v .* order by t0."note"\) p cross join/);
    expect(text).toContain('where t1."note" = p.v order by');
    expect(pathsOf(byValue).parents).toBe('value by value');
  });

  it('goes on among parents with the same value, and then to the further ones', () => {
    const anchor = { kind: 'after', values: ['Osier', '17'] } as const;
    const { text } = compileRows({ ...query, anchor, byParents: 'key' }, relations);
    const [same = '', further = ''] = text.split(' where not mark');
    expect(same).toContain('"note" = $');
    expect(same).toContain('(t0."id") > ($');
    expect(further).toContain('"note" > $');
    expect(further).not.toContain('(t0."id") > ($');
  });
});
