import type { CallerAnswer } from '@ephoros/core/answer';
import { browserStore } from '@ephoros/react';
import {
  lazy,
  Suspense,
  useCallback,
  useEffect,
  useMemo,
  useState,
  type ReactElement,
  type ReactNode,
} from 'react';
import { whenUnknown } from '../service.ts';
import { ReaderContext, type Reader } from './reader.ts';

/** Whether this browser was ever requested to sign in here: then a page waits until it is known who reads it. */
const asksKey = 'ephoros.asks-who';

type Known =
  | { readonly state: 'loading' }
  /** Nobody could say it: the page itself shows what is the matter. */
  | { readonly state: 'unsaid' }
  | { readonly state: 'known'; readonly caller: CallerAnswer }
  /** `lost` where somebody was known before: what lies on their page stays. */
  | { readonly state: 'unknown'; readonly lost?: CallerAnswer };

/** Loaded where somebody is to sign in. */
const SignInPage = lazy(async () => ({ default: (await import('./sign-in-page.tsx')).SignInPage }));
const SignInAgain = lazy(async () => ({
  default: (await import('./sign-in-page.tsx')).SignInAgain,
}));

/** Asks who reads the page; anyone who is not known signs in before anything is shown. */
export function CallerGate({ children }: { readonly children: ReactNode }): ReactElement | null {
  const [known, setKnown] = useState<Known>({ state: 'loading' });
  const [waits] = useState(
    () => browserStore.read(asksKey) !== '' || window.location.pathname === '/sign-in',
  );
  const request = useCallback(async (): Promise<void> => {
    const response = await fetch('/api/caller');
    if (response.status === 401) {
      browserStore.write(asksKey, 'yes');
      setKnown((before) =>
        before.state === 'known'
          ? { state: 'unknown', lost: before.caller }
          : { ...before, state: 'unknown' },
      );
    } else if (response.ok) {
      const caller = (await response.json()) as CallerAnswer;
      setKnown({ state: 'known', caller });
    } else throw new Error(String(response.status));
  }, []);
  useEffect(() => {
    const begin = (): void => {
      request().catch(() =>
        setKnown((before) => (before.state === 'loading' ? { state: 'unsaid' } : before)),
      );
    };
    begin();
    return whenUnknown(begin);
  }, [request]);
  const caller =
    known.state === 'known' ? known.caller : known.state === 'unknown' ? known.lost : undefined;
  const reader = useMemo(
    (): Reader => ({
      caller,
      signOut: async () => {
        await fetch('/sign-out', { method: 'POST' });
        window.location.assign('/sign-in');
      },
    }),
    [caller],
  );
  if (known.state === 'unknown' && known.lost === undefined) {
    return (
      <Suspense>
        <SignInPage />
      </Suspense>
    );
  }
  if (known.state === 'loading' && waits) return null;
  return (
    <ReaderContext.Provider value={reader}>
      {children}
      {known.state === 'unknown' && (
        <Suspense>
          <SignInAgain goOn={request} />
        </Suspense>
      )}
    </ReaderContext.Provider>
  );
}
