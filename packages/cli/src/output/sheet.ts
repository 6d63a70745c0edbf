import pc from 'picocolors';
import stringWidth from 'string-width';
import type { Terminal } from '../terminal.ts';
import { plain } from './plain.ts';

/** A title over lines, or a line: its label, its value in each row, and whether these differ. */
export type SheetLine =
  | { readonly title: string }
  | { readonly label: string; readonly values: readonly string[]; readonly differ: boolean };

const gap = '  ';
/** Columns of a value at least, however narrow the terminal is. */
const least = 12;
const wide = 10_000;

/**
 * Lines with their labels at the start and a column for each row. What is too long for its column
 * goes on below. A mark at the start shows where rows differ.
 */
export function drawSheet(lines: readonly SheetLine[], { stdout }: Terminal): string {
  const colours = pc.createColors(stdout.isTTY === true);
  const fields = lines.flatMap((line) => ('title' in line ? [] : [line]));
  const labels = Math.max(...fields.map(({ label }) => stringWidth(plain(label))), 0);
  const across = Math.max(...fields.map(({ values }) => values.length), 1);
  const room = (stdout.isTTY === true ? (stdout.columns ?? 80) : wide) - labels - 2;
  const most = Math.max(least, Math.floor(room / across) - gap.length);
  const widths = Array.from({ length: across }, (_, index) =>
    Math.min(
      most,
      Math.max(...fields.map(({ values }) => stringWidth(plain(values[index] ?? '')))),
    ),
  );
  const several = across > 1;
  const drawn = lines.flatMap((line, index): readonly string[] => {
    if ('title' in line) {
      return [...(index === 0 ? [] : ['']), colours.bold(plain(line.title))];
    }
    const cells = line.values.map((value, at) => wrapped(plain(value), widths[at] ?? least));
    const height = Math.max(...cells.map(({ length }) => length));
    const mark = several && line.differ ? '≠ ' : '  ';
    return Array.from({ length: height }, (_, row) => {
      const label = padded(row === 0 ? plain(line.label) : '', labels);
      const parts = cells.map((cell, at) => padded(cell[row] ?? '', widths[at] ?? least));
      return `${row === 0 ? mark : '  '}${colours.dim(label)}${gap}${parts.join(gap)}`.trimEnd();
    });
  });
  return `${drawn.join('\n')}\n`;
}

function padded(text: string, width: number): string {
  return text + ' '.repeat(Math.max(0, width - stringWidth(text)));
}

/** A text in pieces of at most so many columns. */
function wrapped(text: string, width: number): readonly string[] {
  const pieces: string[] = [];
  let piece = '';
  for (const { segment } of new Intl.Segmenter().segment(text)) {
    if (stringWidth(piece + segment) > width) {
      pieces.push(piece);
      piece = '';
    }
    piece += segment;
  }
  return [...pieces, piece];
}
