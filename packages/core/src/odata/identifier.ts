/** A name as OData takes it (CSDL 4.01, 17.2): letters, digits and underscores, no digit in front. */
const simple = /^[\p{L}\p{Nl}_][\p{L}\p{Nl}\p{Nd}\p{Mn}\p{Mc}\p{Pc}\p{Cf}]{0,127}$/u;
const inner = /[\p{L}\p{Nl}\p{Nd}\p{Mn}\p{Mc}\p{Pc}\p{Cf}]/u;
const digit = /^[\p{Nd}\p{Mn}\p{Mc}\p{Pc}\p{Cf}]/u;

/**
 * A name of the database as an identifier: what no identifier may hold stands as `_xHHHH_`, as SQL/XML writes names
 * (ISO/IEC 9075-14, 9.1), so that two names never become one.
 */
export function identifierOf(name: string): string {
  if (simple.test(name) && !/_x[0-9A-F]{4,6}_/.test(name)) return name;
  const signs = Array.from(name, (sign, at) => {
    const isPlain =
      at === 0 ? inner.test(sign) && (sign === '_' || !digit.test(sign)) : inner.test(sign);
    const opensEscape = sign === '_' && /^_x[0-9A-F]{4,6}_/.test(name.slice(offsetOf(name, at)));
    return isPlain && !opensEscape ? sign : escaped(sign);
  });
  return signs.join('');
}

/** Where in a text the sign of this number begins, in UTF-16 units. */
function offsetOf(text: string, sign: number): number {
  return Array.from(text).slice(0, sign).join('').length;
}

function escaped(sign: string): string {
  const code = (sign.codePointAt(0) ?? 0).toString(16).toUpperCase();
  return `_x${code.padStart(4, '0')}_`;
}
