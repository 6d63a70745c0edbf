import { useId, type ReactElement } from 'react';
import { Unanswered } from './unanswered.tsx';
import { useMessages } from '../messages/use-messages.ts';
import { useAnswer } from '../use-answer.ts';

/** The keys of a table, and what its menus offer. */
export function KeySheet(): ReactElement {
  const { menu, keys: title, loading } = useMessages();
  const messages = useAnswer(menu);
  if (messages.state !== 'ready') return <Unanswered answer={messages} what={loading} />;
  const { keysOfRows, keysOfHeader, inMenu, keys, headerKeys, offers } = messages.result;
  return (
    // What is longer than the sheet is scrolled by keys, too.
    <div role="group" aria-label={title} tabIndex={0}>
      <h2 className="eph-sheet-title">{title}</h2>
      <Keys title={keysOfRows} keys={keys} />
      <Keys title={keysOfHeader} keys={headerKeys} />
      <h3 className="eph-list-title">{inMenu}</h3>
      <ul className="eph-plain-list">
        {offers.map((offer) => (
          <li key={offer}>{offer}</li>
        ))}
      </ul>
    </div>
  );
}

interface KeysProps {
  readonly title: string;
  readonly keys: readonly (readonly [string, string])[];
}

function Keys({ title, keys }: KeysProps): ReactElement {
  const id = useId();
  return (
    <>
      <h3 id={id} className="eph-list-title">
        {title}
      </h3>
      <dl className="eph-keys" aria-labelledby={id}>
        {keys.map(([key, does]) => (
          <div key={key}>
            <dt>{key}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}
