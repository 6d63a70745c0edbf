import { countExactly, ServiceError } from '@ephoros/client';
import type { FileFormat, FileParameters, FilesClient } from '@ephoros/client/files';
import { fileWords } from '@ephoros/core/file';
import { shownNames } from '@ephoros/core/schema';
import { useCallback, useState, type ReactElement } from 'react';
import { Choices, Tick } from '../editors/choices.tsx';
import type { ExportMessages } from '../messages/export-messages.ts';
import { useCount, useLocale, useModel, useRowsOf } from '../parts/table-context.ts';
import { useCounted } from '../parts/use-counted.ts';
import { isOutline } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { useCopied } from '../use-copied.ts';
import { Reports } from './reports.tsx';
import { sizeText } from './size-text.ts';
import { commandOfFile, curlOfFile } from './spelled-out.ts';
import type { WantedFile } from './export-run.ts';
import { useFileSize, type PlannedFile } from './use-file-size.ts';
import { wantedRows, type Scope } from './exported-rows.ts';

interface ExportFormProps {
  readonly files: FilesClient;
  readonly messages: ExportMessages;
  readonly take: (wanted: WantedFile) => Promise<void>;
}

/** Characters of an address that a terminal and a proxy take. */
const mostAddress = 8_000;

/** Which rows and columns are taken out, and as what; the same as a command. */
export function ExportForm({ files, messages, take }: ExportFormProps): ReactElement {
  const records = useRowsOf();
  const { table, shown, reader } = useModel();
  const count = useCount();
  const locale = useLocale();
  const { selection, pager, reading, window, total, open, totalKind } = records;
  const outline = isOutline(records.source);
  const chosen = selection.chosen.kind === 'matching' || selection.keys.length > 0;
  const [format, setFormat] = useState<FileFormat>('csv');
  // What was selected under another condition is not what is looked at.
  const [scope, setScope] = useState<Scope>(
    chosen && !selection.isElsewhere ? 'selected' : outline ? 'groups' : 'all',
  );
  const [every, setEvery] = useState(false);
  const [header, setHeader] = useState<NonNullable<FileParameters['header']>>('labels');
  const [delimiter, setDelimiter] = useState<NonNullable<FileParameters['delimiter']>>('comma');
  const [named, setNamed] = useState(true);
  const [bom, setBom] = useState(false);
  const [folded, setFolded] = useState(true);
  const everyName = shownNames(table);
  const columns = every ? everyName : shown;
  const coded = table.columns.some(({ valueLabels }) => valueLabels !== undefined);
  const isCsv = format === 'csv';
  const folds = format === 'xlsx' && scope === 'groups' && (records.view.group ?? []).length > 1;
  const hasHeader = format !== 'ndjson' && format !== 'json' && format !== 'arrow';
  const form: FileParameters = {
    format,
    ...(hasHeader && header !== 'names' && { header }),
    ...(isCsv && delimiter !== 'comma' && { delimiter }),
    ...(isCsv && bom && { bom }),
    ...(coded && named && { 'value-labels': true }),
    ...(folds && folded && { levels: 'folded' as const }),
  };
  const counted = useCounted();
  const path = JSON.stringify([scope, columns, form]);
  const plan = useCallback(
    async (): Promise<PlannedFile> => {
      const [where, names, how] = JSON.parse(path) as [Scope, string[], FileParameters];
      return { query: await wantedRows(where, names, records), form: how };
    },
    // The rows themselves come and go while one looks: what is queried is the same.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [path, records.match, records.query, selection.chosen, window.from, pager.size],
  );
  const plans = useAnswer(plan);
  const planned = plans.state === 'ready' ? plans.result : undefined;
  const sizes = useFileSize(files, table.name, planned);
  const { request, match } = records;
  const counting = useCallback(
    async (signal: AbortSignal) => request && countExactly(request.rows, match, signal),
    [request, match],
  );
  const inGroups = useAnswer(outline ? counting : undefined);
  // Lines of groups are no rows.
  const grouped = inGroups.state === 'ready' ? inGroups.result : undefined;
  const matching = outline ? grouped : open ? undefined : total;
  const onPage = Math.max(0, window.to - window.from);
  const rows =
    scope === 'all'
      ? matching
      : scope === 'selected'
        ? selection.count
        : scope === 'page'
          ? onPage
          : undefined;
  const scopes: readonly { readonly value: Scope; readonly text: string }[] = [
    ...(outline ? [{ value: 'groups' as const, text: messages.groups }] : []),
    { value: 'all', text: messages.all(counted(matching, outline ? 'exact' : totalKind)) },
    ...(chosen
      ? [
          {
            value: 'selected' as const,
            text: (selection.isElsewhere ? messages.selectedElsewhere : messages.selected)(
              counted(selection.count, selection.countKind),
            ),
          },
        ]
      : []),
    ...(reading === 'pages' && !outline
      ? [{ value: 'page' as const, text: messages.page(count(Math.min(onPage, pager.size))) }]
      : []),
  ];
  const size = sizes.state === 'ready' && rows !== undefined ? sizes.result(rows) : undefined;
  const address =
    planned && new URL(files.url(table.name, planned.query, planned.form), location.href).href;
  const failed = [plans, sizes].find((one) => one.state === 'failed');
  return (
    <div className="eph-taking">
      <Choices
        inLine
        label={messages.format}
        values={fileWords.format.map((value) => ({ value, text: messages.formats[value] }))}
        chosen={format}
        change={setFormat}
      />
      <p className="eph-aside">{messages.uses[format]}</p>
      <p className="eph-list-title">{messages.rows}</p>
      <Choices label={messages.rows} values={scopes} chosen={scope} change={setScope} />
      {outline && scope === 'all' && <p className="eph-aside">{messages.notGrouped}</p>}
      {scope !== 'groups' && (
        <>
          <p className="eph-list-title">{messages.columns}</p>
          <Choices
            label={messages.columns}
            values={[
              { value: 'shown', text: messages.shown(count(shown.length)) },
              { value: 'every', text: messages.everyColumn(count(everyName.length)) },
            ]}
            chosen={every ? 'every' : 'shown'}
            change={(value) => setEvery(value === 'every')}
          />
        </>
      )}
      <p className="eph-in-line">
        <button
          type="button"
          className="eph-plate"
          disabled={planned === undefined}
          onClick={() => {
            if (planned !== undefined) void take({ ...planned, rows });
          }}
        >
          {messages.save}
        </button>
        <span role="status" className="eph-aside">
          {size !== undefined
            ? messages.about(sizeText(size, locale))
            : sizes.state === 'loading'
              ? messages.measuring
              : ''}
        </span>
      </p>
      {failed?.error instanceof ServiceError && (
        <p role="alert" className="eph-trouble">
          {reader.messages.translate(failed.error.message)}
        </p>
      )}
      {(hasHeader || coded) && (
        <details>
          <summary>{messages.how}</summary>
          {hasHeader && (
            <>
              <p className="eph-list-title">{messages.firstLine}</p>
              <Choices
                label={messages.firstLine}
                values={[
                  { value: 'labels', text: messages.labels },
                  { value: 'names', text: messages.names },
                  { value: 'none', text: messages.noLine },
                ]}
                chosen={header}
                change={setHeader}
              />
            </>
          )}
          {isCsv && (
            <>
              <p className="eph-list-title">{messages.delimiter}</p>
              <Choices
                inLine
                label={messages.delimiter}
                values={[
                  { value: 'comma', text: messages.comma },
                  { value: 'semicolon', text: messages.semicolon },
                  { value: 'tab', text: messages.tab },
                ]}
                chosen={delimiter}
                change={setDelimiter}
              />
              <Tick checked={bom} change={setBom}>
                {messages.bom}
              </Tick>
            </>
          )}
          {folds && (
            <Tick checked={folded} change={setFolded}>
              {messages.folded}
            </Tick>
          )}
          {coded && (
            <Tick checked={named} change={setNamed}>
              {messages.valueLabels}
            </Tick>
          )}
        </details>
      )}
      {files.report !== undefined && <Reports report={files.report} messages={messages} />}
      {address !== undefined && address.length < mostAddress && (
        <FromTerminal address={address} name={`${table.name}.${format}`} messages={messages} />
      )}
    </div>
  );
}

interface FromTerminalProps {
  readonly address: string;
  readonly name: string;
  readonly messages: ExportMessages;
}

/** The same file by curl and by the command line. */
function FromTerminal({ address, name, messages }: FromTerminalProps): ReactElement {
  const { table } = useModel();
  const [message, copy] = useCopied();
  return (
    <details>
      <summary>{messages.terminal}</summary>
      {[curlOfFile(address, name), commandOfFile(address, table.name, name)].map((code) => (
        <div key={code}>
          <pre className="eph-code" dir="ltr">
            {code}
          </pre>
          <button
            type="button"
            className="eph-offer"
            onClick={() => copy(code, messages.copied, messages.notCopied)}
          >
            {messages.copy}
          </button>
        </div>
      ))}
      <span role="status" className="eph-aside">
        {message}
      </span>
    </details>
  );
}
