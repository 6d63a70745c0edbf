import type { ViewAnswer } from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import { Tick } from '../editors/choices.tsx';
import { useAction } from '../use-action.ts';
import type { SavedViewMessages } from '../messages/saved-view-messages.ts';

/** What is stated about a view. */
type Form = Pick<ViewAnswer, 'name' | 'note' | 'shared' | 'first'>;

interface ViewFormProps {
  readonly messages: SavedViewMessages;
  readonly title: string;
  /** What is stated about it so far; a new one by default. */
  readonly given?: Form;
  readonly save: (form: Form) => Promise<void>;
  readonly cancel: () => void;
  readonly drop?: () => Promise<void>;
}

const nothing: Form = { name: '', note: '', shared: false, first: false };

/** The name of a view, what it is for, who sees it. */
export function ViewForm(props: ViewFormProps): ReactElement {
  const { messages, title, given = nothing, save, cancel, drop } = props;
  const { name, note, shared, first } = given;
  const [form, setForm] = useState<Form>({ name, note, shared, first });
  const { running, error, run } = useAction();
  const [sure, setSure] = useState(false);
  return (
    <form
      className="eph-form"
      onSubmit={(event) => {
        event.preventDefault();
        void run(() => save(form));
      }}
    >
      <h2 className="eph-sheet-title">{title}</h2>
      <label className="eph-labelled">
        <span>{messages.name}</span>
        <input
          className="eph-field"
          required
          maxLength={200}
          autoFocus
          value={form.name}
          onChange={({ target }) => setForm({ ...form, name: target.value })}
        />
      </label>
      <label className="eph-labelled">
        <span>{messages.note}</span>
        <textarea
          className="eph-field"
          rows={2}
          maxLength={2_000}
          value={form.note}
          onChange={({ target }) => setForm({ ...form, note: target.value })}
        />
      </label>
      <Tick checked={form.shared} change={(next) => setForm({ ...form, shared: next })}>
        {messages.share}
      </Tick>
      <Tick checked={form.first} change={(next) => setForm({ ...form, first: next })}>
        {messages.first}
      </Tick>
      {error !== undefined && (
        <p role="alert" className="eph-trouble">
          {error.message}
        </p>
      )}
      <div className="eph-actions">
        <button type="submit" className="eph-retry" disabled={running || form.name.trim() === ''}>
          {messages.keep}
        </button>
        <button type="button" onClick={cancel}>
          {messages.cancel}
        </button>
        {drop !== undefined && (
          <button
            type="button"
            disabled={running}
            onClick={() => {
              if (sure) void run(drop);
              else setSure(true);
            }}
          >
            {sure ? messages.reallyDrop : messages.drop}
          </button>
        )}
      </div>
    </form>
  );
}
