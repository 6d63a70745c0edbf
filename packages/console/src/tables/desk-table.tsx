import { TableView, useStoredSelection, type TableViewProps } from '@ephoros/react';
import type { ReactElement } from 'react';
import { client, files, log } from '../service.ts';
import { useDesk } from '../shell/desk.tsx';
import { useReader } from '../sign-in/reader.ts';

interface DeskTableProps extends Omit<TableViewProps, 'client' | 'table'> {
  readonly name: string;
  /** Under which the selected rows are kept. */
  readonly selection: string;
}

/** A table as the console has it: by page, selected from, edited, with cards, what happened. */
export function DeskTable({ name, selection, ...more }: DeskTableProps): ReactElement {
  const { reader } = useDesk();
  const { caller } = useReader();
  return (
    <TableView
      client={client}
      table={name}
      reading="pages"
      selectable
      {...useStoredSelection(selection)}
      editable
      card
      {...reader}
      happened={log}
      {...(caller?.may.exports === false ? {} : { files })}
      {...more}
      {...(caller?.may.views === false ? { keptViews: false } : {})}
    />
  );
}
