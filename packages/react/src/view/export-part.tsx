import type { FilesClient } from '@ephoros/client/files';
import type { ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';

/** Loaded with the first table whose rows can be taken out. */
const exporting = new Later(() => import('../export/index.ts'));

/** Rows as files; until that is loaded, what it will be called. */
export function ExportPart({ files }: { readonly files: FilesClient }): ReactElement {
  const { table, reader } = useModel();
  const { messages } = reader;
  const words = useAnswer(messages.exportMessages);
  const loaded = useLater(exporting, true);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || words.state !== 'ready') {
    return <span className="eph-offer">{messages.exportLabel}</span>;
  }
  return <loaded.result.ExportLine key={table.name} files={files} messages={words.result} />;
}
