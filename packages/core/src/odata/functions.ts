/** Functions that are called the same way here, and give null where an argument is null. */
export const functions: Readonly<
  Record<string, { readonly name: string; readonly isTest?: true }>
> = {
  contains: { name: 'contains', isTest: true },
  startswith: { name: 'starts', isTest: true },
  endswith: { name: 'ends', isTest: true },
  length: { name: 'length' },
  tolower: { name: 'lower' },
  toupper: { name: 'upper' },
  year: { name: 'year' },
  month: { name: 'month' },
  day: { name: 'day' },
  hour: { name: 'hour' },
  round: { name: 'round' },
  now: { name: 'now' },
};

export function functionNamed(
  name: string,
): { readonly name: string; readonly isTest?: true } | undefined {
  return Object.hasOwn(functions, name) ? functions[name] : undefined;
}

/** Those that are made of others. */
export const composed = ['date', 'floor', 'ceiling'] as const;

/** What the standard has beyond them (URL Conventions 4.01, 5.1.1). */
export const unsupported: ReadonlySet<string> = new Set(
  (
    'concat indexof substring trim matchespattern hassubset hassubsequence minute second ' +
    'fractionalseconds time totaloffsetminutes totalseconds mindatetime maxdatetime cast isof case ' +
    'geo.distance geo.intersects geo.length'
  ).split(' '),
);
