/** Exact decimals, as PostgreSQL's numeric computes them. */
export {
  absolute,
  calculate,
  compareDecimals,
  decimal,
  divideExactly,
  floorTo,
  fromFloat,
  printDecimal,
  round,
  toFloat,
  trimmed,
  type Decimal,
} from './decimal.ts';
export { binOf, edgesBetween } from './edges.ts';
