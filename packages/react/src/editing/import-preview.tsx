import type { Row } from '@ephoros/client';
import type { ColumnDescription, TableDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import { formatValue, plainText, type FullReader } from '../format/value.ts';
import type { EditingMessages } from '../messages/editing-messages.ts';
import { useCount } from '../parts/table-context.ts';
import type { FileRows } from './import-file.ts';
import { cellsOf, type Corrections, type Imported, type ImportProblem } from './import-rows.ts';
import { addable, type Matching } from './matched-columns.ts';

/** Rows that are shown, and errors that are listed. */
const shownRows = 5;
const shownErrors = 50;

interface ImportPreviewProps {
  readonly file: FileRows;
  readonly table: TableDescription;
  readonly matching: Matching;
  readonly imported: Imported;
  readonly reader: FullReader;
  readonly messages: EditingMessages;
  readonly change: (matching: Matching) => void;
}

/** The columns of a file, which one of the table each goes into, and the first rows. */
export function ImportPreview(props: ImportPreviewProps): ReactElement {
  const { file, table, matching, imported, reader, messages, change } = props;
  const columns = addable(table);
  const isWrong = (row: number, { name }: ColumnDescription): boolean =>
    imported.problems.some((one) => one.row === row && one.column === name);
  return (
    <table>
      <thead>
        <tr>
          {file.names.map((name, index) => (
            <th key={name} scope="col">
              {name}
              <select
                className="eph-field"
                aria-label={messages.goesInto(name)}
                value={matching[index]?.name ?? ''}
                onChange={({ target }) =>
                  change(
                    file.names.map((_name, place) =>
                      place === index
                        ? columns.find((one) => one.name === target.value)
                        : matching[place],
                    ),
                  )
                }
              >
                <option value="">{messages.leaveOut}</option>
                {columns.map((column) => (
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
        {file.rows.slice(0, shownRows).map(({ line, cells }, row) => (
          <tr key={line}>
            {matching.map((column, place) => (
              <td key={file.names[place]}>
                {column !== undefined &&
                  cellText(imported.rows[row], column, cells[place], reader, isWrong(row, column))}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A cell as it will be; as it stands in the file where it is no value, or names another row. */
function cellText(
  row: Row | undefined,
  column: ColumnDescription,
  cell: unknown,
  reader: FullReader,
  isWrong: boolean,
): string {
  const there = cell === null ? '' : plainText(cell as Row[string]);
  if (isWrong || column.shownAs !== undefined) return there;
  if (row === undefined || !Object.hasOwn(row, column.name)) return '';
  return formatValue(row[column.name] ?? null, column, reader).text;
}

interface ImportErrorsProps {
  readonly file: FileRows;
  readonly matching: Matching;
  readonly problems: readonly ImportProblem[];
  readonly corrections: Corrections;
  readonly label: (column: string) => string;
  readonly translate: (message: string) => string;
  readonly messages: EditingMessages;
  readonly correct: (row: number, column: string, text: string) => void;
}

/** What is wrong at which line, each with a field to correct it in. */
export function ImportErrors(props: ImportErrorsProps): ReactElement | null {
  const { file, matching, problems, corrections, label, translate, messages, correct } = props;
  const count = useCount();
  if (problems.length === 0) return null;
  return (
    <ul
      className="eph-trouble"
      aria-label={messages.errors(problems.length, count(problems.length))}
    >
      {problems.slice(0, shownErrors).map(({ row, column, message }) => {
        const line = messages.line(count(file.rows[row]?.line ?? 0));
        // What the database says of a row as a whole is corrected in any of its cells.
        const fields = matching.filter(
          (one) => one !== undefined && (column === undefined || one.name === column),
        );
        return (
          <li key={`${row} ${column ?? ''} ${message}`}>
            {line}
            {column === undefined ? '' : `, ${label(column)}`}: {translate(message)}{' '}
            {fields.map((field) => (
              <input
                key={field?.name}
                className="eph-field"
                aria-label={messages.correctedValue(label(field?.name ?? ''), line)}
                dir="auto"
                defaultValue={textOf(file, row, field?.name, matching, corrections)}
                onBlur={({ target }) => {
                  if (field === undefined || target.value === target.defaultValue) return;
                  correct(row, field.name, target.value);
                }}
                onKeyDown={(event) => {
                  if (event.key === 'Enter') event.currentTarget.blur();
                }}
              />
            ))}
          </li>
        );
      })}
    </ul>
  );
}

function textOf(
  file: FileRows,
  row: number,
  column: string | undefined,
  matching: Matching,
  corrections: Corrections,
): string {
  const there = file.rows[row];
  if (there === undefined) return '';
  const cells = cellsOf(there, matching, corrections.get(row));
  for (const [{ name }, cell] of cells) if (name === column) return plainText(cell as Row[string]);
  return '';
}
