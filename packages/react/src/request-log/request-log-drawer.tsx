import type { LoggedRequest, RequestLog } from '@ephoros/client';
import {
  Fragment,
  useEffect,
  useRef,
  useState,
  useSyncExternalStore,
  type ReactElement,
} from 'react';
import { useModel } from '../parts/table-context.ts';
import type { RequestLogMessages } from '../messages/request-log-messages.ts';
import { RequestDetails } from './request-details.tsx';
import { decoded } from './request-code.ts';
import { short, stagesOf } from './stages.ts';

interface DrawerProps {
  readonly log: RequestLog;
  readonly messages: RequestLogMessages;
  readonly close: () => void;
}

/** The requests of the page as they happen, the newest first: what, from where, how long. */
export function RequestLogDrawer({ log, messages, close }: DrawerProps): ReactElement {
  const entries = useSyncExternalStore(log.subscribe, log.entries, log.entries);
  const [opened, setOpened] = useState<number>();
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), []);
  const slowest = Math.max(1, ...entries.map(({ milliseconds = 0 }) => milliseconds));
  return (
    <section
      className="eph-happened"
      aria-label={messages.title}
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        close();
      }}
    >
      <header>
        <h2 ref={heading} tabIndex={-1} className="eph-sheet-title">
          {messages.title}
        </h2>
        <span className="eph-grow" />
        <button type="button" className="eph-offer" onClick={log.clear}>
          {messages.clear}
        </button>
        <button type="button" className="eph-offer" onClick={close}>
          {messages.close}
        </button>
      </header>
      {/* It is scrolled by keys, too. */}
      <div className="eph-happened-lines" tabIndex={0} role="group" aria-label={messages.title}>
        {entries.length === 0 ? (
          <p className="eph-aside">{messages.none}</p>
        ) : (
          <table>
            <thead>
              <tr>
                <th scope="col">{messages.columns.at}</th>
                <th scope="col">{messages.columns.about}</th>
                <th scope="col">{messages.columns.address}</th>
                <th scope="col">{messages.columns.status}</th>
                <th scope="col">{messages.columns.from}</th>
                <th scope="col">{messages.columns.time}</th>
                <th scope="col" className="eph-number">
                  {messages.columns.count}
                </th>
              </tr>
            </thead>
            <tbody>
              {[...entries].reverse().map((entry) => (
                <Fragment key={entry.id}>
                  <Line
                    entry={entry}
                    slowest={slowest}
                    messages={messages}
                    open={opened === entry.id}
                    toggle={() => setOpened(opened === entry.id ? undefined : entry.id)}
                  />
                  {opened === entry.id && (
                    <tr>
                      <td colSpan={7}>
                        <RequestDetails entry={entry} log={log} messages={messages} />
                      </td>
                    </tr>
                  )}
                </Fragment>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </section>
  );
}

/** Characters of a body that its line has room for. */
const shownBody = 200;

interface LineProps {
  readonly entry: LoggedRequest;
  readonly slowest: number;
  readonly messages: RequestLogMessages;
  readonly open: boolean;
  readonly toggle: () => void;
}

function Line({ entry, slowest, messages, open, toggle }: LineProps): ReactElement {
  const { reader } = useModel();
  const { about, address, body, method, status, state, from, milliseconds, count } = entry;
  const clock = new Date(entry.at).toLocaleTimeString(reader.locale, {
    timeZone: reader.timeZone,
    hour12: false,
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
    fractionalSecondDigits: 3,
  });
  const path = decoded(address.slice(address.indexOf('/tables') + 1));
  return (
    <tr data-state={state}>
      <td>{clock}</td>
      <td>
        <button type="button" aria-expanded={open} onClick={toggle}>
          {messages.about[about.kind]}
          {about.column === undefined ? '' : ` (${about.column})`}
        </button>
      </td>
      <td className="eph-code" dir="ltr" title={decoded(address)}>
        {method === 'GET' ? '' : `${method} `}
        {path}
        {body === undefined ? '' : ` ${body.slice(0, shownBody)}`}
      </td>
      <td>{status ?? '–'}</td>
      <td>{state === 'answered' ? from && messages.from[from] : messages.state[state]}</td>
      <td>
        {milliseconds !== undefined && (
          <span className="eph-spent">
            <StageBar entry={entry} slowest={slowest} messages={messages} />
            {messages.milliseconds(short(milliseconds, reader.locale))}
          </span>
        )}
      </td>
      <td className="eph-number">{count?.toLocaleString(reader.locale)}</td>
    </tr>
  );
}

/** How long each stage took, next to the slowest of all. */
function StageBar({
  entry,
  slowest,
  messages,
}: Pick<LineProps, 'entry' | 'slowest' | 'messages'>): ReactElement {
  const { locale } = useModel().reader;
  return (
    <span className="eph-stages" aria-hidden="true">
      {stagesOf(entry).map(({ name, milliseconds }) => (
        <span
          key={name}
          data-stage={name}
          title={`${messages.stages[name] ?? name}: ${messages.milliseconds(short(milliseconds, locale))}`}
          style={{ width: `${(milliseconds / slowest) * 100}%` }}
        />
      ))}
    </span>
  );
}
