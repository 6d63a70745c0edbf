import type { ReactElement } from 'react';
import { mostCopied, type Copied } from '../copy/copy-cells.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';

/** What has come of a copy. */
export function CopyNote({ copied }: { readonly copied: Copied }): ReactElement | null {
  const messages = useAnswer(useModel().reader.messages.menu);
  const written = useCount();
  if (messages.state !== 'ready') return null;
  const menu = messages.result;
  const text =
    copied instanceof Error
      ? copied.message
      : copied === 'too-many'
        ? menu.tooManyToCopy(written(mostCopied))
        : copied === 'not-allowed'
          ? menu.notCopied
          : menu.copied(copied.rows, written(copied.rows));
  return <>{text}</>;
}
