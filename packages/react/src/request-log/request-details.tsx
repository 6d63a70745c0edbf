import {
  isAdvised,
  isExplained,
  type AdviceAnswer,
  type LoggedRequest,
  type RequestExplanation,
  type RequestLog,
} from '@ephoros/client';
import { useCallback, useState, type ReactElement, type ReactNode } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import type { RequestLogMessages } from '../messages/request-log-messages.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { useCopied } from '../use-copied.ts';
import { codeOf, curlOf, decoded } from './request-code.ts';
import { short, stagesOf } from './stages.ts';

interface DetailsProps {
  readonly entry: LoggedRequest;
  readonly log: RequestLog;
  readonly messages: RequestLogMessages;
}

/** One request: its stages, the same for a terminal and a program, and how its answer comes about. */
export function RequestDetails({ entry, log, messages }: DetailsProps): ReactElement {
  const { locale } = useModel().reader;
  const [message, copyText] = useCopied();
  const copy = (text: string): void => copyText(text, messages.copied, messages.notCopied);
  const here = window.location.href;
  return (
    <div className="eph-happened-details">
      <p className="eph-code" dir="ltr">
        {entry.method} {decoded(entry.address)} {entry.status}
      </p>
      {entry.message !== undefined && <p className="eph-trouble">{entry.message}</p>}
      <p>
        {stagesOf(entry)
          .map(
            ({ name, milliseconds }) =>
              `${messages.stages[name] ?? name} ${messages.milliseconds(short(milliseconds, locale))}`,
          )
          .join(' · ')}
      </p>
      <p className="eph-in-line">
        {entry.long === true ? (
          messages.tooLong
        ) : (
          <>
            <button type="button" className="eph-offer" onClick={() => copy(curlOf(entry, here))}>
              {messages.copyCurl}
            </button>
            <button type="button" className="eph-offer" onClick={() => copy(codeOf(entry, here))}>
              {messages.copyCode}
            </button>
          </>
        )}
        <span role="status" className="eph-aside">
          {message}
        </span>
      </p>
      {isAdvised(entry) && entry.status !== undefined && (
        <Opened text={messages.advice}>
          <Advised entry={entry} log={log} messages={messages} copy={copy} />
        </Opened>
      )}
      {isExplained(entry) && entry.state === 'answered' ? (
        <Explained entry={entry} log={log} messages={messages} />
      ) : (
        <p className="eph-aside">{messages.notExplained}</p>
      )}
    </div>
  );
}

/** What is requested when it is wanted. */
function Opened({
  text,
  children,
}: {
  readonly text: string;
  readonly children: ReactNode;
}): ReactElement {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <button
        type="button"
        className="eph-offer"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {text}
      </button>
      {open && children}
    </div>
  );
}

function Explained({ entry, log, messages }: DetailsProps): ReactElement {
  const count = useCount();
  const { id } = entry;
  const request = useCallback((signal: AbortSignal) => log.explain(id, signal), [log, id]);
  const answer = useAnswer(request);
  if (answer.state !== 'ready') return <Unanswered answer={answer} what={messages.explaining} />;
  const { sql, parameters, rowsRead } = answer.result;
  return (
    <>
      <p>{messages.rowsRead(count(rowsRead), count(entry.count ?? 0))}</p>
      <h3 className="eph-list-title">{messages.statement}</h3>
      <pre className="eph-code" dir="ltr">
        {sql}
      </pre>
      {parameters.length > 0 && (
        <>
          <h3 className="eph-list-title">{messages.values}</h3>
          <dl className="eph-bound" dir="ltr">
            {parameters.map((value, index) => (
              <div key={index}>
                <dt>${index + 1}</dt>
                <dd>{JSON.stringify(value)}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
      <h3 className="eph-list-title">{messages.plan}</h3>
      <Plan explanation={answer.result} messages={messages} />
    </>
  );
}

/** Which indexes the question would want, to be copied: nothing is ever made here. */
function Advised({
  entry,
  log,
  messages,
  copy,
}: DetailsProps & { readonly copy: (text: string) => void }): ReactElement {
  const { id } = entry;
  const request = useCallback((signal: AbortSignal) => log.advise(id, signal), [log, id]);
  const answer = useAnswer(request);
  if (answer.state !== 'ready') return <Unanswered answer={answer} what={messages.advising} />;
  if (answer.result.length === 0) return <p className="eph-aside">{messages.noAdvice}</p>;
  return (
    <ul className="eph-plain-list">
      {answer.result.map((one) => (
        <AdvisedIndex key={one.statement} advice={one} messages={messages} copy={copy} />
      ))}
    </ul>
  );
}

interface AdvisedIndexProps {
  readonly advice: AdviceAnswer['advice'][number];
  readonly messages: RequestLogMessages;
  readonly copy: (text: string) => void;
}

function AdvisedIndex({ advice, messages, copy }: AdvisedIndexProps): ReactElement {
  const { locale } = useModel().reader;
  const { statement, served, size, cost } = advice;
  if (served !== null) {
    return (
      <li>
        {messages.serves} <code dir="ltr">{served}</code>
      </li>
    );
  }
  const megabytes = (size / 1_000_000).toLocaleString(locale, { maximumSignificantDigits: 2 });
  const costs =
    cost?.with === undefined
      ? undefined
      : messages.costs(
          Math.round(cost.without).toLocaleString(locale),
          Math.round(cost.with).toLocaleString(locale),
        );
  return (
    <li>
      <pre className="eph-code" dir="ltr">
        {statement};
      </pre>
      <span className="eph-aside">
        {messages.size(megabytes)} {costs}
      </span>{' '}
      <button type="button" className="eph-offer" onClick={() => copy(`${statement};`)}>
        {messages.copyStatement}
      </button>
    </li>
  );
}

interface PlanProps {
  readonly explanation: RequestExplanation;
  readonly messages: RequestLogMessages;
}

/** The steps of a plan, each below the one that it works for; the one that takes the most is marked. */
function Plan({ explanation: { steps }, messages }: PlanProps): ReactElement {
  const { locale } = useModel().reader;
  const count = useCount();
  const most = Math.max(...steps.map(({ ownMilliseconds }) => ownMilliseconds));
  const costly = steps.findIndex(({ ownMilliseconds }) => ownMilliseconds === most);
  return (
    <ol className="eph-plan" dir="ltr">
      {steps.map(({ depth, step, rows, ownMilliseconds }, index) => (
        <li
          key={index}
          data-costly={index === costly}
          style={{ paddingInlineStart: `${depth * 1.25}rem` }}
        >
          <span>{step}</span>
          <span className="eph-aside">
            {count(rows)} {messages.rows}, {messages.milliseconds(short(ownMilliseconds, locale))}{' '}
            {messages.ownTime}
            {index === costly ? `: ${messages.costly}` : ''}
          </span>
          <span
            className="eph-plan-bar"
            aria-hidden="true"
            style={{ width: `${most === 0 ? 0 : (ownMilliseconds / most) * 100}%` }}
          />
        </li>
      ))}
    </ol>
  );
}
