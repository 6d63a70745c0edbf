import type { Row } from '@ephoros/client';
import type { Drafts } from '@ephoros/client/drafts';
import { checkChanges } from '@ephoros/core/change';
import { useMemo, useState, type ReactElement } from 'react';
import { formatValue, plainText, type FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { addable, matched, newValues, type Matching } from './matched-columns.ts';
import { rowsOfFile, type FileRows } from './file-rows.ts';

interface BringInProps {
  readonly drafts: Drafts;
  readonly said: EditingMessages;
  readonly close: () => void;
}

/** Rows of one file at most. */
const mostRows = 5_000;
/** Rows that are shown, and mistakes that are told. */
const shownRows = 5;
const shownMistakes = 50;

/** New rows from a file: its columns matched by their names, every mistake told before any is taken. */
export function BringIn({ drafts, said, close }: BringInProps): ReactElement {
  const count = useCount();
  const [file, setFile] = useState<FileRows>();
  const [matching, setMatching] = useState<Matching>([]);
  const [failure, setFailure] = useState('');
  const read = (chosen: File | undefined): void => {
    setFile(undefined);
    setFailure('');
    if (chosen === undefined) return;
    rowsOfFile(chosen).then(
      (found) => {
        if (found.rows.length > mostRows) setFailure(said.tooManyRows(count(mostRows)));
        else {
          setFile(found);
          setMatching(matched(found.names, drafts.table));
        }
      },
      (thrown: unknown) => setFailure(thrown instanceof Error ? thrown.message : String(thrown)),
    );
  };
  return (
    <div className="eph-bring">
      <label>
        {said.file}{' '}
        <input
          type="file"
          accept=".csv,.tsv,.txt,.ndjson,.jsonl,.xlsx"
          onChange={({ target }) => read(target.files?.[0])}
        />
      </label>
      {failure !== '' && (
        <p role="alert" className="eph-trouble">
          {failure}
        </p>
      )}
      {file !== undefined && (
        <Matched
          drafts={drafts}
          said={said}
          file={file}
          matching={matching}
          change={setMatching}
          close={close}
        />
      )}
    </div>
  );
}

interface MatchedProps extends BringInProps {
  readonly file: FileRows;
  readonly matching: Matching;
  readonly change: (matching: Matching) => void;
}

/** Which column goes where, the first rows as they will be, and what is wrong at which line. */
function Matched({ drafts, said, file, matching, change, close }: MatchedProps): ReactElement {
  const { reader } = useModel();
  const count = useCount();
  const { table } = drafts;
  const rows = useMemo(
    () => file.rows.map((row) => newValues(row, matching, reader.timeZone)),
    [file, matching, reader.timeZone],
  );
  const problems = useMemo(
    () =>
      checkChanges(
        rows.map((values) => ({ kind: 'add', values })),
        { table, tables: () => undefined },
      ).problems,
    [rows, table],
  );
  const wrong = problems.length;
  const label = (name: string): string =>
    table.columns.find((one) => one.name === name)?.label ?? name;
  return (
    <>
      <table>
        <thead>
          <tr>
            {file.names.map((name, index) => (
              <th key={name} scope="col">
                {name}
                <select
                  className="eph-field"
                  aria-label={said.goesInto(name)}
                  value={matching[index]?.name ?? ''}
                  onChange={({ target }) =>
                    change(
                      file.names.map((_name, place) =>
                        place === index
                          ? addable(table).find((one) => one.name === target.value)
                          : matching[place],
                      ),
                    )
                  }
                >
                  <option value="">{said.leaveOut}</option>
                  {addable(table).map((column) => (
                    <option key={column.name} value={column.name}>
                      {column.label}
                    </option>
                  ))}
                </select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, shownRows).map((row, index) => (
            <tr key={file.rows[index]?.line}>
              {matching.map((column, place) => (
                <td key={file.names[place]}>
                  {column !== undefined &&
                    cellText(
                      row,
                      column,
                      reader,
                      problems.some((one) => one.change === index && one.column === column.name),
                    )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {problems.length > 0 && (
        <ul className="eph-trouble" aria-label={said.mistakes(wrong, count(wrong))}>
          {problems.slice(0, shownMistakes).map(({ change: at = 0, column, code, message }) => (
            <li key={`${at} ${column ?? ''} ${code}`}>
              {said.line(count(file.rows[at]?.line ?? 0))}
              {column === undefined ? '' : `, ${label(column)}`}: {message}
            </li>
          ))}
        </ul>
      )}
      <p>
        <button
          type="button"
          className="eph-retry eph-save"
          onClick={() => {
            drafts.addAll(rows);
            close();
          }}
        >
          {said.takeRows(rows.length, count(rows.length))}
        </button>{' '}
        {wrong > 0 && <span className="eph-aside">{said.mistakes(wrong, count(wrong))}</span>}
      </p>
    </>
  );
}

/** What is no value of its column stands there as it came. */
function cellText(
  row: Row,
  column: NonNullable<Matching[number]>,
  reader: FullReader,
  wrong: boolean,
): string {
  if (!Object.hasOwn(row, column.name)) return '';
  const value = row[column.name] ?? null;
  return wrong ? plainText(value) : formatValue(value, column, reader).text;
}
