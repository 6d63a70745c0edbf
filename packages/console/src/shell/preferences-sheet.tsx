import { printSimulation, readSimulation } from '@ephoros/core/simulation';
import { browserStore, useAnswer, useStored } from '@ephoros/react';
import { Dialog } from 'radix-ui';
import { useId, type ReactElement, type ReactNode } from 'react';
import { simulationKey } from '../service.ts';
import { browserZone, useDesk } from './desk.tsx';
import { DialogSheet } from './dialog.tsx';
import type { Preferences } from './preferences.ts';

/** What the reader prefers: stored in this browser. */
export function PreferencesSheet({ close }: { readonly close: () => void }): ReactElement {
  const { words, preferences, prefer, language, reader } = useDesk();
  const { theme = 'system', density = 'normal', timeZone = '', motion = 'system' } = preferences;
  const zones = Intl.supportedValuesOf('timeZone');
  return (
    <Dialog.Root open onOpenChange={close}>
      <DialogSheet title={words.preferences} width="w-[min(30rem,94vw)]">
        <div className="mt-3 grid gap-3">
          <Choice
            label={words.language}
            value={language}
            options={[
              ['en', 'English'],
              ['ar', 'العربية'],
            ]}
            choose={(one) => prefer({ language: one as Preferences['language'] })}
          />
          <Choice
            label={words.theme}
            value={theme}
            options={Object.entries(words.themes)}
            choose={(one) =>
              prefer({ theme: one === 'system' ? undefined : (one as Preferences['theme']) })
            }
          />
          <Choice
            label={words.density}
            value={density}
            options={Object.entries(reader.messages.editors.densities)}
            choose={(one) =>
              prefer({ density: one === 'normal' ? undefined : (one as Preferences['density']) })
            }
          />
          <Choice
            label={words.timeZone}
            value={timeZone}
            options={[
              ['', words.ownTimeZone(browserZone)],
              ...[...new Set([...zones, 'UTC'])].map((zone) => [zone, zone] as const),
            ]}
            choose={(zone) => prefer({ timeZone: zone === '' ? undefined : zone })}
          />
          <Choice
            label={words.motion}
            value={motion}
            options={Object.entries(words.motions)}
            choose={(one) => prefer({ motion: one === 'none' ? 'none' : undefined })}
          />
          <SimulationFields />
        </div>
      </DialogSheet>
    </Dialog.Root>
  );
}

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly (readonly [value: string, text: string])[];
  readonly choose: (value: string) => void;
}

function Choice({ label, value, options, choose }: ChoiceProps): ReactElement {
  return (
    <Labelled label={label}>
      {(id) => (
        <select
          id={id}
          className="field min-w-0 grow bg-leaf"
          value={value}
          onChange={({ target }) => choose(target.value)}
        >
          {options.map(([one, text]) => (
            <option key={one} value={one}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Labelled>
  );
}

interface LabelledProps {
  readonly label: string;
  readonly children: (id: string) => ReactNode;
}

function Labelled({ label, children }: LabelledProps): ReactElement {
  const id = useId();
  return (
    <p className="flex items-baseline gap-4">
      <label htmlFor={id} className="w-32 shrink-0 text-faint">
        {label}
      </label>
      {children(id)}
    </p>
  );
}

async function fetchSimulation(signal: AbortSignal): Promise<{ readonly on: boolean } | undefined> {
  const response = await fetch('/api/simulation', { signal });
  return response.ok ? ((await response.json()) as { readonly on: boolean }) : undefined;
}

/** Slowness and failures of this window, where the service was started for that. */
function SimulationFields(): ReactElement | null {
  const { words } = useDesk();
  const answer = useAnswer(fetchSimulation);
  const [text, keep] = useStored(browserStore, simulationKey);
  if (answer.state !== 'ready' || answer.result?.on !== true) return null;
  const { delay, fail } = readSimulation(text) ?? {};
  const put = (ms: number | undefined, share: number | undefined): void =>
    keep(
      printSimulation({
        ...(ms !== undefined && { delay: ms }),
        ...(share !== undefined && { fail: share / 100 }),
      }),
    );
  const percent = fail === undefined ? undefined : Math.round(fail * 100);
  const numberOf = (input: HTMLInputElement): number | undefined =>
    Number.isNaN(input.valueAsNumber) ? undefined : input.valueAsNumber;
  return (
    <fieldset className="mt-2 grid gap-2 border-t border-rule pt-3">
      <legend className="pe-3 font-serif italic">{words.simulation}</legend>
      <p className="text-sm text-faint">{words.simulationHint}</p>
      <Labelled label={words.delay}>
        {(id) => (
          <input
            id={id}
            type="number"
            min={0}
            max={60_000}
            step={100}
            className="field w-28"
            value={delay ?? ''}
            onChange={({ target }) => put(numberOf(target), percent)}
          />
        )}
      </Labelled>
      <Labelled label={words.fail}>
        {(id) => (
          <input
            id={id}
            type="number"
            min={0}
            max={100}
            className="field w-28"
            value={percent ?? ''}
            onChange={({ target }) => put(delay, numberOf(target))}
          />
        )}
      </Labelled>
    </fieldset>
  );
}
