import {
  isExplained,
  type LoggedRequest,
  type RequestExplanation,
  type RequestLog,
} from '@ephoros/client';
import { useCallback, useState, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import type { HappenedMessages } from '../messages/happened-messages.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { codeOf, curlOf } from './request-code.ts';
import { short, stagesOf } from './stages.ts';

interface DetailsProps {
  readonly entry: LoggedRequest;
  readonly log: RequestLog;
  readonly said: HappenedMessages;
}

/** One request: its stages, the same for a terminal and a program, and how its answer comes about. */
export function RequestDetails({ entry, log, said }: DetailsProps): ReactElement {
  const { locale } = useModel().reader;
  const [told, setTold] = useState('');
  const copy = (text: string): void => {
    navigator.clipboard.writeText(text).then(
      () => setTold(said.copied),
      () => setTold(said.notCopied),
    );
  };
  const here = window.location.href;
  return (
    <div className="eph-happened-details">
      {entry.message !== undefined && <p className="eph-trouble">{entry.message}</p>}
      <p>
        {stagesOf(entry)
          .map(
            ({ name, milliseconds }) =>
              `${said.stages[name] ?? name} ${said.milliseconds(short(milliseconds, locale))}`,
          )
          .join(' · ')}
      </p>
      <p className="eph-in-line">
        <button type="button" className="eph-offer" onClick={() => copy(curlOf(entry, here))}>
          {said.copyCurl}
        </button>
        <button type="button" className="eph-offer" onClick={() => copy(codeOf(entry, here))}>
          {said.copyCode}
        </button>
        <span role="status" className="eph-aside">
          {told}
        </span>
      </p>
      {isExplained(entry) && entry.state === 'answered' ? (
        <Explained entry={entry} log={log} said={said} />
      ) : (
        <p className="eph-aside">{said.notExplained}</p>
      )}
    </div>
  );
}

function Explained({ entry, log, said }: DetailsProps): ReactElement {
  const count = useCount();
  const { id } = entry;
  const ask = useCallback((signal: AbortSignal) => log.explain(id, signal), [log, id]);
  const answer = useAnswer(ask);
  if (answer.state !== 'ready') return <Unanswered answer={answer} what={said.explaining} />;
  const { sql, parameters, rowsRead } = answer.result;
  return (
    <>
      <p>{said.rowsRead(count(rowsRead), count(entry.count ?? 0))}</p>
      <h3 className="eph-list-title">{said.statement}</h3>
      <pre className="eph-code" dir="ltr">
        {sql}
      </pre>
      {parameters.length > 0 && (
        <>
          <h3 className="eph-list-title">{said.values}</h3>
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
      <h3 className="eph-list-title">{said.plan}</h3>
      <Plan explanation={answer.result} said={said} />
    </>
  );
}

interface PlanProps {
  readonly explanation: RequestExplanation;
  readonly said: HappenedMessages;
}

/** The steps of a plan, each below the one that it works for; the one that takes the most is marked. */
function Plan({ explanation: { steps }, said }: PlanProps): ReactElement {
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
            {count(rows)} {said.rows}, {said.milliseconds(short(ownMilliseconds, locale))}{' '}
            {said.ownTime}
            {index === costly ? `: ${said.costly}` : ''}
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
