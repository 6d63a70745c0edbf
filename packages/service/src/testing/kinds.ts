/**
 * Every kind of type that a column may have, each with values that meet what is odd about it: equal
 * ones that are spelled differently, the ends, what is no number, lists in lists.
 */
export interface Kind {
  /** A column's name. */
  readonly name: string;
  /** As CREATE TABLE has it. */
  readonly type: string;
  /** In PostgreSQL's notation, all different as the type has it. */
  readonly values: readonly string[];
  /** Whether it has an order, and so may be a key. */
  readonly ordered?: false;
  /** Whether rows can be sorted by it here. */
  readonly sortable?: false;
}

export const kindsSetUp: readonly string[] = [
  'create extension if not exists citext',
  `create type mood as enum ('low', 'mid', 'high')`,
  'create schema other',
  `create type other.mood as enum ('high', 'low')`,
  'create domain mooded as mood',
  'create domain amount as numeric(10, 2) check (value > -1000)',
  'create domain code as text collate "C"',
  'create domain loose as citext',
  `create collation careless (provider = icu, locale = 'und-u-ks-level2', deterministic = false)`,
  'create type pair as (a int, b text)',
];

export const kinds: readonly Kind[] = [
  { name: 'i2', type: 'int2', values: ['-32768', '-1', '0', '7', '32767'] },
  { name: 'i4', type: 'int4', values: ['-2147483648', '-1', '0', '10', '9', '2147483647'] },
  {
    name: 'i8',
    type: 'int8',
    values: ['-9223372036854775808', '0', '10', '9', '9007199254740993'],
  },
  {
    name: 'num',
    type: 'numeric',
    values: ['-1e20', '0', '10', '9.5', '0.000001', 'NaN', 'Infinity'],
  },
  { name: 'dec', type: 'numeric(10,2)', values: ['-1.50', '0', '10', '9.25'] },
  { name: 'f4', type: 'float4', values: ['-Infinity', '-0.1', '0', '1e20', '0.3', 'NaN'] },
  {
    name: 'f8',
    type: 'float8',
    values: ['-Infinity', '0.1', '1e-300', '10', '9', 'NaN', 'Infinity'],
  },
  {
    name: 'txt',
    type: 'text',
    values: ['', ' ', 'a', 'B', 'b', 'a,b', 'a/b', '100%', 'é', "it's", '"q"', '🛶'],
  },
  { name: 'txtc', type: 'text collate "C"', values: ['', 'a', 'B', 'b', 'Z', 'é'] },
  { name: 'vc', type: 'varchar(5)', values: ['', 'a', 'ab', 'B'] },
  { name: 'ch', type: 'char(10)', values: ['', 'a', 'ab', 'B', 'a b'] },
  { name: 'ci', type: 'citext', values: ['', 'a', 'B', 'c', 'Zoë', 'd,e'] },
  { name: 'nd', type: 'text collate careless', values: ['', 'a', 'B', 'c'] },
  { name: 'nm', type: 'name', values: ['', 'a', 'B', 'c c'] },
  { name: 'bool', type: 'boolean', values: ['t', 'f'] },
  {
    name: 'day',
    type: 'date',
    values: ['-infinity', '0044-03-15 BC', '1969-07-20', '2024-02-29', '12024-01-01'],
  },
  { name: 'tm', type: 'time', values: ['00:00:00', '10:15:00.5', '24:00:00'] },
  { name: 'tmz', type: 'timetz', values: ['00:00:00+00', '10:15:00-02', '10:15:00+05:30'] },
  {
    name: 'ts',
    type: 'timestamp',
    values: [
      'infinity',
      '0044-03-15 10:00:00 BC',
      '2024-02-29 10:15:00.123456',
      '2024-02-29 10:15:00',
    ],
  },
  {
    name: 'tsz',
    type: 'timestamptz',
    values: [
      '-infinity',
      '0044-03-15 10:00:00+00 BC',
      '2024-02-29 10:15:00.5+00',
      '12024-01-01 00:00:00+00',
    ],
  },
  {
    name: 'iv',
    type: 'interval',
    values: ['P-1D', 'PT0S', 'P1M', 'P29D', 'P1Y2M3DT4H5M6.7S', 'PT-0.5S'],
  },
  {
    name: 'uid',
    type: 'uuid',
    values: ['0f8fad5b-d9cb-469f-a165-70867728950e', '00000000-0000-0000-0000-000000000000'],
  },
  { name: 'mood', type: 'mood', values: ['low', 'mid', 'high'] },
  { name: 'omood', type: 'other.mood', values: ['low', 'high'] },
  { name: 'dmood', type: 'mooded', values: ['low', 'high'] },
  { name: 'dnum', type: 'amount', values: ['-5.00', '3.10', '3.2'] },
  { name: 'dtxt', type: 'code', values: ['', 'a', 'B'] },
  { name: 'dci', type: 'loose', values: ['', 'a', 'B'] },
  { name: 'bin', type: 'bytea', values: ['\\x', '\\x00', '\\x00ff', '\\xff'] },
  { name: 'rng', type: 'int4range', values: ['empty', '[1,5)', '[1,)', '(,3)'] },
  { name: 'mrng', type: 'nummultirange', values: ['{}', '{[1,2],[5,6)}', '{(,0)}'] },
  {
    name: 'ltxt',
    type: 'text[]',
    values: ['{}', '{a}', '{a,b}', '{NULL,""}', '{"a,b","it\'s \\\\ \\""}', '{{a,b},{c,d}}'],
  },
  { name: 'lvc', type: 'varchar(5)[]', values: ['{}', '{a}', '{B,a}'] },
  { name: 'lci', type: 'citext[]', values: ['{}', '{a}', '{B,c}'] },
  { name: 'lch', type: 'char(3)[]', values: ['{}', '{a}', '{ab,b}'] },
  { name: 'lnm', type: 'name[]', values: ['{}', '{a}', '{b,a}'] },
  { name: 'li', type: 'int4[]', values: ['{}', '{1}', '{1,NULL}', '{10,9}'] },
  { name: 'li8', type: 'int8[]', values: ['{}', '{9007199254740993}'] },
  { name: 'lmood', type: 'mood[]', values: ['{}', '{low}', '{high,low}'] },
  { name: 'ldnum', type: 'amount[]', values: ['{}', '{3.10}', '{-5,3.2}'] },
  { name: 'lts', type: 'timestamptz[]', values: ['{}', '{"2024-02-29 10:15:00+00"}'] },
  { name: 'lbool', type: 'boolean[]', values: ['{}', '{t,f}'] },
  { name: 'id_', type: 'oid', values: ['0', '10', '9', '4294967295'] },
  {
    name: 'ip',
    type: 'inet',
    values: ['10.0.0.1', '10.0.0.0/8', '9.9.9.9', '::1'],
    sortable: false,
  },
  { name: 'net', type: 'cidr', values: ['10.0.0.0/8', '9.0.0.0/8'], sortable: false },
  {
    name: 'mac',
    type: 'macaddr',
    values: ['08:00:2b:01:02:03', '00:00:00:00:00:01'],
    sortable: false,
  },
  { name: 'bits', type: 'bit(5)', values: ['00000', '10101', '11111'], sortable: false },
  { name: 'vbits', type: 'bit varying', values: ['', '0', '10', '1'], sortable: false },
  { name: 'cash', type: 'money', values: ['-$1.00', '$0.00', '$1,000.50'], sortable: false },
  { name: 'one', type: '"char"', values: ['a', 'B'], sortable: false },
  { name: 'lsn', type: 'pg_lsn', values: ['0/0', '16/B374D848'], sortable: false },
  { name: 'xid', type: 'xid8', values: ['1', '10', '9'], sortable: false },
  { name: 'vec', type: 'tsvector', values: ['', "'a' 'b'", "'c':1"], sortable: false },
  {
    name: 'com',
    type: 'pair',
    values: ['(1,a)', '(1,)', '(,"b c")', '(10,"q""r")'],
    sortable: false,
  },
  {
    name: 'jb',
    type: 'jsonb',
    values: ['1', '"1"', '"a b"', '{"a": [1, 2]}', '[]', 'true'],
    sortable: false,
  },
];
