import { useState, type ReactElement } from 'react';
import { useDesk } from '../shell/desk.tsx';
import { ConsoleHeader } from '../shell/console-header.tsx';
import { useReader } from './reader.ts';

/** Lets a program on the reader's machine ask as them, which waits for that at a port of its own. */
export function ProgramPage(): ReactElement {
  const { words } = useDesk();
  const { caller } = useReader();
  const [failed, setFailed] = useState(false);
  const parameters = new URLSearchParams(window.location.search);
  const port = Number(parameters.get('port'));
  const [challenge, state] = [parameters.get('challenge') ?? '', parameters.get('state') ?? ''];
  const isSound = Number.isInteger(port) && port > 0 && port < 65_536 && challenge !== '';
  const allow = async (): Promise<void> => {
    setFailed(false);
    const response = await fetch('/sign-in/program', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ challenge }),
    });
    if (!response.ok) throw new Error(String(response.status));
    const { code } = (await response.json()) as { code: string };
    const answer = new URLSearchParams({ code, state });
    window.location.assign(`http://127.0.0.1:${port}/?${answer.toString()}`);
  };
  const name = caller?.title ?? caller?.name ?? '';
  return (
    <>
      <ConsoleHeader />
      <main className="mx-auto max-w-xl px-6 pt-[14vh] pb-24">
        <h1 className="font-serif text-3xl font-semibold tracking-tight">
          {isSound ? words.letProgram(name) : words.noPage}
        </h1>
        {isSound && (
          <>
            <p className="mt-4 text-faint">{words.letProgramHint}</p>
            <button
              type="button"
              className="mt-6 cursor-pointer border border-amber px-5 py-1.5 text-amber hover:bg-amber-wash"
              onClick={() => void allow().catch(() => setFailed(true))}
            >
              {words.allow}
            </button>
          </>
        )}
        {failed && (
          <p role="alert" className="mt-4 text-fault">
            {words.letProgramFailed}
          </p>
        )}
      </main>
    </>
  );
}
