import { InvalidArgumentError } from 'commander';

export type GivenClaims = Readonly<Record<string, unknown>>;

/** Reads NAME=VALUE behind those that were given already: JSON where it is some, a text otherwise. */
export function withClaim(text: string, others: GivenClaims = {}): GivenClaims {
  const [, name, value] = /^([^=]+)=(.*)$/s.exec(text) ?? [];
  if (name === undefined || value === undefined) {
    throw new InvalidArgumentError('A claim is a name, = and a value: lock=7');
  }
  return { ...others, [name]: valueOf(value) };
}

function valueOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

/** Reads names by commas, behind those that were given already. */
export function withNames(text: string, others: readonly string[] = []): readonly string[] {
  const names = text.split(',').map((one) => one.trim());
  if (names.includes('')) throw new InvalidArgumentError('A name is missing.');
  return [...others, ...names];
}
