import type { FilesClient } from '@ephoros/client/files';
import { useEffect, useRef, useState, type ReactElement } from 'react';
import type { TakingMessages } from '../messages/taking-messages.ts';
import { Pop } from '../parts/pop.tsx';
import { useLocale, useModel } from '../parts/table-context.ts';
import { percentDone } from '../format/percent.ts';
import { TakeOutForm } from './take-out-form.tsx';
import { TakeOutState } from './take-out-state.tsx';
import { takeFile } from './taken-file.ts';
import { shareOf, type Taking, type WantedFile } from './taking.ts';

interface TakeOutLineProps {
  readonly files: FilesClient;
  readonly said: TakingMessages;
}

/** Offers rows as a file, and tells how far it is; it goes on while the sheet is closed. */
export function TakeOutLine({ files, said }: TakeOutLineProps): ReactElement {
  const { table, reader } = useModel();
  const locale = useLocale();
  const [taking, setTaking] = useState<Taking>();
  const controller = useRef<AbortController>(undefined);
  // With the table goes what was asked of it.
  useEffect(() => () => controller.current?.abort(), []);
  const take = async ({ query, form, rows }: WantedFile): Promise<void> => {
    const { signal } = (controller.current = new AbortController());
    const put = (next: Taking | undefined): void => {
      if (!signal.aborted) setTaking(next);
    };
    put({ kind: 'running', taken: { bytes: 0, rows: 0 }, of: rows });
    try {
      const file = await files.open(table.name, query, form, signal);
      const of = file.rows ?? file.about ?? rows;
      const headers = form.format === 'csv' && form.header !== 'none' ? 1 : 0;
      let shown = 0;
      const taken = await takeFile(file, form.format, headers, (so) => {
        // Often enough to be seen moving.
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
    setTaking(undefined);
  };
  const { takeOut } = reader.messages;
  const percent = taking?.kind === 'running' ? percentDone(shareOf(taking), locale) : undefined;
  return (
    <Pop
      className="eph-offer"
      text={percent === undefined ? takeOut : `${takeOut} ${percent} %`}
      marked={taking !== undefined}
      label={takeOut}
    >
      {() =>
        taking === undefined ? (
          <TakeOutForm files={files} said={said} take={take} />
        ) : (
          <TakeOutState
            taking={taking}
            said={said}
            cancel={cancel}
            again={() => setTaking(undefined)}
          />
        )
      }
    </Pop>
  );
}
