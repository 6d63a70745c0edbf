import { createLocalClient } from '@ephoros/client/local';
import { plainColumn } from '@ephoros/core/schema';
import { plainTable } from '../../../core/src/testing/tables.ts';
import { english } from '../messages/english.ts';
import type { NamedReference } from './import-references.ts';
import { importedRows, ReferenceKeys, withCorrections, type Reading } from './import-rows.ts';

const id = plainColumn('id', { kind: 'integer', bits: 32 }, { nullable: false });
const owners = plainTable('owners', [id, plainColumn('name', { kind: 'text' })]);
const writing = { add: true } as const;
const owner = plainColumn('owner_id', { kind: 'integer', bits: 32 }, { nullable: false, writing });
const boats = plainTable('boats', [id, owner, plainColumn('name', { kind: 'text' }, { writing })], {
  changes: { add: true, change: true, remove: true },
});
const client = createLocalClient({
  owners: {
    rows: [
      { id: 1, name: 'Ida' },
      { id: 2, name: 'Twin' },
      { id: 3, name: 'Twin' },
      { id: 4, name: '1' },
    ],
  },
});
const reference: NamedReference = {
  step: { name: 'owner', kind: 'one', table: 'owners', columns: ['owner_id'], references: ['id'] },
  other: owners,
  name: 'name',
  key: id,
} as never;
const [, , name] = boats.columns;
const references = new Map([['owner_id', reference]]);

async function read(texts: readonly string[]) {
  const messages = await english.editing();
  const file = texts.map((text, at) => ({ line: at + 2, cells: [text, `boat ${at}`] }));
  const matching = [owner, name];
  const keysOf = new ReferenceKeys();
  const requests: string[] = [];
  const rows: typeof client.rows = (table, ...rest) => {
    requests.push(table);
    return client.rows(table, ...rest);
  };
  const about = { matching, references, zone: 'UTC' };
  const { signal } = new AbortController();
  const find = (corrections: Parameters<typeof withCorrections>[2]) =>
    keysOf.find(file, corrections, about, rows, signal);
  const reading = async (corrections = new Map()): Promise<Reading> => ({
    ...about,
    table: boats,
    keys: await find(corrections),
    messages,
  });
  return { file, reading, asked: requests };
}

it('finds related rows by their names and keys, and says which name is that of none or of several', async () => {
  const { file, reading } = await read(['Ida', '3', 'Twin', 'Nobody', '1', '99999999999']);
  const { rows, problems } = importedRows(file, new Map(), await reading());
  expect(rows.map((row) => row.owner_id)).toEqual([
    1,
    3,
    undefined,
    undefined,
    undefined,
    undefined,
  ]);
  expect(problems.map(({ row, column, message }) => `${row} ${column} ${message}`)).toEqual([
    "2 owner_id owners has several rows with the name or key 'Twin'. Use the key of one of them.",
    "3 owner_id owners has no row with the name or key 'Nobody'.",
    // The name of one row is the key of another.
    "4 owner_id owners has several rows with the name or key '1'. Use the key of one of them.",
    "5 owner_id owners has no row with the name or key '99999999999'.",
  ]);
});

it('looks up a corrected name alone, and reads its row again', async () => {
  const { file, reading, asked: requests } = await read(['Ida', 'Nobody']);
  const before = importedRows(file, new Map(), await reading());
  expect(requests).toHaveLength(1);
  const corrections = new Map([[1, { owner_id: '2' }]]);
  const after = withCorrections(file, before, corrections, await reading(corrections));
  expect(requests).toHaveLength(2);
  expect(after.problems).toEqual([]);
  expect(after.rows.map((row) => row.owner_id)).toEqual([1, 2]);
  expect(after.rows[0]).toBe(before.rows[0]);
});

it('looks up a name once, however many rows have it', async () => {
  const { file, reading, asked: requests } = await read(Array.from({ length: 500 }, () => 'Ida'));
  expect(importedRows(file, new Map(), await reading()).problems).toEqual([]);
  expect(requests).toHaveLength(1);
});
