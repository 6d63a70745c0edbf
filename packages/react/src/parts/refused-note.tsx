import { changed, type View } from '@ephoros/core/view';
import type { ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';
import { useModel } from './table-context.ts';

/** The view asks for something that cannot be answered. */
export function RefusedNote(): ReactElement {
  const { problems, change } = useModel();
  const messages = useMessages();
  // What is wrong with the filter is stated where it stands.
  const elsewhere = problems.filter(({ parameter }) => parameter !== 'filter');
  return (
    <div role="alert" data-testid="refused">
      <p className="eph-note-title eph-trouble">{messages.refused}</p>
      {elsewhere.length < problems.length && <p>{messages.conditionRefused}</p>}
      <ul className="eph-plain-list">
        {elsewhere.map(({ parameter, message, hint }, index) => (
          <li key={index}>
            <code className="eph-code eph-aside">{parameter}</code> {messages.translate(message)}{' '}
            {messages.translate(hint ?? '')}
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="eph-plate"
        onClick={() =>
          change(
            (view) =>
              problems.reduce((left, { parameter = 'filter' }) => without(left, parameter), view),
            { mends: problems.map(({ parameter = 'filter' }) => parameter) },
          )
        }
      >
        {messages.leaveOut}
      </button>
    </div>
  );
}

/** The view without what a parameter says. */
function without(view: View, parameter: string): View {
  const part = parameter === 'page' || parameter === 'offset' ? 'place' : parameter;
  return changed(view, { [part]: undefined });
}
