// What spreadsheets take for the beginning of a formula, also behind other quotes and in full width.
const formula = /^[=+\-@\t\r＝＋－＠]/;
const number = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i;

/** A text that no spreadsheet computes: a quote stands before what it would take for a formula. */
export function harmlessText(text: string): string {
  return formula.test(text) && !number.test(text) ? `'${text}` : text;
}
