// What spreadsheets take for the beginning of a formula, also behind other quotes and in full width.
const formula = /^[=+\-@\t\r\n＝＋－＠]/;
const number = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i;
// Where a spreadsheet with another list separator splits a cell, with a formula behind it that is no number.
const inner =
  /([;\t\r\n] *)(?![+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?(?:[;\t\r\n]|$))(?=[=+\-@＝＋－＠])/g;

/**
 * A text that no spreadsheet computes: a quote stands before what it would take for a formula, at the beginning and
 * wherever it may split a cell.
 */
export function harmlessText(text: string): string {
  const whole = /[;\t\r\n]/.test(text) ? text.replace(inner, "$1'") : text;
  return formula.test(text) && !number.test(text) ? `'${whole}` : whole;
}
