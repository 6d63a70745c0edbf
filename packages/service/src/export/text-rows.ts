import { StringDecoder } from 'node:string_decoder';

type Row = readonly (string | null)[];

/** Rows as COPY's text format has them (PostgreSQL manual, COPY), read as they come in pieces. */
export class TextRows {
  private readonly decoder = new StringDecoder('utf8');
  private rest = '';

  /** The rows that are whole by now. */
  take(piece: Buffer): Row[] {
    const text = this.rest + this.decoder.write(piece);
    const rows: Row[] = [];
    let from = 0;
    // Line breaks within values are escaped.
    for (let end = text.indexOf('\n'); end !== -1; end = text.indexOf('\n', from)) {
      rows.push(text.slice(from, end).split('\t').map(readValue));
      from = end + 1;
    }
    this.rest = text.slice(from);
    return rows;
  }
}

function readValue(text: string): string | null {
  if (!text.includes('\\')) return text;
  if (text === '\\N') return null;
  return text.replaceAll(/\\(.)/gs, (_whole, letter: string) => letters[letter] ?? letter);
}

const letters: Readonly<Record<string, string>> = {
  ...{ b: '\b', f: '\f', n: '\n', r: '\r', t: '\t', v: '\v' },
};
