import type { CheckedColumn, CheckedQuery } from '@ephoros/core/check';
import { mayBeCut } from '@ephoros/core/sql';
import { valueEncoder } from './value.ts';

type Row = readonly (string | null)[];

/** What of a query its rows are written by. */
export type Written = Pick<CheckedQuery, 'columns' | 'shape' | 'cells'>;

/** Encodes one row as a JSON object by column name. */
export function rowEncoder(columns: readonly CheckedColumn[]): (row: Row) => string {
  const encode = rowsEncoder({ columns, shape: 'objects' });
  return (row) => encode([row]).json.slice(1, -1);
}

/** Rows as a JSON array, and which of their cells were cut, by row and column. */
export interface EncodedRows {
  readonly json: string;
  readonly cuts: readonly (readonly [row: number, column: number])[];
}

/** Encodes rows as a JSON array of objects by column name, or of arrays in column order. */
export function rowsEncoder(query: Written): (rows: readonly Row[]) => EncodedRows {
  const { columns, shape, cells = 0 } = query;
  const encoders = columns.map(({ type, encoding }) => valueEncoder(type, encoding));
  const cut = columns.map((column) => mayBeCut(column, query));
  const [open, close] = shape === 'objects' ? ['{', '}'] : ['[', ']'];
  const leads = columns.map(({ name }, index) => {
    const comma = index === 0 ? '' : ',';
    return shape === 'objects' ? `${comma}${JSON.stringify(name)}:` : comma;
  });
  // Plain loops onto one string: this is half of what a page costs here.
  return (rows) => {
    const cuts: [number, number][] = [];
    let json = '[';
    for (const [place, row] of rows.entries()) {
      json += place === 0 ? open : `,${open}`;
      for (let index = 0; index < encoders.length; index += 1) {
        const text = row[index] ?? null;
        json += leads[index] ?? '';
        if (text === null) json += 'null';
        else if (cut[index] === true && text.length > cells && isLonger(text, cells)) {
          // What is left of it is a value of its type no more.
          json += JSON.stringify([...text].slice(0, cells).join(''));
          cuts.push([place, index]);
        } else json += encoders[index]?.(text) ?? 'null';
      }
      json += close;
    }
    return { json: `${json}]`, cuts };
  };
}

/** Whether a text has more characters than so many; some take two units. */
function isLonger(text: string, characters: number): boolean {
  return text.length > characters * 2 || [...text].length > characters;
}
