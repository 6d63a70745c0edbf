import type { AnyTables, NameOf, TableSet } from '@ephoros/client';
import type { ReactElement } from 'react';
import { Foot, Levels, Sentence, Tools } from './parts.tsx';
import { Rows } from './rows.tsx';
import { TableParts, type TableOptions } from './table-parts.tsx';

export interface TableViewProps<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
> extends TableOptions<Tables, Name> {
  /** Whether the view is stated as a sentence above the table; it is by default. */
  readonly sentence?: boolean;
  /** Whether there is a line with the condition as text, the search, the columns; there is by default. */
  readonly tools?: boolean;
}

/**
 * A finished table: the sentence that says what is shown and changes it, header, rows or groups,
 * conditions, pages or one long scroll, selection. Styled by `@ephoros/react/table.css`, whose
 * variables a host page sets. Fills the height around it.
 */
export function TableView<
  Tables extends TableSet<Tables> = AnyTables,
  Name extends NameOf<Tables> = NameOf<Tables>,
>({ sentence = true, tools = true, ...props }: TableViewProps<Tables, Name>): ReactElement {
  return (
    <TableParts<Tables, Name> {...props}>
      {(sentence || tools) && (
        <div className="eph-top">
          {sentence && <Sentence />}
          {tools && <Tools />}
        </div>
      )}
      <Levels />
      <Rows />
      <Foot sayReading={!sentence} />
    </TableParts>
  );
}
