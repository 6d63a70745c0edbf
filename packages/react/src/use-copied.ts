import { useState } from 'react';

/** Puts a text on the clipboard, and says what came of it: the one text or the other. */
export function useCopied(): readonly [
  told: string,
  copy: (text: string, copied: string, notCopied: string) => void,
] {
  const [told, setTold] = useState('');
  const copy = (text: string, copied: string, notCopied: string): void => {
    navigator.clipboard.writeText(text).then(
      () => setTold(copied),
      () => setTold(notCopied),
    );
  };
  return [told, copy];
}
