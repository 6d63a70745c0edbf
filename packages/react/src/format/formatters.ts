// Making an Intl formatter costs far more than using it.
const formatters = new Map<string, Intl.NumberFormat | Intl.DateTimeFormat>();

function remembered<Formatter extends Intl.NumberFormat | Intl.DateTimeFormat>(
  kind: string,
  make: (locale: string, options: object) => Formatter,
  locale: string,
  options: object,
): Formatter {
  const key = `${kind} ${locale} ${JSON.stringify(options)}`;
  const known = formatters.get(key);
  // Keys begin with the kind, so that a key's formatter is of its kind.
  if (known !== undefined) return known as Formatter;
  const made = make(locale, options);
  formatters.set(key, made);
  return made;
}

/** A formatter of numbers, made once. */
export function numberFormat(locale: string, options: object): Intl.NumberFormat {
  return remembered('number', (one, how) => new Intl.NumberFormat(one, how), locale, options);
}

/** A formatter of dates, made once. */
export function dateFormat(locale: string, options: object): Intl.DateTimeFormat {
  return remembered('date', (one, how) => new Intl.DateTimeFormat(one, how), locale, options);
}
