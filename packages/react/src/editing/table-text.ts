/** Cells of a rectangle by rows, as spreadsheets put it on the clipboard: tabs, lines, quotes. */
export function cellsIn(text: string): readonly (readonly string[])[] {
  const rows: string[][] = [[]];
  const cell = /"((?:[^"]|"")*)"(?=\t|\r?\n|$)|([^\t\r\n]*)/y;
  let at = 0;
  const whole = text.replace(/\r?\n$/, '');
  while (at <= whole.length) {
    cell.lastIndex = at;
    const found = cell.exec(whole);
    if (found === null) break;
    const [all, quoted, plain = ''] = found;
    rows.at(-1)?.push(quoted === undefined ? plain : quoted.replaceAll('""', '"'));
    at += all.length;
    if (at >= whole.length) break;
    if (whole.startsWith('\r\n', at)) at += 2;
    else at += 1;
    if (/[\r\n]/.test(whole.charAt(at - 1))) rows.push([]);
  }
  return rows;
}
