/**
 * An exact decimal, `digits × 10^-scale`, with the scale that PostgreSQL's numeric displays; or
 * one of numeric's special values.
 */
export type Decimal =
  | { readonly kind: 'finite'; readonly digits: bigint; readonly scale: number }
  | { readonly kind: 'NaN' | 'Infinity' | '-Infinity' };

type Finite = Extract<Decimal, { kind: 'finite' }>;

export function decimal(text: string): Decimal {
  if (text === 'NaN' || text === 'Infinity' || text === '-Infinity') return { kind: text };
  const [, sign = '', whole = '', fraction = '', power = '0'] =
    /^([-+]?)(\d*)(?:\.(\d*))?(?:e([+-]?\d+))?$/i.exec(text) ?? [];
  const digits = BigInt(`${whole}${fraction}` || '0');
  const scale = fraction.length - Number(power);
  const signed = sign === '-' ? -digits : digits;
  return scale >= 0 ? finite(signed, scale) : finite(signed * ten(-scale), 0);
}

/** A float as PostgreSQL casts it to numeric: at 15 significant digits, 6 for a `real`. */
export function fromFloat(value: number, bits: 32 | 64): Decimal {
  if (!Number.isFinite(value)) return decimal(String(value));
  return decimal(String(Number(value.toPrecision(bits === 32 ? 6 : 15))));
}

export function toFloat(value: Decimal): number {
  return value.kind === 'finite' ? Number(`${value.digits}e-${value.scale}`) : Number(value.kind);
}

/** NaN is greater than everything else and equal to itself, as PostgreSQL sorts it. */
export function compareDecimals(a: Decimal, b: Decimal): number {
  if (a.kind === 'finite' && b.kind === 'finite') {
    const [x, y] = aligned(a, b);
    return x < y ? -1 : x > y ? 1 : 0;
  }
  return rank(a) - rank(b);
}

function rank({ kind }: Decimal): number {
  return { '-Infinity': -1, finite: 0, Infinity: 1, NaN: 2 }[kind];
}

/** Arithmetic of finite decimals, with PostgreSQL's scales; null for a division by zero. */
export function calculate(
  operator: '+' | '-' | '*' | '/' | '%' | 'div',
  a: Decimal,
  b: Decimal,
): Decimal | null {
  if (a.kind !== 'finite' || b.kind !== 'finite') {
    if (
      b.kind === 'finite' &&
      b.digits === 0n &&
      operator !== '+' &&
      operator !== '-' &&
      operator !== '*'
    )
      return null;
    // Through floats, whose special values behave alike.
    return decimal(String(special(operator, toFloat(a), toFloat(b))));
  }
  const scale = Math.max(a.scale, b.scale);
  const [x, y] = aligned(a, b);
  switch (operator) {
    case '+':
      return finite(x + y, scale);
    case '-':
      return finite(x - y, scale);
    case '*':
      return finite(a.digits * b.digits, a.scale + b.scale);
    case '%':
      return y === 0n ? null : finite(x % y, scale);
    case 'div':
      return y === 0n ? null : finite(x / y, 0);
    case '/':
      return y === 0n ? null : quotient(a, b);
    default:
      throw new Error(`unknown operator ${JSON.stringify(operator satisfies never)}`);
  }
}

/** Rounded to so many digits after the point, halves away from zero. */
export function round(value: Decimal, places: number): Decimal {
  if (value.kind !== 'finite') return value;
  if (value.scale <= places) return finite(value.digits * ten(places - value.scale), places);
  return finite(divideRounding(value.digits, ten(value.scale - places)), places);
}

export function absolute(value: Decimal): Decimal {
  if (value.kind === '-Infinity') return { kind: 'Infinity' };
  return value.kind === 'finite' && value.digits < 0n ? finite(-value.digits, value.scale) : value;
}

/** The greatest multiple of a width that is not above a value, without zeros at its end. */
export function floorTo(value: Decimal, width: Decimal): Decimal {
  if (value.kind !== 'finite' || width.kind !== 'finite') return { kind: 'NaN' };
  const [a, w] = aligned(value, width);
  return trimmed(finite(a - (((a % w) + w) % w), Math.max(value.scale, width.scale)));
}

/** A quotient with PostgreSQL's number of digits. The divisor is not zero. */
export function divideExactly(a: Decimal, b: Decimal): Decimal {
  return calculate('/', a, b) ?? { kind: 'NaN' };
}

/** As PostgreSQL writes it. */
export function printDecimal(value: Decimal): string {
  if (value.kind !== 'finite') return value.kind;
  const { digits, scale } = value;
  const text = String(digits < 0n ? -digits : digits).padStart(scale + 1, '0');
  const whole = text.slice(0, text.length - scale);
  const sign = digits < 0n ? '-' : '';
  return scale === 0 ? sign + whole : `${sign}${whole}.${text.slice(-scale)}`;
}

/** Without zeros at the end of its fraction. */
export function trimmed(value: Decimal): Decimal {
  if (value.kind !== 'finite') return value;
  let { digits, scale } = value;
  while (scale > 0 && digits % 10n === 0n) {
    digits /= 10n;
    scale -= 1;
  }
  return finite(digits, scale);
}

function special(operator: string, a: number, b: number): number {
  switch (operator) {
    case '+':
      return a + b;
    case '-':
      return a - b;
    case '*':
      return a * b;
    case '/':
      return a / b;
    case '%':
      return a % b;
    default:
      return Math.trunc(a / b);
  }
}

// PostgreSQL's select_div_scale: sixteen significant digits at least, in groups of four.
function quotient(a: Finite, b: Finite): Decimal {
  const [one, other] = [leadingGroup(a), leadingGroup(b)];
  const weight = one.weight - other.weight - (one.group <= other.group ? 1 : 0);
  const scale = Math.min(1000, Math.max(16 - weight * 4, a.scale, b.scale, 0));
  // (a / 10^as) / (b / 10^bs), times 10^scale.
  const shift = scale - a.scale + b.scale;
  const numerator = shift >= 0 ? a.digits * ten(shift) : a.digits;
  const denominator = shift >= 0 ? b.digits : b.digits * ten(-shift);
  return finite(divideRounding(numerator, denominator), scale);
}

/** The first group of four digits, counted from the point, and its weight in such groups. */
function leadingGroup({ digits, scale }: Finite): { group: number; weight: number } {
  const text = String(digits < 0n ? -digits : digits);
  if (digits === 0n) return { group: 0, weight: 0 };
  // The place of the first digit: 0 is the one right before the point.
  const place = text.length - 1 - scale;
  const weight = Math.floor(place / 4);
  const length = place - weight * 4 + 1;
  return { group: Number(text.slice(0, length).padEnd(length, '0')), weight };
}

function divideRounding(numerator: bigint, denominator: bigint): bigint {
  const negative = numerator < 0n !== denominator < 0n;
  const [n, d] = [
    numerator < 0n ? -numerator : numerator,
    denominator < 0n ? -denominator : denominator,
  ];
  const rounded = (2n * n + d) / (2n * d);
  return negative ? -rounded : rounded;
}

function aligned(a: Finite, b: Finite): [bigint, bigint] {
  const scale = Math.max(a.scale, b.scale);
  return [a.digits * ten(scale - a.scale), b.digits * ten(scale - b.scale)];
}

function finite(digits: bigint, scale: number): Finite {
  return { kind: 'finite', digits, scale };
}

function ten(power: number): bigint {
  return 10n ** BigInt(power);
}
