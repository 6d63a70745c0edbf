import { ServiceError } from '@ephoros/client';
import type { ReactElement, ReactNode } from 'react';
import type { ExportMessages } from '../messages/export-messages.ts';
import { useCount, useLocale, useModel } from '../parts/table-context.ts';
import { sizeText } from './size-text.ts';
import { shareOf, type ExportRun } from './export-run.ts';

interface ExportStateProps {
  readonly taking: ExportRun;
  readonly messages: ExportMessages;
  readonly cancel: () => void;
  readonly again: () => void;
}

/** How far a file is, or what became of it. */
export function ExportState({ taking, messages, cancel, again }: ExportStateProps): ReactElement {
  const { translate: notify } = useModel().reader.messages;
  const count = useCount();
  const locale = useLocale();
  const size = (bytes: number): string => sizeText(bytes, locale);
  switch (taking.kind) {
    case 'running': {
      const { taken, of } = taking;
      const share = shareOf(taking);
      return (
        <div className="eph-taking">
          <progress
            aria-label={messages.path}
            max={1}
            {...(share !== undefined && { value: share })}
          />
          <p role="status">
            {taken.bytes === 0
              ? messages.path
              : taken.rows === undefined || of === undefined
                ? messages.underSize(size(taken.bytes))
                : messages.under(count(taken.rows), count(of), size(taken.bytes))}
          </p>
          <button type="button" className="eph-plate" onClick={cancel}>
            {messages.cancel}
          </button>
        </div>
      );
    }
    case 'saved':
      return (
        <Ended messages={messages} again={again}>
          <p role="status">{messages.saved(taking.name, size(taking.taken.bytes))}</p>
        </Ended>
      );
    case 'failed':
      return (
        <Ended messages={messages} again={again}>
          <p role="alert" className="eph-trouble">
            {taking.error instanceof ServiceError
              ? notify(taking.error.message)
              : messages.brokenOff}
          </p>
        </Ended>
      );
    default:
      throw new Error(`unknown state ${JSON.stringify(taking satisfies never)}`);
  }
}

interface EndedProps extends Pick<ExportStateProps, 'messages' | 'again'> {
  readonly children: ReactNode;
}

/** What became of a file, and the way to another one. */
function Ended({ messages, again, children }: EndedProps): ReactElement {
  return (
    <div className="eph-taking">
      {children}
      <button type="button" className="eph-plate" onClick={again}>
        {messages.again}
      </button>
    </div>
  );
}
