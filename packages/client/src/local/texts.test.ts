import type { ServiceError } from '../index.ts';
import { createLocalClient, DataError, type LocalTableSource } from './index.ts';
import type { HtmlTable } from './texts.ts';

async function read(
  source: LocalTableSource,
): Promise<{ types: Record<string, string>; rows: readonly object[]; key: readonly string[] }> {
  const client = createLocalClient({ t: source });
  const { columns, key } = await client.describe('t');
  const { rows } = await client.rows('t');
  const types = columns.map(({ name, type }) => [name, type.kind]);
  return { types: Object.fromEntries(types) as Record<string, string>, rows, key };
}

const csv =
  'id,name,toll,passed at,on,ok,code\n1,"Heron, the 2nd",12.50,2024-02-29T10:15:00Z,2024-02-29,true,007\n2,,,,,false,012\n';

describe('local data', () => {
  it('is read from CSV with the types that the values show', async () => {
    expect(await read({ csv })).toEqual({
      types: {
        id: 'integer',
        name: 'text',
        toll: 'numeric',
        'passed at': 'timestamp',
        on: 'date',
        ok: 'boolean',
        code: 'text',
      },
      rows: [
        {
          id: 1,
          name: 'Heron, the 2nd',
          toll: '12.50',
          'passed at': '2024-02-29T10:15:00Z',
          on: '2024-02-29',
          ok: true,
          code: '007',
        },
        { id: 2, name: null, toll: null, 'passed at': null, on: null, ok: false, code: '012' },
      ],
      key: ['id'],
    });
    const semicolons = await read({ csv: '\uFEFFa;b\r\n1;2\r\n' });
    expect(semicolons.rows).toEqual([{ a: 1, b: 2 }]);
  });

  it('is read from JSON, NDJSON and arrays alike', async () => {
    const rows = [
      { n: 1.5, at: new Date('2024-02-29T10:15:00Z') },
      { n: 2, more: [1] },
    ];
    const text = [
      { n: 1.5, at: '2024-02-29T10:15:00.000Z' },
      { n: 2, more: [1] },
    ];
    const expected = (await read({ rows })).rows;
    expect(expected).toEqual([
      { n: 1.5, at: '2024-02-29T10:15:00.000Z', more: null },
      { n: 2, at: null, more: [1] },
    ]);
    expect((await read({ json: JSON.stringify(text) })).rows).toEqual(
      expected.map((row) => ({
        ...row,
        at: text[0]?.at === undefined ? null : (row as any).at && '2024-02-29T10:15:00.000Z',
      })),
    );
    const lines = text.map((row) => JSON.stringify(row)).join('\n');
    expect((await read({ ndjson: `${lines}\n\n` })).rows).toHaveLength(2);
  });

  it('is read from a table in the page', async () => {
    const cell = (textContent: string, attributes: Record<string, string> = {}): object => ({
      textContent,
      getAttribute: (name: string) => attributes[name] ?? null,
    });
    const html = {
      tHead: { rows: [{ cells: [cell(' Passed\n at '), cell('Toll', { 'data-name': 'fee' })] }] },
      tBodies: [{ rows: [{ cells: [cell('today', { 'data-value': '2024-02-29' }), cell('12')] }] }],
    } as unknown as HtmlTable;
    const { rows, types } = await read({ html });
    expect(rows).toEqual([{ passed_at: '2024-02-29', fee: 12 }]);
    expect(types).toEqual({ passed_at: 'date', fee: 'integer' });
    const { columns } = await createLocalClient({ t: { html } }).describe('t');
    expect(columns.map(({ label }) => label)).toEqual(['Passed at', 'Toll']);
  });

  it.each<[LocalTableSource, string]>([
    [{ csv: 'a,b\n1,2,3\n' }, 'Line 2 of the CSV text has 3 values for 2 columns.'],
    [
      { csv: 'a,b\n\n"two\nlines",2\n1,2,3\n' },
      'Line 5 of the CSV text has 3 values for 2 columns.',
    ],
    [{ csv: 'a,a\n1,2\n' }, 'The CSV text has two columns called a.'],
    [{ csv: 'a,b\n"1,2\n' }, 'of the CSV text: Quoted field unterminated.'],
    [{ json: '{' }, 'The JSON text is no JSON'],
    [{ json: '{"a":1}' }, 'The JSON text is no list of rows.'],
    [{ ndjson: '{"a":1}\n{"a"' }, 'Line 2 is no JSON'],
    [{ rows: [{ a: 1 }, 7 as unknown as object] }, 'Row 2 is no object'],
    [{ csv, key: ['nr'] }, 'No row of t has a column nr. There are id, name,'],
    [{ csv, columns: { tol: {} } }, 'No row of t has a column tol.'],
  ])(
    'that is malformed is refused with its place, by every question: %#',
    async (source, message) => {
      // Made while a page is drawn, a client that throws would take the page with it.
      const client = createLocalClient({ t: source });
      const refused = await client.describe('t').catch((thrown: unknown) => thrown as ServiceError);
      expect(refused).toMatchObject({ kind: 'failed', message: expect.stringContaining(message) });
      expect((refused as ServiceError).cause).toBeInstanceOf(DataError);
      await expect(client.rows('t')).rejects.toThrow(message);
    },
  );

  it('has ticks at even places, rows by key, and no tables but its own', async () => {
    const rows = Array.from({ length: 101 }, (_, n) => ({ id: n, at: 100 - n }));
    const client = createLocalClient({ t: { rows, sort: ['-at'] } });
    const { ticks, column } = await client.mileposts('t', {}, 3);
    expect([column, ticks.map(({ offset, value }) => [offset, value])]).toEqual([
      'at',
      [
        [0, 100],
        [50, 50],
        [100, 0],
      ],
    ]);
    expect(await client.row('t', [7])).toEqual({ id: 7, at: 93 });
    await expect(client.row('t', [700])).rejects.toMatchObject({ status: 404 });
    await expect(client.rows('u')).rejects.toThrow('Unknown table u. Known tables: t.');
  });
});
