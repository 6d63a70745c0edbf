import {
  columnsAround,
  findColumn,
  plainColumn,
  toldApart,
  type TableDescription,
} from './index.ts';
import { plainTable } from '../testing/tables.ts';

/** A table with columns of text; the first one names its rows. */
function table(
  name: string,
  columns: readonly string[],
  references: Readonly<Record<string, string>>,
): TableDescription {
  const keys = Object.keys(references).map((one) => `${one}_id`);
  const [label] = columns;
  return plainTable(
    name,
    ['id', ...keys, ...columns].map((one) => plainColumn(one, { kind: 'text' })),
    {
      ...(label === undefined ? {} : { label }),
      relationships: Object.entries(references).map(([one, to]) => ({
        name: one,
        kind: 'one',
        table: to,
        columns: [`${one}_id`],
        references: ['id'],
      })),
    },
  );
}

const passages = table('passages', ['note'], { lock: 'locks', boat: 'boats' });
const others = [
  table('locks', ['name', 'rise'], { canal: 'canals' }),
  table('canals', ['name', 'length'], {}),
  table('boats', ['name'], { owner: 'owners', 'home.lock': 'locks' }),
  table('owners', ['name', 'town'], {}),
];
const all = new Map(others.map((one) => [one.name, one]));
const labelled = (name: string): string => {
  const found = findColumn(name, passages, (one) => all.get(one));
  return 'own' in found ? found.label : 'unknown';
};

describe('a column of what a row refers to', () => {
  it.each([
    // By what it is, where it names that.
    ['lock.canal.name', 'Canal'],
    ['boat.owner.name', 'Owner'],
    ['lock.canal.length', 'Canal length'],
    ['lock.rise', 'Lock rise'],
    // A column of a name with dots in it.
    ['boat.home.lock.name', 'Home.lock'],
    ['note', 'Note'],
    ['lock.nothing', 'unknown'],
    ['nothing.name', 'unknown'],
  ])('%s is called %s', (name, label) => {
    expect(labelled(name)).toBe(label);
  });

  it('is called by its whole path where the table has a column of that name', () => {
    const own = {
      ...passages,
      columns: [...passages.columns, plainColumn('canal', { kind: 'text' })],
    };
    const found = findColumn('lock.canal.name', own, (one) => all.get(one));
    expect(found).toMatchObject({ label: 'Lock canal name' });
  });

  it('is distinguished from another that is called the same', () => {
    const tables = (one: string): TableDescription | undefined => all.get(one);
    const [one, other] = ['lock.name', 'boat.home.lock.name'].map((name) =>
      findColumn(name, passages, tables),
    );
    if (one === undefined || other === undefined || !('own' in one) || !('own' in other)) {
      throw new Error('both are there');
    }
    const same = [
      { ...one, label: 'Lock' },
      { ...other, label: 'Lock' },
    ];
    expect(toldApart(same).map(({ label }) => label)).toEqual(['Lock name', 'Boat home.lock name']);
    expect(toldApart(same.slice(0, 1)).map(({ label }) => label)).toEqual(['Lock']);
  });

  it('says which table has to be read to find it', () => {
    const known = new Map(
      others.filter(({ name }) => name !== 'canals').map((one) => [one.name, one]),
    );
    expect(findColumn('lock.canal.name', passages, (one) => known.get(one))).toMatchObject({
      wanted: 'canals',
    });
    expect(findColumn('lock.nothing', passages, (one) => known.get(one))).not.toHaveProperty(
      'wanted',
    );
  });

  it('may be missing and leads no index, and is offered as far as one looks', () => {
    const around = columnsAround(passages, (one) => all.get(one), 2);
    const names = around.map(({ name }) => name);
    expect(names).toContain('lock.canal.name');
    expect(names).not.toContain('boat.home.lock.canal.name');
    expect(around.every(({ nullable, indexed }) => nullable && !indexed)).toBe(true);
  });
});
