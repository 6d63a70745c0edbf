import type { ReactElement } from 'react';
import { percentDone } from '../format/percent.ts';
import { useMessages } from '../messages/use-messages.ts';
import { useLocale } from '../parts/table-context.ts';
import type { Answer } from '../use-answer.ts';

interface UnansweredProps {
  readonly answer: Exclude<Answer<unknown>, { state: 'ready' }>;
  /** What is being done. */
  readonly what: string;
}

/** In place of what is not there yet, or could not be had. */
export function Unanswered({ answer, what }: UnansweredProps): ReactElement {
  const { tryAgain, translate: notify } = useMessages();
  const locale = useLocale();
  if (answer.state === 'loading') {
    const percent = percentDone(answer.share, locale);
    return (
      <p className="eph-aside eph-awaited">
        {what}
        {percent !== undefined && ` ${percent} %`}
      </p>
    );
  }
  return (
    <p role="alert" className="eph-trouble">
      {notify(answer.error.message)}{' '}
      <button type="button" onClick={answer.retry}>
        {tryAgain}
      </button>
    </p>
  );
}
