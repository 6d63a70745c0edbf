import {
  columnsToChoose,
  findColumn,
  plainColumn,
  sectionsOf,
  shownNames,
  withReferences,
  type ColumnDescription,
  type Relationship,
  type TableDescription,
} from './index.ts';
import { plainTable } from '../testing/tables.ts';

const text = (name: string): ColumnDescription => plainColumn(name, { kind: 'text' });
const number = (name: string): ColumnDescription =>
  plainColumn(name, { kind: 'integer', bits: 32 });

const one = (
  name: string,
  other: string,
  columns: readonly string[],
  references: readonly string[] = ['id'],
): Relationship => ({ name, kind: 'one', table: other, columns, references });

const people = plainTable('people', [number('id'), text('name')], { label: 'name' });
const countries = plainTable('countries', [text('code')], { key: ['code'], label: 'code' });
const places = plainTable('places', [text('region'), number('no'), text('title')], {
  key: ['region', 'no'],
  label: 'title',
});
const nameless = plainTable('nameless', [number('id')]);
const all = new Map([people, countries, places, nameless].map((each) => [each.name, each]));
const tables = (name: string): TableDescription | undefined => all.get(name);

const letters = withReferences(
  plainTable(
    'letters',
    [
      number('id'),
      { ...number('from_id'), label: 'From' },
      number('to_id'),
      text('country'),
      text('region'),
      number('place_no'),
      number('thing_id'),
    ],
    {
      relationships: [
        one('from', 'people', ['from_id']),
        one('to', 'people', ['to_id']),
        one('country', 'countries', ['country'], ['code']),
        one('place', 'places', ['region', 'place_no'], ['region', 'no']),
        one('thing', 'nameless', ['thing_id']),
        one('secret', 'hidden', ['thing_id']),
      ],
    },
  ),
  tables,
);

describe('a table that refers to others', () => {
  it('shows what names each row: of several references to one table, of keys of several parts', () => {
    expect(shownNames(letters)).toEqual([
      'id',
      'from.name',
      'to.name',
      // A key that names its row itself stays as it is, and so does what nothing names.
      'country',
      'region',
      'place.title',
      'thing_id',
    ]);
    expect(letters.related?.map(({ name, label }) => [name, label])).toEqual([
      ['from.name', 'From'],
      ['to.name', 'To'],
      ['place.title', 'Place'],
    ]);
  });

  it('distinguishes the numbers from the names where one chooses among them', () => {
    const labels = columnsToChoose(letters).map(({ label }) => label);
    expect(labels).toEqual([
      'Id',
      'From',
      'From id',
      'To',
      'To id',
      'Country',
      'Region',
      'Place',
      'Place no',
      'Thing id',
    ]);
  });

  it('is enough to find the names by, without the other tables', () => {
    const found = findColumn('from.name', letters, () => undefined);
    expect(found).toMatchObject({ own: 'name', label: 'From', path: [{ name: 'from' }] });
    expect(findColumn('from.town', letters, () => undefined)).toMatchObject({ wanted: 'people' });
  });

  it('reports nothing any more of a table that is hidden', () => {
    const again = withReferences({ ...letters, relationships: [] }, () => undefined);
    expect(again).not.toHaveProperty('related');
    expect(again.columns.some((column) => 'shownAs' in column)).toBe(false);
  });
});

describe('the sections of a row', () => {
  it('are those that somebody named, and then by kind', () => {
    const day = plainColumn('day', { kind: 'date' });
    const made = plainTable(
      'things',
      [number('id'), text('name'), number('size'), day, text('note')],
      {
        sections: [{ title: 'Words', columns: ['note', 'gone'] }],
      },
    );
    const messages = sectionsOf(made).map((section) => [
      'kind' in section ? section.kind : section.title,
      section.columns.map(({ name }) => name).join(),
    ]);
    expect(messages).toEqual([
      ['Words', 'note'],
      ['itself', 'id,name'],
      ['amounts', 'size'],
      ['times', 'day'],
    ]);
    expect(sectionsOf(letters).map((section) => 'kind' in section && section.kind)).toEqual([
      'itself',
      'references',
    ]);
  });
});
