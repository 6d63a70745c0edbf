import type { FilesClient } from '@ephoros/client/files';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { ExportMessages } from '../messages/export-messages.ts';
import { Pop } from '../parts/pop.tsx';
import { useLocale, useModel } from '../parts/table-context.ts';
import { percentDone } from '../format/percent.ts';
import { ExportForm } from './export-form.tsx';
import { ExportState } from './export-state.tsx';
import { saveExportFile } from './exported-file.ts';
import { shareOf, type ExportRun, type WantedFile } from './export-run.ts';

interface ExportLineProps {
  readonly files: FilesClient;
  readonly messages: ExportMessages;
}

/** Offers rows as a file, and shows how far it is; it goes on while the sheet is closed. */
export function ExportLine({ files, messages }: ExportLineProps): ReactElement {
  const { table, reader } = useModel();
  const locale = useLocale();
  const [taking, setExportRun] = useState<ExportRun>();
  const controller = useRef<AbortController>(undefined);
  // When the table goes, the request for its file ends.
  useEffect(() => () => controller.current?.abort(), []);
  const take = async ({ query, form, rows }: WantedFile): Promise<void> => {
    const { signal } = (controller.current = new AbortController());
    const put = (next: ExportRun | undefined): void => {
      if (!signal.aborted) setExportRun(next);
    };
    put({ kind: 'running', taken: { bytes: 0, rows: 0 }, of: rows });
    try {
      const file = await files.open(table.name, query, form, signal);
      const of = file.rows ?? file.about ?? rows;
      const headers = form.format === 'csv' && form.header !== 'none' ? 1 : 0;
      let shown = 0;
      const taken = await saveExportFile(file, form.format, headers, (so) => {
        // Often enough that its movement is seen.
        if (Date.now() - shown < 100) return;
        shown = Date.now();
        put({ kind: 'running', taken: so, of });
      });
      put({ kind: 'saved', name: file.name, taken });
    } catch (thrown) {
      const error = thrown instanceof Error ? thrown : new Error(String(thrown));
      put({ kind: 'failed', error });
    }
  };
  const cancel = (): void => {
    controller.current?.abort();
    setExportRun(undefined);
  };
  const { exportLabel } = reader.messages;
  const percent = taking?.kind === 'running' ? percentDone(shareOf(taking), locale) : undefined;
  return (
    <Pop
      className="eph-offer"
      text={percent === undefined ? exportLabel : `${exportLabel} ${percent} %`}
      marked={taking !== undefined}
      label={exportLabel}
    >
      {() =>
        taking === undefined ? (
          <ExportForm files={files} messages={messages} take={take} />
        ) : (
          <ExportState
            taking={taking}
            messages={messages}
            cancel={cancel}
            again={() => setExportRun(undefined)}
          />
        )
      }
    </Pop>
  );
}
