import { useEffect, useState, type ReactElement } from 'react';
import { useMessages } from '../messages/use-messages.ts';

/** "Trying again in 3 s.", second by second. */
export function Countdown({ until }: { until: number }): ReactElement {
  const { tryingAgain } = useMessages();
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, []);
  const seconds = Math.max(0, Math.ceil((until - now) / 1000));
  return <span>{tryingAgain(seconds === 0 ? undefined : seconds)}</span>;
}
