import { countExactly, ServiceError } from '@ephoros/client';
import type { FileFormat, FileParameters, FilesClient } from '@ephoros/client/files';
import { fileWords } from '@ephoros/core/file';
import { shownNames } from '@ephoros/core/schema';
import { useCallback, useState, type ReactElement } from 'react';
import { Choices, Tick } from '../editors/choices.tsx';
import type { TakingMessages } from '../messages/taking-messages.ts';
import { useCount, useLocale, useModel, useRowsOf } from '../parts/table-context.ts';
import { useCounted } from '../parts/use-counted.ts';
import { isOutline } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { useCopied } from '../use-copied.ts';
import { Reports } from './reports.tsx';
import { sizeText } from './size-text.ts';
import { commandOfFile, curlOfFile } from './spelled-out.ts';
import type { WantedFile } from './taking.ts';
import { useFileSize, type PlannedFile } from './use-file-size.ts';
import { wantedRows, type Scope } from './wanted-rows.ts';

interface TakeOutFormProps {
  readonly files: FilesClient;
  readonly said: TakingMessages;
  readonly take: (wanted: WantedFile) => Promise<void>;
}

/** Characters of an address that a terminal and a proxy take. */
const mostAddress = 8_000;

/** Which rows and columns are taken out, and as what; the same as a command. */
export function TakeOutForm({ files, said, take }: TakeOutFormProps): ReactElement {
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
  const asked = JSON.stringify([scope, columns, form]);
  const plan = useCallback(
    async (): Promise<PlannedFile> => {
      const [where, names, how] = JSON.parse(asked) as [Scope, string[], FileParameters];
      return { query: await wantedRows(where, names, records), form: how };
    },
    // The rows themselves come and go while one looks: what is asked is the same.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [asked, records.match, records.query, selection.chosen, window.from, pager.size],
  );
  const plans = useAnswer(plan);
  const planned = plans.state === 'ready' ? plans.result : undefined;
  const sizes = useFileSize(files, table.name, planned);
  const { ask, match } = records;
  const counting = useCallback(
    async (signal: AbortSignal) => ask && countExactly(ask.rows, match, signal),
    [ask, match],
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
    ...(outline ? [{ value: 'groups' as const, text: said.groups }] : []),
    { value: 'all', text: said.all(counted(matching, outline ? 'exact' : totalKind)) },
    ...(chosen
      ? [
          {
            value: 'selected' as const,
            text: (selection.isElsewhere ? said.selectedElsewhere : said.selected)(
              counted(selection.count, selection.countKind),
            ),
          },
        ]
      : []),
    ...(reading === 'pages' && !outline
      ? [{ value: 'page' as const, text: said.page(count(Math.min(onPage, pager.size))) }]
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
        label={said.format}
        values={fileWords.format.map((value) => ({ value, text: said.formats[value] }))}
        chosen={format}
        change={setFormat}
      />
      <p className="eph-aside">{said.uses[format]}</p>
      <p className="eph-list-title">{said.rows}</p>
      <Choices label={said.rows} values={scopes} chosen={scope} change={setScope} />
      {outline && scope === 'all' && <p className="eph-aside">{said.notGrouped}</p>}
      {scope !== 'groups' && (
        <>
          <p className="eph-list-title">{said.columns}</p>
          <Choices
            label={said.columns}
            values={[
              { value: 'shown', text: said.shown(count(shown.length)) },
              { value: 'every', text: said.everyColumn(count(everyName.length)) },
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
          {said.save}
        </button>
        <span role="status" className="eph-aside">
          {size !== undefined
            ? said.about(sizeText(size, locale))
            : sizes.state === 'loading'
              ? said.measuring
              : ''}
        </span>
      </p>
      {failed?.error instanceof ServiceError && (
        <p role="alert" className="eph-trouble">
          {reader.messages.told(failed.error.message)}
        </p>
      )}
      {(hasHeader || coded) && (
        <details>
          <summary>{said.how}</summary>
          {hasHeader && (
            <>
              <p className="eph-list-title">{said.firstLine}</p>
              <Choices
                label={said.firstLine}
                values={[
                  { value: 'labels', text: said.labels },
                  { value: 'names', text: said.names },
                  { value: 'none', text: said.noLine },
                ]}
                chosen={header}
                change={setHeader}
              />
            </>
          )}
          {isCsv && (
            <>
              <p className="eph-list-title">{said.delimiter}</p>
              <Choices
                inLine
                label={said.delimiter}
                values={[
                  { value: 'comma', text: said.comma },
                  { value: 'semicolon', text: said.semicolon },
                  { value: 'tab', text: said.tab },
                ]}
                chosen={delimiter}
                change={setDelimiter}
              />
              <Tick checked={bom} change={setBom}>
                {said.bom}
              </Tick>
            </>
          )}
          {folds && (
            <Tick checked={folded} change={setFolded}>
              {said.folded}
            </Tick>
          )}
          {coded && (
            <Tick checked={named} change={setNamed}>
              {said.valueLabels}
            </Tick>
          )}
        </details>
      )}
      {files.report !== undefined && <Reports report={files.report} said={said} />}
      {address !== undefined && address.length < mostAddress && (
        <FromTerminal address={address} name={`${table.name}.${format}`} said={said} />
      )}
    </div>
  );
}

interface FromTerminalProps {
  readonly address: string;
  readonly name: string;
  readonly said: TakingMessages;
}

/** The same file by curl and by the command line. */
function FromTerminal({ address, name, said }: FromTerminalProps): ReactElement {
  const { table } = useModel();
  const [told, copy] = useCopied();
  return (
    <details>
      <summary>{said.terminal}</summary>
      {[curlOfFile(address, name), commandOfFile(address, table.name, name)].map((code) => (
        <div key={code}>
          <pre className="eph-code" dir="ltr">
            {code}
          </pre>
          <button
            type="button"
            className="eph-offer"
            onClick={() => copy(code, said.copied, said.notCopied)}
          >
            {said.copy}
          </button>
        </div>
      ))}
      <span role="status" className="eph-aside">
        {told}
      </span>
    </details>
  );
}
