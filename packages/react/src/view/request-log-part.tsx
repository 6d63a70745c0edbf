import type { RequestLog } from '@ephoros/client';
import { useCallback, type ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';

/** Loaded when what happened is first looked at. */
const drawer = new Later(() => import('../request-log/index.ts'));

interface RequestLogPartProps {
  readonly log: RequestLog;
  readonly setOpen: (open: boolean) => void;
}

/** The requests of the page, over the rows. */
export function RequestLogPart({ log, setOpen }: RequestLogPartProps): ReactElement | null {
  const { messages } = useModel().reader;
  const words = useAnswer(messages.requestLogMessages);
  const loaded = useLater(drawer, true);
  const close = useCallback(() => {
    const inside = document.activeElement?.closest('.eph-view');
    setOpen(false);
    // The button that opens it has the focus again.
    inside?.querySelector<HTMLElement>('.eph-happens')?.focus();
  }, [setOpen]);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || words.state !== 'ready') return null;
  return <loaded.result.RequestLogDrawer log={log} messages={words.result} close={close} />;
}
