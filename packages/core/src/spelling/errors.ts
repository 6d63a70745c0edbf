import type { AnswerSpelling, Spelling } from './spelling.ts';

/** What is wrong with a spelling, at its place in it. */
export interface SpellingError {
  readonly path: readonly string[];
  readonly message: string;
}

/** What no request could be read by, or no answer written by; reported before anybody asks. */
export function spellingErrors(spelling: Spelling): readonly SpellingError[] {
  return [
    ...ofNames(spelling),
    ...ofOrder(spelling),
    ...ofFilter(spelling),
    ...ofAnswer(spelling.answer),
  ];
}

function ofNames({ parameters, ignored = [] }: Spelling): readonly SpellingError[] {
  const { columns, search, limit, page, offset, after, before, sort, filter } = parameters;
  const named: readonly (readonly [readonly string[], string | undefined])[] = [
    [['parameters', 'columns'], columns],
    [['parameters', 'search'], search],
    [['parameters', 'limit'], limit],
    [['parameters', 'page'], page?.name],
    [['parameters', 'offset'], offset?.name],
    [['parameters', 'after'], after],
    [['parameters', 'before'], before],
    [['parameters', 'sort'], sort?.name],
    [['parameters', 'sort', 'direction'], sort?.direction],
    [['parameters', 'filter'], filter?.name],
    ...ignored.map((name): [string[], string] => [['ignored'], name]),
  ];
  const visible = new Map<string, string>();
  const repeated = named.flatMap(([path, name]): readonly SpellingError[] => {
    if (name === undefined) return [];
    const other = visible.get(name);
    visible.set(name, other ?? path.join('.'));
    return other === undefined ? [] : [{ path, message: `${name} is also the name of ${other}` }];
  });
  const both = page !== undefined && offset !== undefined;
  const twice = {
    path: ['parameters', 'offset'],
    message: 'a page is numbered, or an offset counted: name one',
  };
  return both ? [...repeated, twice] : repeated;
}

function ofOrder({ parameters: { sort } }: Spelling): readonly SpellingError[] {
  if (sort === undefined) return [];
  const { direction, between, ascending = [], descending = [] } = sort;
  const path = ['parameters', 'sort'];
  const both = ascending.find((word) => descending.includes(word));
  return [
    ...(direction !== undefined && between !== undefined
      ? [
          {
            path,
            message:
              'the direction has a parameter of its own, or stands behind each column: name one',
          },
        ]
      : []),
    ...(both === undefined ? [] : [{ path, message: `${both} means both directions` }]),
  ];
}

function ofFilter({ parameters: { filter } }: Spelling): readonly SpellingError[] {
  if (filter === undefined || filter.form === 'brackets') return [];
  const { form, column, operator, value, joining, members, and = 'and', or = 'or' } = filter;
  const path = ['parameters', 'filter'];
  const named = [column, operator, value, joining, members].filter((one) => one !== undefined);
  return [
    ...(column === undefined || value === undefined
      ? [
          {
            path,
            message: `of a ${form} it must be said how a condition calls its column and its value`,
          },
        ]
      : []),
    ...(new Set(named).size < named.length
      ? [{ path, message: 'two members of a condition have the same name' }]
      : []),
    ...(and === or ? [{ path, message: 'and, and or, are the same word' }] : []),
  ];
}

const places = [
  'rows',
  'total',
  'page',
  'pages',
  'limit',
  'offset',
  'count',
  'next',
  'previous',
] as const;

function ofAnswer(answer: AnswerSpelling): readonly SpellingError[] {
  const given = places.flatMap((name): readonly { name: string; place: string }[] => {
    const place = answer[name];
    return place === undefined ? [] : [{ name, place }];
  });
  return given.flatMap(({ name, place }): readonly SpellingError[] => {
    const path = ['answer', name];
    const isWhole = place === '' && name === 'rows';
    if (!isWhole && place.split('.').includes('')) {
      return [{ path, message: `${JSON.stringify(place)} is no path of names by dots` }];
    }
    const other = given.find(
      (one) =>
        one.name !== name && (one.place === place || isWhole || one.place.startsWith(`${place}.`)),
    );
    if (other === undefined) return [];
    return [{ path, message: `${other.name} cannot stand inside of ${name}, or in its place` }];
  });
}
