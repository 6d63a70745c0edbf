import { useAnswer } from '@ephoros/react';
import { ownPath } from '@ephoros/core/path';
import { Dialog } from 'radix-ui';
import { useEffect, useState, type ReactElement } from 'react';
import { useDesk } from '../shell/desk.tsx';
import { DialogSheet } from '../shell/dialog.tsx';
import { ConsoleHeader } from '../shell/console-header.tsx';

interface Ways {
  readonly title: string;
  readonly ways: readonly {
    readonly kind: 'openid' | 'token';
    readonly label: string;
    readonly path: string;
  }[];
}

async function fetchSignInMethods(signal: AbortSignal): Promise<Ways> {
  const response = await fetch('/sign-in/ways', { signal });
  if (!response.ok) throw new Error(String(response.status));
  return (await response.json()) as Ways;
}

/** Where a reader was going: to this page itself nobody comes back. */
function wanted(): string {
  const { pathname, search } = window.location;
  return ownPath(
    pathname === '/sign-in' ? new URLSearchParams(search).get('back') : pathname + search,
  );
}

/** What is there instead of every page as long as nobody has signed in. */
export function SignInPage(): ReactElement {
  const { words } = useDesk();
  const answer = useAnswer(fetchSignInMethods);
  const title = answer.state === 'ready' ? answer.result.title : 'Ephoros';
  const failed = new URLSearchParams(window.location.search).get('failed');
  useEffect(() => {
    document.title = `${words.signIn} · ${title}`;
  }, [words, title]);
  return (
    <>
      <ConsoleHeader />
      <main className="mx-auto max-w-xl px-6 pt-[14vh] pb-24">
        <h1 className="font-serif text-5xl font-semibold tracking-tight">{title}</h1>
        <p className="mt-6 font-serif text-xl text-faint italic">{words.signInFirst}</p>
        {failed !== null && (
          <p role="alert" className="mt-6 border-s-2 border-fault ps-3 text-fault">
            {failed === 'unavailable' ? words.signInUnavailable : words.signInRefused}
          </p>
        )}
        <div className="mt-8">
          <SignInMethods answer={answer} done={() => window.location.assign(wanted())} />
        </div>
      </main>
    </>
  );
}

/** The same over a page that somebody was reading: what they were doing stays. */
export function SignInAgain({ goOn }: { readonly goOn: () => Promise<void> }): ReactElement {
  const { words } = useDesk();
  const answer = useAnswer(fetchSignInMethods);
  return (
    <Dialog.Root open>
      <DialogSheet title={words.signIn} width="w-[min(32rem,94vw)]" closable={false}>
        <p className="mt-3 text-faint">{words.signedOut}</p>
        <div className="mt-5">
          <SignInMethods answer={answer} done={() => void goOn()} hasOthers />
        </div>
        <button
          type="button"
          className="mt-6 cursor-pointer self-start text-amber hover:underline"
          onClick={() => void goOn()}
        >
          {words.goOn}
        </button>
      </DialogSheet>
    </Dialog.Root>
  );
}

interface SignInMethodsProps {
  readonly answer: ReturnType<typeof useAnswer<Ways>>;
  readonly done: () => void;
  /** Whether a provider is gone to in another tab. */
  readonly hasOthers?: boolean;
}

function SignInMethods({
  answer,
  done,
  hasOthers = false,
}: SignInMethodsProps): ReactElement | null {
  const { words } = useDesk();
  if (answer.state === 'loading') return null;
  if (answer.state === 'failed') return <p role="alert">{words.signInUnavailable}</p>;
  const { ways } = answer.result;
  if (ways.length === 0) return <p>{words.noWayIn}</p>;
  const back = encodeURIComponent(hasOthers ? '/' : wanted());
  return (
    <ul className="border-t border-rule">
      {ways.map(({ kind, label, path }) => (
        <li key={path} className="border-b border-rule py-4">
          {kind === 'openid' ? (
            <a
              className="block font-serif text-2xl hover:text-amber"
              href={`${path}?back=${back}`}
              {...(hasOthers ? { target: '_blank', rel: 'noreferrer' } : {})}
            >
              {label} <span className="inline-block text-amber rtl:-scale-x-100">→</span>
            </a>
          ) : (
            <TokenForm path={path} done={done} />
          )}
        </li>
      ))}
    </ul>
  );
}

function TokenForm({
  path,
  done,
}: {
  readonly path: string;
  readonly done: () => void;
}): ReactElement {
  const { words } = useDesk();
  const [token, setToken] = useState('');
  const [refused, setRefused] = useState(false);
  const send = async (): Promise<void> => {
    setRefused(false);
    const response = await fetch(path, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ token: token.trim() }),
    });
    if (response.ok) done();
    else setRefused(true);
  };
  return (
    <form
      className="flex flex-wrap items-baseline gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        send().catch(() => setRefused(true));
      }}
    >
      <input
        type="password"
        className="field min-w-0 grow bg-transparent py-1"
        aria-label={words.token}
        placeholder={words.token}
        autoComplete="off"
        value={token}
        onChange={({ target }) => setToken(target.value)}
      />
      <button
        type="submit"
        className="cursor-pointer text-amber hover:underline disabled:text-faint"
        disabled={token.trim() === ''}
      >
        {words.signIn}
      </button>
      {refused && (
        <p role="alert" className="basis-full text-fault">
          {words.tokenRefused}
        </p>
      )}
    </form>
  );
}
