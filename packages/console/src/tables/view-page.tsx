import { printView, viewOfSaved } from '@ephoros/core/view';
import { FailureNote, useAnswer } from '@ephoros/react';
import { useCallback, useEffect, type ReactElement } from 'react';
import { useLocation } from 'wouter';
import { client } from '../service.ts';
import { useDesk } from '../shell/desk.tsx';
import { ConsoleHeader } from '../shell/console-header.tsx';

/** The page of a saved view by its id leads to the page of its table. */
export function ViewPage({ id }: { readonly id: string }): ReactElement {
  const { words } = useDesk();
  const [, navigate] = useLocation();
  const request = useCallback((signal: AbortSignal) => client.views.read(id, signal), [id]);
  const answer = useAnswer(request);
  const found = answer.state === 'ready' ? answer.result : undefined;
  useEffect(() => {
    if (found === undefined) return;
    const { view } = viewOfSaved(found.view);
    const parameters = new URLSearchParams([['view', found.id], ...printView(view)]);
    navigate(`/tables/${encodeURIComponent(found.table)}?${parameters.toString()}`, {
      replace: true,
    });
  }, [found, navigate]);
  return (
    <>
      <ConsoleHeader />
      <main className="px-10 py-16">
        {answer.state === 'failed' ? (
          <FailureNote error={answer.error} retry={answer.retry} />
        ) : (
          <p className="text-faint">{words.readingView}</p>
        )}
      </main>
    </>
  );
}
