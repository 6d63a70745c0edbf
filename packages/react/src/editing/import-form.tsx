import { ServiceError } from '@ephoros/client';
import { randomId, type Drafts } from '@ephoros/client/drafts';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactElement } from 'react';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { useCount, useModel, useRowsOf } from '../parts/table-context.ts';
import type { RequestClient } from '../records/request-client.ts';
import { useAnswer } from '../use-answer.ts';
import { sheetsOfFile, type FileSheet } from './import-file.ts';
import { ImportErrors, ImportPreview } from './import-preview.tsx';
import { namedReference } from './import-references.ts';
import {
  importedRows,
  ReferenceKeys,
  withCorrections,
  type Corrections,
  type Imported,
  type ImportProblem,
  type Reading,
} from './import-rows.ts';
import { saveImported } from './import-run.ts';
import { matched, type Matching } from './matched-columns.ts';

interface ImportFormProps {
  readonly drafts: Drafts;
  readonly client: RequestClient | undefined;
  readonly messages: EditingMessages;
  readonly close: () => void;
}

/** Rows that become drafts at most: more are saved at once, in sets. */
const mostDrafts = 5_000;

/** New rows from a file: its columns matched by their names, every error shown before any is added. */
export function ImportForm({ drafts, client, messages, close }: ImportFormProps): ReactElement {
  const [sheets, setSheets] = useState<readonly FileSheet[]>([]);
  const [chosen, setChosen] = useState(0);
  const [failure, setFailure] = useState('');
  const read = (file: File | undefined): void => {
    setSheets([]);
    setChosen(0);
    setFailure('');
    if (file === undefined) return;
    sheetsOfFile(file).then(setSheets, (thrown: unknown) =>
      setFailure(thrown instanceof Error ? thrown.message : String(thrown)),
    );
  };
  const sheet = sheets[chosen];
  return (
    <div className="eph-import">
      <label>
        {messages.file}{' '}
        <input
          type="file"
          accept=".csv,.tsv,.txt,.ndjson,.jsonl,.xlsx"
          onChange={({ target }) => read(target.files?.[0])}
        />
      </label>
      {sheets.length > 1 && (
        <label>
          {messages.sheet}{' '}
          <select
            className="eph-field"
            value={chosen}
            onChange={({ target }) => setChosen(Number(target.value))}
          >
            {sheets.map((one, index) => (
              <option key={one.sheet} value={index}>
                {one.sheet}
              </option>
            ))}
          </select>
        </label>
      )}
      {failure !== '' && (
        <p role="alert" className="eph-trouble">
          {failure}
        </p>
      )}
      {sheet !== undefined && (
        <SheetImport
          // Another sheet is matched again.
          key={chosen}
          drafts={drafts}
          client={client}
          messages={messages}
          file={sheet}
          close={close}
        />
      )}
    </div>
  );
}

interface SheetImportProps extends ImportFormProps {
  readonly file: FileSheet;
}

/** Which column goes where, the first rows as they will be, and what is wrong at which line. */
function SheetImport({ drafts, client, messages, file, close }: SheetImportProps): ReactElement {
  const { reader, request } = useModel();
  const { table } = drafts;
  const count = useCount();
  const [matching, setMatching] = useState<Matching>(() => matched(file.names, table));
  const [corrections, setCorrections] = useState<Corrections>(new Map());
  const references = useMemo(
    () =>
      new Map(
        matching.flatMap((column) => {
          const found = column && namedReference(column, table, client);
          return column && found ? [[column.name, found] as const] : [];
        }),
      ),
    [matching, table, client],
  );
  const [lookup] = useState(() => new ReferenceKeys());
  const others = request?.others;
  const zone = reader.timeZone;
  const scanned = useAnswer(
    useCallback(
      async (signal: AbortSignal) =>
        others === undefined
          ? new Map()
          : lookup.find(file.rows, corrections, { matching, references, zone }, others, signal),
      [others, lookup, file, corrections, matching, references, zone],
    ),
  );
  // While a corrected name is looked up, what was found before stays.
  const [keys, setKeys] = useState<Reading['keys']>(new Map());
  if (scanned.state === 'ready' && scanned.result !== keys) setKeys(scanned.result);
  const reading = useMemo(
    (): Reading => ({ table, matching, references, keys, zone, messages }),
    [table, matching, references, keys, zone, messages],
  );
  const uncorrected = useMemo(() => importedRows(file.rows, new Map(), reading), [file, reading]);
  const imported = useMemo(
    () => withCorrections(file.rows, uncorrected, corrections, reading),
    [file, uncorrected, corrections, reading],
  );
  const saving = useSaving(imported, client, table.name);
  const isLooking = scanned.state === 'loading';
  const shown = isLooking && keys.size === 0 && references.size > 0 ? noProblems : imported;
  const problems = saving.refused.length > 0 ? saving.refused : shown.problems;
  const { length } = file.rows;
  const label = (name: string): string =>
    table.columns.find((one) => one.name === name)?.label ?? name;
  const isDrafted = length <= mostDrafts || client?.changes === undefined;
  return (
    <>
      <ImportPreview
        file={file}
        table={table}
        matching={matching}
        imported={imported}
        reader={reader}
        messages={messages}
        change={setMatching}
      />
      {scanned.state === 'failed' && (
        <p role="alert" className="eph-trouble">
          {reader.messages.translate(scanned.error.message)}{' '}
          <button type="button" className="eph-retry" onClick={scanned.retry}>
            {reader.messages.tryAgain}
          </button>
        </p>
      )}
      <ImportErrors
        file={file}
        matching={matching}
        problems={problems}
        corrections={corrections}
        label={label}
        translate={reader.messages.translate}
        messages={messages}
        correct={(row, column, text) => {
          saving.forget();
          setCorrections((last) => new Map(last).set(row, { ...last.get(row), [column]: text }));
        }}
      />
      <p>
        {saving.state === 'saving' ? (
          <>
            <progress value={saving.saved} max={length} aria-label={messages.saving} />{' '}
            <button type="button" className="eph-offer" onClick={saving.stop}>
              {messages.stop}
            </button>
          </>
        ) : isDrafted ? (
          <button
            type="button"
            className="eph-retry eph-save"
            disabled={
              isLooking || imported.problems.some(({ isUnresolved }) => isUnresolved === true)
            }
            onClick={() => {
              drafts.addAll(imported.rows);
              close();
            }}
          >
            {messages.addRows(length, count(length))}
          </button>
        ) : (
          saving.saved < length && (
            <button
              type="button"
              className="eph-retry eph-save"
              disabled={isLooking || problems.length > 0}
              onClick={saving.start}
            >
              {messages.saveRows(length - saving.saved, count(length - saving.saved))}
            </button>
          )
        )}{' '}
        <span role="status" className="eph-aside">
          {isLooking && references.size > 0 && messages.lookingUp}
          {!isLooking &&
            problems.length > 0 &&
            messages.errors(problems.length, count(problems.length))}
          {saving.saved > 0 && ` ${messages.savedOf(count(saving.saved), count(length))}`}
        </span>
      </p>
      {saving.failure !== '' && (
        <p role="alert" className="eph-trouble">
          {reader.messages.translate(saving.failure)}
        </p>
      )}
    </>
  );
}

const noProblems: Imported = { rows: [], problems: [] };

interface Saving {
  readonly state: 'waiting' | 'saving';
  /** Rows that are saved. */
  readonly saved: number;
  /** What the database refused of the set behind them. */
  readonly refused: readonly ImportProblem[];
  readonly failure: string;
  readonly start: () => void;
  readonly stop: () => void;
  /** Forgets what was refused: a row was corrected. */
  readonly forget: () => void;
}

/** Rows that are saved set by set, with how far that is. */
function useSaving({ rows }: Imported, client: RequestClient | undefined, table: string): Saving {
  const { refresh } = useRowsOf();
  const [state, setState] = useState<Saving['state']>('waiting');
  const [saved, setSaved] = useState(0);
  const [refused, setRefused] = useState<readonly ImportProblem[]>([]);
  const [failure, setFailure] = useState('');
  const controller = useRef(new AbortController());
  // Sets of rows that were corrected are other ones.
  const [key, setKey] = useState(newKey);
  const reached = useRef(0);
  // What is saved when the form is closed stays saved; nothing more follows.
  useEffect(() => () => controller.current.abort(), []);
  const start = async (): Promise<void> => {
    if (client?.changes === undefined) return;
    controller.current = new AbortController();
    setState('saving');
    setFailure('');
    try {
      const { signal } = controller.current;
      await saveImported({
        changes: client.changes,
        table,
        rows,
        saved,
        key,
        signal,
        onSaved: (now) => {
          reached.current = now;
          setSaved(now);
        },
      });
    } catch (thrown) {
      const problems = thrown instanceof ServiceError ? thrown.problems : [];
      const own = problems.flatMap(({ change, column, message }): ImportProblem[] =>
        change === undefined ? [] : [{ row: reached.current + change, column, message }],
      );
      setRefused(own);
      if (own.length === 0 && !controller.current.signal.aborted) {
        setFailure(thrown instanceof Error ? thrown.message : String(thrown));
      }
    }
    setState('waiting');
    refresh();
  };
  return {
    state,
    saved,
    refused,
    failure,
    start: () => void start(),
    stop: () => controller.current.abort(),
    forget: () => {
      setRefused([]);
      setKey(newKey());
    },
  };
}

function newKey(): string {
  return `import ${randomId()}`;
}
