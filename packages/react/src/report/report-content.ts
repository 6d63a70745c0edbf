import { catalogOf, type Value, type WrittenQuery } from '@ephoros/client';
import { and, pathOf } from '@ephoros/core/expression';
import { groupsPart, matchPart, type Query } from '@ephoros/core/query';
import {
  shownNames,
  toldApart,
  type FoundColumn,
  type TableDescription,
} from '@ephoros/core/schema';
import { changed, namesInView, queryOf, type Chart, type View } from '@ephoros/core/view';
import { fetchChart } from '../chart/chart-data.ts';
import { chartTitle, markNames, scaleOf } from '../chart/chart-words.ts';
import type { Drawing } from '../chart/draw-chart.ts';
import { isEndAligned } from '../format/layout.ts';
import { formatText, type FullReader } from '../format/value.ts';
import type { ChartMessages } from '../messages/chart-messages.ts';
import type { ReportMessages } from '../messages/report-messages.ts';
import { groupValue } from '../outline/group-value.ts';
import type { RequestClient } from '../records/request-client.ts';
import { requestsByRows } from '../records/row-requests.ts';
import { opened, shownView } from '../records/requested-view.ts';
import { openingRequest } from '../records/opening.ts';
import { sentenceText } from '../sentence/sentence.ts';

/** A table of texts, as it stands in a report. */
export interface ReportTable {
  readonly title: string;
  readonly heads: readonly ReportHead[];
  readonly lines: readonly ReportLine[];
}

export interface ReportHead {
  readonly text: string;
  /** How its values are set: at the end of their cells, or on one line; else as texts. */
  readonly set?: 'end' | 'whole' | undefined;
}

export interface ReportLine {
  readonly cells: readonly string[];
  /** Of a group: how many levels lie above it. */
  readonly depth?: number;
}

/** What a report says, in its order. */
export interface ReportContent {
  readonly language: string;
  readonly direction: 'ltr' | 'rtl';
  readonly title: string;
  readonly note?: string;
  /** The view as one sentence. */
  readonly sentence: string;
  readonly facts: readonly string[];
  readonly chart?: {
    readonly title: string;
    readonly drawing: Omit<Drawing, 'width' | 'height' | 'appearance' | 'font'>;
  };
  readonly groups?: ReportTable;
  readonly rows: ReportTable;
  /** Stated in place of rows where there is none. */
  readonly nothing: string;
}

/** What a report is made of. */
export interface ReportOptions {
  readonly client: RequestClient;
  readonly table: string;
  readonly view: View;
  /** What the view is called; the table's own title by default. */
  readonly title?: string | undefined;
  readonly note?: string | undefined;
  readonly reader: FullReader;
  readonly messages: { readonly report: ReportMessages; readonly chart: ChartMessages };
  /** When it is made. */
  readonly now: Date;
  /** Rows at most; 100 by default. */
  readonly rows?: number;
  readonly signal?: AbortSignal;
}

const usualRows = 100;
/** Lines of groups at most, of all levels together. */
const mostLines = 200;

/** Asks for what a report says of a view. Rejects as the client does. */
export async function fetchReport(options: ReportOptions): Promise<ReportContent> {
  const { client, table: name, reader, messages, now, note, signal } = options;
  const described = await catalogOf(client).describe(name);
  const opening = await openingRequest(described);
  const base = opened({}, opening);
  const view = shownView(options.view, base);
  const names = [
    ...new Set([
      ...(view.columns?.map((one) => one.name) ?? shownNames(described)),
      ...namesInView(view),
    ]),
  ];
  const found = await catalogOf(client).columns(names, described);
  const columns = new Map(
    found.flatMap((one) => (one === undefined ? [] : [[one.name, one] as const])),
  );
  const own = queryOf(view);
  // A condition that no reader can remove is joined to what they ask.
  const filter = and([opening.fixed, own.filter].filter((one) => one !== undefined));
  const query: Query = { ...own, ...(filter && { filter }) };
  const count = (rows: number): string => rows.toLocaleString(reader.locale);
  const about = { ...options, described, columns, query, view, count };
  const rows = await fetchRows(about);
  const [groups, chart] = await Promise.all([
    (view.group ?? []).length > 0 ? fetchGroups(about) : undefined,
    view.chart === undefined ? undefined : drawingOf(view.chart, about),
  ]);
  const spoken = sentenceText(view, described, {
    show: (value, of) => (of === undefined ? value : formatText(value, of, reader)),
    count,
    column: (one) => columns.get(one),
    fixed: opening.fixed,
    messages: reader.messages,
  });
  const time = now.toLocaleString(reader.locale, {
    timeZone: reader.timeZone,
    dateStyle: 'long',
    timeStyle: 'short',
  });
  signal?.throwIfAborted();
  return {
    language: reader.messages.language,
    direction: reader.messages.direction,
    title: options.title ?? described.title,
    ...(note === undefined || note === '' ? {} : { note }),
    sentence: spoken,
    facts: [
      messages.report.rows(count(rows.total)),
      messages.report.madeAt(`${time} ${reader.timeZone}`),
    ],
    ...(chart && { chart }),
    ...(groups && { groups }),
    rows: rows.table,
    nothing: messages.report.nothing,
  };
}

interface About extends ReportOptions {
  readonly described: TableDescription;
  readonly columns: ReadonlyMap<string, FoundColumn>;
  readonly query: Query;
  readonly count: (rows: number) => string;
}

async function fetchRows({
  client,
  table,
  view,
  described,
  columns,
  query: wanted,
  reader,
  messages,
  count,
  signal,
  rows: most = usualRows,
}: About): Promise<{ readonly table: ReportTable; readonly total: number }> {
  const named = view.columns?.map(({ name }) => name) ?? shownNames(described);
  const there = toldApart(named.flatMap((name) => columns.get(name) ?? []));
  const query: WrittenQuery = changed(
    {},
    {
      columns: there.map(({ name }) => ({ name, span: { start: 0, end: 0 } })),
      filter: wanted.filter,
      search: wanted.search,
      sort: wanted.sort?.filter((term) => term.expression === undefined),
      nulls: wanted.nulls,
      limit: most,
      total: 'exact',
    },
  );
  const answer = await client.rows(table, query, signal);
  const total = await totalOf(answer.window, client, table, wanted, signal);
  const lines = answer.rows.map((row) => ({
    cells: there.map((column) => textOf(row[column.name] ?? null, column, reader)),
  }));
  const isPart = total > lines.length;
  return {
    total,
    table: {
      title: isPart
        ? messages.report.firstRows(count(lines.length), count(total))
        : messages.report.allRows,
      heads: there.map((column) => ({ text: column.label, set: setOf(column) })),
      lines,
    },
  };
}

function setOf(column: FoundColumn): ReportHead['set'] {
  if (isEndAligned(column)) return 'end';
  return ['timestamp', 'date', 'time'].includes(column.type.kind) ? 'whole' : undefined;
}

/** How many rows match, counted to the last, however long that takes. */
async function totalOf(
  { total, totalKind }: { readonly total: number | null; readonly totalKind: string },
  { aggregates }: RequestClient,
  table: string,
  query: Query,
  signal: AbortSignal | undefined,
): Promise<number> {
  if ((total !== null && totalKind === 'exact') || aggregates === undefined) return total ?? 0;
  const { values } = await aggregates(table, matchPart(query), signal);
  return Number(Object.values(values)[0] ?? 0);
}

/** Values that are nothing to read stay empty. */
function textOf(value: Value, column: FoundColumn, reader: FullReader): string {
  return value === null ? '' : formatText(value, column, reader);
}

async function fetchGroups({
  client,
  table,
  query: wanted,
  reader,
  messages,
  count,
  signal,
}: About): Promise<ReportTable> {
  const query = groupsPart(wanted);
  const lines: ReportLine[] = [];
  let heads: readonly ReportHead[] = [];
  const cut = { short: false };
  const below = async (above: readonly Value[]): Promise<void> => {
    const depth = above.length;
    const path = pathOf(above);
    const left = mostLines - lines.length;
    const answer = await client.groups(table, { ...query, path, limit: Math.max(1, left) }, signal);
    const level = answer.levels[depth];
    const isLast = depth === answer.levels.length - 1;
    if (depth === 0) {
      heads = [
        { text: answer.levels.map(({ label }) => label).join(' › ') },
        { text: messages.report.count, set: 'end' },
        ...answer.aggregates.map((one) => ({ text: one.label, set: 'end' as const })),
      ];
    }
    if (answer.next !== null) cut.short = true;
    for (const line of answer.groups) {
      if (lines.length >= mostLines || level === undefined) {
        cut.short = true;
        return;
      }
      const term = query.group?.[depth];
      const text = groupValue(line.value, level, term?.expression, reader).text;
      const values = answer.aggregates.map((column) => {
        const value = line.aggregates[column.name] ?? null;
        return value === null ? '' : formatText(value, column, reader);
      });
      lines.push({ depth, cells: [text, count(line.count), ...values] });
      if (!isLast) await below([...above, line.value]);
    }
  };
  await below([]);
  const title = cut.short
    ? messages.report.firstGroups(count(lines.length))
    : messages.report.groups;
  return { title, heads, lines };
}

async function drawingOf(
  chart: Chart,
  { client, table, query, columns, reader, messages, signal }: About,
): Promise<NonNullable<ReportContent['chart']>> {
  const request = requestsByRows(client, table, 0);
  const data = await fetchChart(
    chart,
    request,
    matchPart(query),
    signal ?? new AbortController().signal,
  );
  const labelOf = (name: string): string => columns.get(name)?.label ?? name;
  const { title, of } = chartTitle(chart, labelOf, reader.messages.sentence, messages.chart);
  return {
    title,
    drawing: {
      chart,
      marks: data.marks,
      names: markNames(data, chart, reader, messages.chart),
      mirrored: reader.messages.direction === 'rtl',
      write: scaleOf(reader),
      labelOf: chart.kind === 'histogram' ? messages.chart.rows : of,
    },
  };
}
