import type { Row, Value } from '@ephoros/client';
import pc from 'picocolors';
import stringWidth from 'string-width';
import type { Terminal } from '../terminal.ts';
import { plain } from './plain.ts';

interface DrawnColumn {
  readonly name: string;
  readonly label: string;
  /** Right-aligned, as numbers are. */
  readonly right: boolean;
}

const gap = '  ';
const least = 6;
const widest = 60;
const cutMark = '…';
const nullMark = '∅';

/**
 * Rows as aligned columns. On a terminal they are fitted to its width: the widest columns give
 * way, and a cut cell ends in "…". Elsewhere nothing but very long cells is cut.
 */
export function drawTable(
  columns: readonly DrawnColumn[],
  rows: readonly Row[],
  { stdout }: Terminal,
): string {
  const colours = pc.createColors(stdout.isTTY === true);
  const labels = columns.map(({ label }) => plain(label));
  const cells = rows.map((row) => columns.map(({ name }) => cellText(row[name] ?? null)));
  const widths = labels.map((label, index) => {
    const all = cells.map((line) => stringWidth(line[index] ?? ''));
    return Math.min(widest, Math.max(stringWidth(label), ...all));
  });
  if (stdout.isTTY === true) fit(widths, stdout.columns ?? 80);
  const line = (texts: readonly string[], paint: (text: string, index: number) => string): string =>
    columns
      .map(({ right }, index) => {
        const width = widths[index] ?? 0;
        const text = cut(texts[index] ?? '', width);
        const blank = ' '.repeat(Math.max(0, width - stringWidth(text)));
        const painted = paint(text, index);
        return right ? blank + painted : painted + blank;
      })
      .join(gap)
      .trimEnd();
  const head = line(labels, (text) => colours.bold(text));
  const rule = widths.map((width) => '─'.repeat(width)).join(gap);
  const body = cells.map((texts) =>
    line(texts, (text) => (text === nullMark ? colours.dim(text) : text)),
  );
  return `${[head, colours.dim(rule), ...body].join('\n')}\n`;
}

/** Takes from the widest columns until the line fits; never below a readable width. */
function fit(widths: number[], available: number): void {
  const total = (): number =>
    widths.reduce((sum, width) => sum + width, 0) + gap.length * (widths.length - 1);
  while (total() > available) {
    const most = Math.max(...widths);
    if (most <= least) return;
    widths[widths.indexOf(most)] = most - 1;
  }
}

function cellText(value: Value): string {
  if (value === null) return nullMark;
  return plain(typeof value === 'object' ? JSON.stringify(value) : String(value));
}

function cut(text: string, width: number): string {
  if (stringWidth(text) <= width) return text;
  let remaining = '';
  let taken = 0;
  for (const { segment } of new Intl.Segmenter().segment(text)) {
    taken += stringWidth(segment);
    if (taken > width - 1) break;
    remaining += segment;
  }
  return remaining + cutMark;
}
