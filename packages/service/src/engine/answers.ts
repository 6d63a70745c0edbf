import {
  answerAggregates,
  answerGroups,
  answerMileposts,
  answerRow,
  answerRows,
  answerValues,
  type AdviceAnswer,
  type AggregatesAnswer,
  type GroupsAnswer,
  type MilepostsAnswer,
  type RowAnswer,
  type RowsAnswer,
  type ValuesAnswer,
  type WrittenAnswer,
} from '@ephoros/core/answer';
import {
  checkAggregates,
  checkGrouping,
  checkGroupLines,
  checkValuesOf,
  type ResolvedSelections,
} from '@ephoros/core/check';
import { inParameter, problem } from '@ephoros/core/problem';
import { isWalked } from '@ephoros/core/sql';
import { unknownParameter, type Query } from '@ephoros/core/query';
import { parseKey, type TableDescription } from '@ephoros/core/schema';
import {
  findTable,
  readCount,
  readQuery,
  readWith,
  Refused,
  type Parameters,
} from '../query/index.ts';
import type { FileForm } from '../export/index.ts';
import type { Watcher } from '../live/index.ts';
import { writtenTo } from '../positions/index.ts';
import { adviseOn } from './advice.ts';
import { nextToItsRow } from './anchor-row.ts';
import type { Engine } from './engine.ts';
import { explain, type Explanation } from './explanation.ts';
import {
  groupTable,
  planExport,
  planGroupExport,
  type GroupTable,
  type PlannedExport,
} from './exporting.ts';
import { cacheTime } from './resolve-selections.ts';
import type { RequestContext } from './request-context.ts';
import { SqlExecutor } from './sql-executor.ts';

/** A query of the values of a column, as it was written. */
interface ValuesRequest {
  readonly containing?: string | undefined;
  readonly bins?: string | undefined;
  readonly counts?: string | undefined;
}

/** An answer, with how it came about where that was requested. */
export type Explained<Answer> = Answer & { readonly explanation?: Explanation };

/** Ticks of mileposts where a request names no number, and at most. */
const defaultTicks = 200;
const mostTicks = 2_000;
/** The largest number that limits a file: any that fits into its parameter. */
const mostExportLimit = 999_999_999;
/** How levels can be given where they cannot be folded. */
const foldable = 'columns, or folded with format=xlsx and a group,';
/** Bins of a histogram at most. */
const mostBins = 200;

/**
 * Answers about one table to one request: parameters → parse → check, and from there `core/answer`
 * with the database as its executor. All of them throw Refused and Failure.
 */
export class TableAnswers {
  readonly description: TableDescription;
  private readonly engine: Engine;
  private readonly context: RequestContext;
  private readonly executor: SqlExecutor;

  /** @throws Refused where the caller sees no such table */
  constructor(table: string, engine: Engine, context: RequestContext) {
    this.description = findTable(context.catalog, table).description;
    context.tally.about(table);
    this.engine = engine;
    this.context = context;
    this.executor = new SqlExecutor(engine, context);
  }

  async rows(parameters: Parameters): Promise<Explained<RowsAnswer>> {
    const { query, checked } = readQuery(
      parameters,
      this.description,
      await this.reading(parameters),
    );
    return this.explained(await answerRows(checked, this.executor), query, parameters);
  }

  /** One row by its key, as it stands in the URL (parts percent-encoded, joined by commas). */
  async row(rawKey: string, parameters: Parameters): Promise<RowAnswer> {
    const { key, name: table } = this.description;
    if (key.length === 0) throw new Refused([problem('no-key', { table })]);
    const parts = parseKey(rawKey);
    if (parts?.length !== key.length) {
      const facts = { expected: key.join(', '), found: parts?.length ?? 0 };
      throw new Refused(inParameter('key', [problem('malformed-key', facts)]));
    }
    const reading = await this.reading(parameters);
    const { columns } = readQuery(parameters, this.description, reading).checked;
    const answer = await answerRow(this.description, columns, parts, this.executor);
    if (answer === undefined) {
      throw new Refused(inParameter('key', [problem('unknown-row', { table })]));
    }
    return answer;
  }

  /** The lines of one level. */
  async groups(parameters: Parameters): Promise<Explained<GroupsAnswer>> {
    const { query, checked } = readWith(
      parameters,
      await this.reading(parameters),
      (read, options) => checkGrouping(read, this.description, options),
    );
    return this.explained(await answerGroups(query, checked, this.executor), query, parameters);
  }

  /** All rows of a query as a file, or so many; all groups of one that is grouped. @throws Refused, Failure */
  async export(
    parameters: Parameters,
    limit: string | undefined,
    form: FileForm,
  ): Promise<PlannedExport> {
    const { count, problems: ofLimit } = readCount('limit', limit, { most: mostExportLimit });
    const { group, aggregate } = parameters.values;
    // Only a workbook folds lines, and only groups have levels.
    const isFolded = form.levels === 'folded';
    const unfoldable = isFolded && (form.format !== 'xlsx' || group === undefined);
    const problems = [
      ...ofLimit,
      ...(unfoldable ? inParameter('levels', [problem('not-one-of', { allowed: foldable })]) : []),
    ];
    if (group !== undefined || aggregate !== undefined) {
      const wanted = withProblems(parameters, [...problems, ...notOfGroups(parameters)]);
      const reading = await this.reading(wanted);
      const { checked } = readWith(wanted, reading, (read, options) =>
        checkGroupLines(read, this.description, options),
      );
      const lines = { ...checked, folded: isFolded };
      return planGroupExport(lines, count, form, this.engine, this.context);
    }
    const request = withProblems(parameters, problems);
    const { checked } = readQuery(request, this.description, await this.reading(request));
    const placed = await nextToItsRow(checked, this.engine, this.context);
    return planExport(placed, count, form, this.engine, this.context);
  }

  /** So many groups of a query at most, from its place on: their values of every level, and what is made of them. */
  async groupTable(parameters: Parameters, limit: number): Promise<GroupTable> {
    const { checked } = readWith(parameters, await this.reading(parameters), (read, options) =>
      checkGroupLines(read, this.description, options, true),
    );
    return groupTable(checked, limit, this.engine, this.context);
  }

  /** The aggregates of the whole result; the number of rows where none is named. */
  async aggregates(parameters: Parameters): Promise<Explained<AggregatesAnswer>> {
    const { query, checked } = readWith(
      parameters,
      await this.reading(parameters),
      (read, options) => checkAggregates(read, this.description, options),
    );
    return this.explained(await answerAggregates(checked, this.executor), query, parameters);
  }

  /** The values of a column, those with a text in them where one is given, and their histogram. */
  async values(
    column: string,
    parameters: Parameters,
    { containing, bins: asBins, counts }: ValuesRequest = {},
  ): Promise<ValuesAnswer> {
    const { count: bins, problems } = readCount('bins', asBins, { most: mostBins });
    const { checked } = readWith(
      withProblems(parameters, problems),
      await this.reading(parameters),
      (read, options) =>
        checkValuesOf(read, { column, containing, bins }, this.description, options),
    );
    const { grouping } = checked;
    const uncounted = counts === 'false' && bins === undefined && isWalked(grouping);
    const query = uncounted ? { ...checked, grouping: { ...grouping, uncounted } } : checked;
    return answerValues(column, query, this.executor);
  }

  /**
   * The leading sort values at even positions of a result, as far as its mileposts are set; has
   * them set where they are not.
   */
  async mileposts(parameters: Parameters, ticks: string | undefined): Promise<MilepostsAnswer> {
    const { count = defaultTicks, problems } = readCount('ticks', ticks, { most: mostTicks });
    const read = withProblems(parameters, problems);
    const { checked } = readQuery(read, this.description, await this.reading(read));
    const { name: table, key } = this.description;
    if (key.length === 0) throw new Refused([problem('no-key', { table })]);
    return answerMileposts(checked, count, this.executor);
  }

  /** A mark of what the question reads, to be compared with a later one. */
  async written(parameters: Parameters): Promise<WrittenAnswer> {
    const reading = await this.reading(parameters);
    const { checked } = readQuery(parameters, this.description, reading);
    const { positions } = this.engine;
    const { catalog } = this.context;
    // The counters count what is hidden as well: a caller with rules gets no mark.
    const mark = catalog.restricted
      ? undefined
      : await positions.mark(writtenTo(checked, catalog.locate));
    return { table: this.description.name, mark: mark ?? null };
  }

  /** Shows what others write of the question's rows, until what is given is called. */
  async watch(parameters: Parameters, watcher: Watcher): Promise<() => void> {
    const reading = await this.reading(parameters);
    const { checked } = readQuery(parameters, this.description, reading);
    return this.engine.live.watch(checked, this.context.catalog, watcher);
  }

  /** Which indexes the question would want. */
  async advice(parameters: Parameters): Promise<AdviceAnswer> {
    const reading = await this.reading(parameters);
    const { checked } = readQuery(parameters, this.description, reading);
    return adviseOn(checked, this.engine, this.context);
  }

  /** What reading needs, with the stored selections that the parameters name. */
  private async reading(
    parameters: Parameters,
  ): Promise<RequestContext & { readonly storedSelections: ResolvedSelections | undefined }> {
    return {
      ...this.context,
      storedSelections: await cacheTime(parameters, this.engine, this.context),
    };
  }

  private async explained<Answer>(
    answer: Answer,
    query: Query,
    parameters: Parameters,
  ): Promise<Explained<Answer>> {
    const { ran } = this.executor;
    const { name } = this.description;
    const explanation =
      parameters.explain === true && ran !== undefined
        ? await explain(query, name, ran, this.engine, this.context)
        : undefined;
    return { ...answer, ...(explanation === undefined ? {} : { explanation }) };
  }
}

/** What says which groups a file has. */
const ofGroups = 'group,aggregate,filter,filter-lang,search,sort,nulls,offset,limit'.split(',');

/** Of rows: groups have neither columns nor cursors. */
function notOfGroups({ values: { columns, after } }: Parameters): Parameters['problems'] {
  return [
    ...(columns === undefined ? [] : [unknownParameter('columns', ofGroups)]),
    ...(after === undefined ? [] : [unknownParameter('after', ofGroups)]),
  ];
}

function withProblems(parameters: Parameters, problems: Parameters['problems']): Parameters {
  return { ...parameters, problems: [...parameters.problems, ...problems] };
}
