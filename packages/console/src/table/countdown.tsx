import { useEffect, useState, type ReactElement } from 'react';

/** "Trying again in 3 s", second by second. */
export function Countdown({ until }: { until: number }): ReactElement {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, []);
  const seconds = Math.max(0, Math.ceil((until - now) / 1000));
  return <span>{seconds === 0 ? 'Trying again …' : `Trying again in ${seconds} s.`}</span>;
}
