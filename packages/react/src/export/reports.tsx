import type { FilesClient } from '@ephoros/client/files';
import { printView } from '@ephoros/core/view';
import type { ReactElement } from 'react';
import type { ExportMessages } from '../messages/export-messages.ts';
import { useModel } from '../parts/table-context.ts';

interface ReportsProps {
  readonly report: NonNullable<FilesClient['report']>;
  readonly messages: ExportMessages;
}

/** The view as a report, to be read in a window of its own, or as PDF. */
export function Reports({ report, messages: words }: ReportsProps): ReactElement {
  const { table, view, reader } = useModel();
  const { locale, timeZone, messages } = reader;
  const spoken: readonly (readonly [string, string])[] = [
    ...printView(view),
    ['language', messages.language],
    ['locale', locale],
    ['time-zone', timeZone],
  ];
  return (
    <p className="eph-in-line">
      <span className="eph-list-title">{words.report}</span>
      {(['html', 'pdf'] as const).map((format) => (
        <a
          key={format}
          className="eph-offer"
          href={report(table.name, spoken, format)}
          target="_blank"
          rel="noreferrer"
        >
          {words.reports[format]}
        </a>
      ))}
    </p>
  );
}
