import type { FilesClient } from '@ephoros/client/files';
import type { ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';

/** Loaded with the first table whose rows can be taken out. */
const takingOut = new Later(() => import('../taking-out/index.ts'));

/** Rows as files; until that is loaded, what it will be called. */
export function TakeOutPart({ files }: { readonly files: FilesClient }): ReactElement {
  const { table, reader } = useModel();
  const { messages } = reader;
  const said = useAnswer(messages.taking);
  const loaded = useLater(takingOut, true);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || said.state !== 'ready') {
    return <span className="eph-offer">{messages.takeOut}</span>;
  }
  return <loaded.result.TakeOutLine key={table.name} files={files} said={said.result} />;
}
