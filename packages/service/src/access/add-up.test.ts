import fc from 'fast-check';
import type { TableAccess } from './access.ts';
import { addedUp, changedFor, type Shown, type Sum } from './add-up.ts';

const known = ['id', 'a', 'b', 'c'] as const;
/** Rules, and which of three rows meet them. */
const rules: Readonly<Record<string, readonly number[]>> = { one: [0], two: [1], both: [0, 1] };
const rows = [0, 1, 2];

const names = fc.subarray([...known]);
const parts = fc.array(
  fc.record(
    {
      rows: fc.constantFrom(...Object.keys(rules)),
      columns: names,
      hidden: names,
      changes: fc.oneof(
        fc.constant<false>(false),
        fc.record({
          add: fc.boolean(),
          change: fc.oneof(fc.boolean(), names),
          remove: fc.boolean(),
        }),
      ),
    },
    { requiredKeys: [] },
  ),
  { minLength: 1, maxLength: 4 },
);

const isIn = (texts: readonly string[] | undefined, row: number): boolean =>
  texts === undefined || texts.some((text) => rules[text]?.includes(row));

/** Columns of a row that are shown, by what was made of the parts. */
function visibleRange({ rows: shown, columns, cells }: Shown, row: number): readonly string[] {
  if (!isIn(shown, row)) return [];
  return known.filter(
    (name) => columns.has(name) && (!cells.has(name) || isIn(cells.get(name), row)),
  );
}

const shows = ({ columns, hidden }: TableAccess, name: string): boolean =>
  (columns ?? known).includes(name) && !(hidden ?? []).includes(name);
const has = ({ rows: rule }: TableAccess, row: number): boolean =>
  isIn(rule === undefined ? undefined : [typeof rule === 'string' ? rule : rule.text], row);

/** What of a row a part lets change. */
function altered(part: TableAccess, row: number): readonly string[] {
  const { changes = {} } = part;
  if (changes === false || !has(part, row)) return [];
  const { add = false, change = false, remove = false } = changes;
  // Where nothing is stated about changes, all that can be changed may be.
  const all = part.changes === undefined;
  const shown = known.filter((name) => shows(part, name));
  return [
    ...(add || all ? shown.map((name) => `add ${name}`) : []),
    ...(remove || all ? ['remove'] : []),
    ...(typeof change === 'object' ? change : change || all ? shown : []),
  ];
}

/** A thing that can be done to a table, and how a part names it. */
const actions = [
  { ...{ add: ['a'], change: [], remove: false }, names: ['add a'] },
  { ...{ add: [], change: ['a'], remove: false }, names: ['a'] },
  { ...{ add: [], change: ['a', 'b'], remove: false }, names: ['a', 'b'] },
  { ...{ add: [], change: [], remove: true }, names: ['remove'] },
  { ...{ add: [], change: ['c'], remove: true }, names: ['c', 'remove'] },
];

/** The one view of a table by which all changes go. */
function only(sum: Sum): Shown {
  expect(sum.altering).toHaveLength(1);
  return sum.altering[0];
}

describe('parts of a table that add up', () => {
  it('show a value where one of them shows it, and nowhere else', () => {
    fc.assert(
      fc.property(parts, (given) => {
        const { shown } = addedUp(known, given);
        for (const row of rows) {
          const here = (given as readonly TableAccess[]).filter((part) => has(part, row));
          expect(isIn(shown.rows, row)).toBe(here.length > 0);
          expect(visibleRange(shown, row)).toEqual(
            known.filter((name) => here.some((part) => shows(part, name))),
          );
        }
      }),
    );
  });

  it('let nothing change that none of them lets change, nor anything that is not shown', () => {
    fc.assert(
      fc.property(parts, (given) => {
        const sum = addedUp(known, given);
        for (const { names: _names, ...needed } of actions) {
          const changed = changedFor(sum, needed);
          const { changes } = changed;
          for (const row of rows) {
            const here = isIn(changed.rows, row) && changes !== false;
            const allowed = (given as readonly TableAccess[]).flatMap((part) => altered(part, row));
            const { add = [], change = [], remove = false } = here ? changes : {};
            const done = [...add.map((name) => `add ${name}`), ...change, remove && 'remove'];
            expect(allowed).toEqual(
              expect.arrayContaining(done.filter((action) => action !== false)),
            );
            if (here) {
              expect(visibleRange(sum.shown, row)).toEqual(
                expect.arrayContaining(visibleRange(changed, row)),
              );
            }
          }
        }
      }),
    );
  });

  it('let be done to a row what one of them lets be done to it, whole', () => {
    fc.assert(
      fc.property(parts, (given) => {
        const sum = addedUp(known, given);
        for (const { names: requests, ...needed } of actions) {
          const { rows: those, changes } = changedFor(sum, needed);
          const does =
            changes !== false &&
            needed.add.every((name) => changes.add.includes(name)) &&
            needed.change.every((name) => changes.change.includes(name)) &&
            (changes.remove || !needed.remove);
          for (const row of rows) {
            const may = (given as readonly TableAccess[]).some((part) =>
              requests.every((name) => altered(part, row).includes(name)),
            );
            if (may) expect([does, isIn(those, row)]).toEqual([true, true]);
          }
        }
      }),
    );
  });

  it('let all change that the widest of them does', () => {
    const narrow = { rows: 'one', changes: { change: ['a'] } };
    const wide = addedUp(known, [narrow, {}]);
    expect(only(wide)).toBe(wide.shown);
    expect(wide.shown).toMatchObject({ rows: undefined, changes: { change: known, remove: true } });
    expect(only(addedUp(known, [narrow, { ...narrow, rows: 'two' }])).rows).toEqual(['one', 'two']);
    const other = addedUp(known, [narrow, { rows: 'one', changes: { remove: true } }]);
    expect(only(other).changes).toEqual({ add: [], change: ['a'], remove: true });
  });
});
