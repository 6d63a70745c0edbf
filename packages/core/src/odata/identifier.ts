/** Whether a sign may stand in an identifier of OData (CSDL 4.01, 17.2), and whether it may be the first. */
const inner = /[\p{L}\p{Nl}\p{Nd}\p{Mn}\p{Mc}\p{Pc}\p{Cf}]/u;
const leading = /[\p{L}\p{Nl}_]/u;

/**
 * A name of the database as an identifier: what no identifier may hold stands as `_xHHHH_`, as SQL/XML writes names
 * (ISO/IEC 9075-14, 9.1), and so does the sign that begins what only looks like it: two names never become one.
 */
export function identifierOf(name: string): string {
  const message = name.replaceAll(/_(?=x[0-9A-F]{4,6}_)/g, escaped('_'));
  return Array.from(message, (sign, at) =>
    (at === 0 ? leading : inner).test(sign) ? sign : escaped(sign),
  ).join('');
}

function escaped(sign: string): string {
  const code = (sign.codePointAt(0) ?? 0).toString(16).toUpperCase();
  return `_x${code.padStart(4, '0')}_`;
}
