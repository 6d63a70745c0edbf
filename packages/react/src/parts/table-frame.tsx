import type { ReactElement, ReactNode } from 'react';
import { MessagesContext } from '../messages/use-messages.ts';
import type { Messages } from '../messages/messages.ts';
import { Boundary } from './boundary.tsx';
import { FailureNote } from './notes.tsx';

interface TableFrameProps {
  readonly messages: Messages;
  readonly children: ReactNode;
}

/** What stands around all parts of a table: its look, its language, and what is notified when one fails. */
export function TableFrame({ messages, children }: TableFrameProps): ReactElement {
  return (
    <MessagesContext.Provider value={messages}>
      <div className="eph-view" dir={messages.direction} lang={messages.language}>
        <Boundary
          instead={(error, again) => (
            <div className="eph-instead">
              <FailureNote error={error} retry={again} />
            </div>
          )}
        >
          {children}
        </Boundary>
      </div>
    </MessagesContext.Provider>
  );
}
