import {
  Foot,
  Levels,
  LiveRows,
  Rows,
  Sentence,
  TableParts,
  Tools,
  useStoredSelection,
  type TableOptions,
} from '@ephoros/react';
import type { ReactElement } from 'react';
import { client, files, log, watch } from '../service.ts';
import { useDesk } from '../shell/desk.tsx';
import { useReader } from '../sign-in/reader.ts';

interface DeskTableProps extends Omit<TableOptions, 'client' | 'table'> {
  readonly name: string;
  /** Under which the selected rows are stored. */
  readonly selection: string;
}

/** A table as the console has it: by page, selected from, edited, with cards, what happened, what others write. */
export function DeskTable({ name, selection, ...more }: DeskTableProps): ReactElement {
  const { reader } = useDesk();
  const { caller } = useReader();
  return (
    <TableParts
      client={client}
      table={name}
      reading="pages"
      selectable
      {...useStoredSelection(selection)}
      editable
      card
      {...reader}
      requestLog={log}
      {...(caller?.may.exports === false ? {} : { files })}
      {...more}
      {...(caller?.may.views === false ? { savedViews: false } : {})}
    >
      <div className="eph-top">
        <Sentence />
        <Tools />
      </div>
      <Levels />
      <Rows />
      <Foot />
      <LiveRows watch={watch} />
    </TableParts>
  );
}
