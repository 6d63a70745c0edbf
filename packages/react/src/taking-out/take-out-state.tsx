import { ServiceError } from '@ephoros/client';
import type { ReactElement, ReactNode } from 'react';
import type { TakingMessages } from '../messages/taking-messages.ts';
import { useCount, useLocale, useModel } from '../parts/table-context.ts';
import { sizeText } from './size-text.ts';
import { shareOf, type Taking } from './taking.ts';

interface TakeOutStateProps {
  readonly taking: Taking;
  readonly said: TakingMessages;
  readonly cancel: () => void;
  readonly again: () => void;
}

/** How far a file is, or what became of it. */
export function TakeOutState({ taking, said, cancel, again }: TakeOutStateProps): ReactElement {
  const { told } = useModel().reader.messages;
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
            aria-label={said.asked}
            max={1}
            {...(share !== undefined && { value: share })}
          />
          <p role="status">
            {taken.bytes === 0
              ? said.asked
              : taken.rows === undefined || of === undefined
                ? said.underSize(size(taken.bytes))
                : said.under(count(taken.rows), count(of), size(taken.bytes))}
          </p>
          <button type="button" className="eph-plate" onClick={cancel}>
            {said.cancel}
          </button>
        </div>
      );
    }
    case 'saved':
      return (
        <Ended said={said} again={again}>
          <p role="status">{said.saved(taking.name, size(taking.taken.bytes))}</p>
        </Ended>
      );
    case 'failed':
      return (
        <Ended said={said} again={again}>
          <p role="alert" className="eph-trouble">
            {taking.error instanceof ServiceError ? told(taking.error.message) : said.brokenOff}
          </p>
        </Ended>
      );
    default:
      throw new Error(`unknown state ${JSON.stringify(taking satisfies never)}`);
  }
}

interface EndedProps extends Pick<TakeOutStateProps, 'said' | 'again'> {
  readonly children: ReactNode;
}

/** What became of a file, and the way to another one. */
function Ended({ said, again, children }: EndedProps): ReactElement {
  return (
    <div className="eph-taking">
      {children}
      <button type="button" className="eph-plate" onClick={again}>
        {said.again}
      </button>
    </div>
  );
}
