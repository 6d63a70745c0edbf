import { useState } from 'react';

/** Puts a text on the clipboard, and says what came of it: the one text or the other. */
export function useCopied(): readonly [
  told: string,
  copy: (text: string, copied: string, notCopied: string) => void,
] {
  const [message, setNote] = useState('');
  const copy = (text: string, copied: string, notCopied: string): void => {
    navigator.clipboard.writeText(text).then(
      () => setNote(copied),
      () => setNote(notCopied),
    );
  };
  return [message, copy];
}
