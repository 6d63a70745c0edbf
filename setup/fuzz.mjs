/**
 * `npm run fuzz [inputs]`: random texts, mutations of valid filters and random sets of parameters
 * through parse, check and compile: nothing may be thrown, every problem lies inside its text, and
 * no SQL depends on a value. Prints the seed; a failure prints what brings it back.
 */
import fc from 'fast-check';
import { run } from './prepare.mjs';

run('npx', ['--no-install', 'tsc', '-b', 'packages/core']);
const { checkGrouping, checkQuery } = await import('../packages/core/dist/check/index.js');
const { parseParameters, queryParameters } = await import('../packages/core/dist/query/index.js');
const { aggregatesOf, isComparable } = await import('../packages/core/dist/schema/index.js');
const { compileGroups, compileRows } = await import('../packages/core/dist/sql/index.js');

const inputs = Number(process.argv[2] ?? 100_000);
const seed = Number(process.env.SEED ?? Date.now() % 2 ** 31);

const types = {
  id: { kind: 'integer', bits: 64 },
  toll: { kind: 'numeric' },
  note: { kind: 'text' },
  passed_at: { kind: 'timestamp', zone: true },
  day: { kind: 'date' },
  clear: { kind: 'boolean' },
  status: { kind: 'enum', name: 'status', values: ['passed', 'disputed'] },
  crew: { kind: 'array', element: { kind: 'text' } },
  place: { kind: 'opaque', name: 'point' },
};
const table = {
  name: 'passages',
  title: 'Passages',
  kind: 'table',
  key: ['id'],
  columns: Object.entries(types).map(([name, type]) => ({
    name,
    label: name,
    type,
    encoding: 'string',
    nullable: name !== 'id',
    sortable: type.kind !== 'opaque',
    filterable: type.kind !== 'opaque',
    indexed: true,
    shown: true,
    groupable: isComparable(type),
    aggregates: aggregatesOf(type),
  })),
  relationships: [
    { name: 'lock', kind: 'one', table: 'passages', columns: ['id'], references: ['id'] },
    { name: 'passages', kind: 'many', table: 'passages', columns: ['id'], references: ['id'] },
  ],
  search: ['note'],
  defaultSort: [],
  pageSizes: [50],
  rowCap: 1000,
  estimatedRows: null,
  remarks: [],
};

const valid = [
  "status = 'disputed' AND toll > 100",
  "NOT (note LIKE 'a%' OR toll BETWEEN 1 AND 2) AND id IN (1, 2, 3)",
  "CASEI(lock.note) = CASEI('x') AND T_DURING(passed_at, INTERVAL('2020-01-01', '..'))",
  "A_CONTAINS(crew, ('Ada')) AND HAS(passages, toll > 1) AND COUNT(passages) * 2 > 3",
  '{"op":"and","args":[{"op":">","args":[{"property":"toll"},1]},{"op":"isNull","args":[{"property":"note"}]}]}',
  "year(passed_at) = 2020 AND clear AND day >= DATE('2024-02-29') AND round(toll, 1) < 3 ^ 2",
];
const levels = ['status', 'lock.note', 'bin(toll,50)', "month(passed_at,'Europe/Paris')", 'clear'];
const aggregates = ['sum(toll)', 'count()', 'percentile(toll,90)', 'distinct(note)', 'share()'];
const paths = ['["disputed"]', '[null,"a"]', '["50",3]', '[]', '[true]'];
const pieces = [...valid, ...levels, ...aggregates, ...paths]
  .flatMap((filter) => filter.split(/(\W)/))
  .filter((piece) => piece !== '');
const soup = fc.array(fc.oneof(fc.constantFrom(...pieces), fc.string({ unit: 'binary' })), {
  maxLength: 40,
});
const mutated = fc
  .tuple(fc.constantFrom(...valid), fc.nat(200), fc.nat(20), fc.string({ unit: 'binary' }))
  .map(([filter, at, length, put]) => filter.slice(0, at) + put + filter.slice(at + length));
const listed = (some) =>
  fc.array(fc.constantFrom(...some), { minLength: 1, maxLength: 3 }).map((all) => all.join(','));
const text = fc.oneof(
  fc.string({ unit: 'binary' }),
  soup.map((all) => all.join('')),
  mutated,
);
const parameters = fc.oneof(
  mutated.map((filter) => ({ filter })),
  text.map((filter) => ({ filter })),
  text.map((filter) => ({ filter, 'filter-lang': 'cql2-json' })),
  fc.record({
    group: fc.oneof(listed(levels), text),
    aggregate: fc.oneof(listed(aggregates), text),
    path: fc.oneof(fc.constantFrom(...paths), text),
    sort: fc.oneof(listed([...levels, ...aggregates].map((one) => `-${one}`)), text),
    filter: fc.constantFrom(...valid.filter((one) => !one.startsWith('{'))),
  }),
  fc.dictionary(
    fc.constantFrom(...queryParameters),
    fc.oneof(text, fc.constantFrom('1', 'id', '-toll,id', 'none', 'lock.note')),
  ),
);

let compiled = 0;
fc.assert(
  fc.property(parameters, (given) => {
    const { query, problems } = parseParameters(given);
    const read = checkQuery(query, table, { tables: () => table });
    const grouped = checkGrouping(query, table, { tables: () => table });
    for (const { parameter, position = 0, length = 0 } of [
      ...problems,
      ...(read.problems ?? []),
      ...(grouped.problems ?? []),
    ]) {
      if (parameter === undefined) continue;
      const end = position + length;
      if (position < 0 || end > (given[parameter] ?? '').length) {
        throw new Error(`a problem outside of ${parameter}: ${position}–${end}`);
      }
    }
    const locate = (name) => ({ schema: 'public', name });
    const statements = [
      ...(read.checked === undefined ? [] : [compileRows(read.checked, locate)]),
      ...(grouped.checked === undefined ? [] : [compileGroups(grouped.checked, locate)]),
    ];
    compiled += statements.length;
    // A marked value in every literal must leave no trace in the text.
    const literals = [
      ...JSON.stringify(query.filter ?? '').matchAll(/"kind":"text","value":"(.{6,}?)"/g),
    ];
    for (const [, value] of literals) {
      if (statements.some(({ text: sql }) => sql.includes(value))) {
        throw new Error(`the SQL holds the value ${value}`);
      }
    }
  }),
  { numRuns: inputs, seed },
);
process.stdout.write(
  `${inputs.toLocaleString('en')} inputs, ${compiled.toLocaleString('en')} statements, seed ${seed}: nothing thrown, no value in any SQL\n`,
);
