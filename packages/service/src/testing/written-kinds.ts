import { kinds, kindsSetUp } from './kinds.ts';

/** A column of every kind, with values whose text an answer cannot give back as it stands. */
export interface WrittenKind {
  readonly name: string;
  readonly type: string;
  /** In PostgreSQL's notation. */
  readonly values: readonly string[];
}

/** Values that JSON, JavaScript or a plain reading of the type would change. */
const unusual: readonly WrittenKind[] = [
  { name: 'u_time', type: 'time', values: ['24:00:00'] },
  { name: 'u_timetz', type: 'timetz', values: ['24:00:00+00', '23:59:59.999999-15:59:59'] },
  { name: 'u_date', type: 'date', values: ['10000-01-01', '5874897-12-31', '4713-01-01 BC'] },
  { name: 'u_ts', type: 'timestamp', values: ['294276-12-31 23:59:59.999999', '-infinity'] },
  {
    name: 'u_tsz',
    type: 'timestamptz',
    values: ['10000-01-01 00:00:00+00', '0001-12-31 23:00:00+00 BC', 'infinity'],
  },
  { name: 'u_dec', type: 'numeric(10,2)', values: ['NaN', '99999999.99'] },
  { name: 'u_neg', type: 'numeric(5,-2)', values: ['12300', '-9999900', '0'] },
  { name: 'u_small', type: 'numeric(3,5)', values: ['0.00999', '0.00001'] },
  { name: 'u_num', type: 'numeric', values: ['1.10', '12345678901234567890.12345', '-Infinity'] },
  { name: 'u_f8', type: 'float8', values: ['-0', '5e-324', '1.7976931348623157e+308'] },
  { name: 'u_f4', type: 'float4', values: ['-0', '3.4028235e+38'] },
  {
    name: 'u_jb',
    type: 'jsonb',
    values: ['null', '12345678901234567890', '{"a": 1.10}', '[null]'],
  },
  { name: 'u_js', type: 'json', values: ['null', '{"b":1,  "a":1e400}', '"\\u0000"', ' [ -0 ] '] },
  {
    name: 'u_ljs',
    type: 'json[]',
    values: ['{"[1, 2]"}', '{"{\\"a\\": 12345678901234567890}",NULL}'],
  },
  { name: 'u_ljb', type: 'jsonb[]', values: ['{"[1, 2]",null,"null"}'] },
  { name: 'u_li', type: 'int4[]', values: ['[0:1]={5,6}', '[2:3][-1:0]={{1,2},{3,4}}'] },
  { name: 'u_li8', type: 'int8[]', values: ['{9007199254740993,-9223372036854775808}'] },
  { name: 'u_lnum', type: 'numeric[]', values: ['{12345678901234567890.5,1.10,NaN}'] },
  { name: 'u_lf8', type: 'float8[]', values: ['{-0,NaN,Infinity}', '[5:5]={1e-300}'] },
  { name: 'u_ltm', type: 'time[]', values: ['{24:00:00}'] },
  { name: 'u_ltz', type: 'timestamptz[]', values: ['{infinity,"10000-01-01 00:00:00+00"}'] },
  { name: 'u_lbin', type: 'bytea[]', values: ['{"\\\\x00ff",NULL}'] },
  { name: 'u_iv', type: 'interval', values: ['-178000000 years', '1 mon -1 day +00:00:00.000001'] },
  { name: 'u_ch', type: 'char(6)', values: ['ab    ', ''] },
  { name: 'u_ci', type: 'citext', values: ['Straße'] },
  { name: 'u_xml', type: 'xml', values: ['<a  b="1"/>'] },
  { name: 'u_pt', type: 'point', values: ['(-0,1e-300)'] },
  { name: 'u_box', type: 'box', values: ['(1,1),(0,0)'] },
  { name: 'u_tsr', type: 'tstzrange', values: ['["2024-01-01 00:00:00+00",infinity)', 'empty'] },
  { name: 'u_q', type: 'tsquery', values: ["'a' & !'b'"] },
];

/** One column of each kind, all of them nullable. */
const writtenKinds: readonly WrittenKind[] = [...kinds, ...unusual];

/** For each value of each kind a row with it alone. */
const rowsOf = (table: string, list: readonly WrittenKind[]): readonly string[] => [
  ...list.map(
    ({ name, type, values }) =>
      `insert into ${table} ("${name}") values ${values
        .map((value) => `('${value.replaceAll("'", "''")}'::${type.replace(/ collate .*/, '')})`)
        .join(', ')}`,
  ),
  `insert into ${table} default values`,
];

const columnsOf = (list: readonly WrittenKind[]): string =>
  list.map(({ name, type }) => `"${name}" ${type}`).join(', ');

/**
 * Statements that make the table `specimens` with rows of all kinds; and `parted` with the unusual
 * ones, which has partitions and a trigger that counts how often a row was changed.
 */
export const specimens: readonly string[] = [
  ...kindsSetUp,
  `create table specimens (id int generated always as identity primary key, mark text,
     ${columnsOf(writtenKinds)})`,
  ...rowsOf('specimens', writtenKinds),
  'create sequence parted_id',
  `create table parted (id int primary key default nextval('parted_id'), mark text,
     changed int not null default 0, ${columnsOf(unusual)}) partition by hash (id)`,
  ...[0, 1, 2].map(
    (part) =>
      `create table parted_${part} partition of parted for values with (modulus 3, remainder ${part})`,
  ),
  `create function count_changes() returns trigger language plpgsql as $$ begin
     new.changed := old.changed + 1; return new; end $$`,
  'create trigger counts before update on parted for each row execute function count_changes()',
  ...rowsOf('parted', unusual),
];

/** Every kind with the table that its rows are in. */
export const specimenKinds: readonly (WrittenKind & { readonly table: string })[] = [
  ...writtenKinds.map((kind) => ({ ...kind, table: 'specimens' })),
  ...unusual.map((kind) => ({ ...kind, table: 'parted' })),
];
