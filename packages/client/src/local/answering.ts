import {
  answerAggregates,
  answerGroups,
  answerMileposts,
  answerRow,
  answerRows,
  answerValues,
  MemoryExecutor,
  type AggregatesAnswer,
  type GroupsAnswer,
  type MilepostsAnswer,
  type Row,
  type RowsAnswer,
  type ValuesAnswer,
} from '@ephoros/core/answer';
import { checkAggregates, checkGrouping, checkQuery, checkValuesOf } from '@ephoros/core/check';
import { unicodeOrder, type TextOrder } from '@ephoros/core/memory';
import type { Problem } from '@ephoros/core/problem';
import {
  groupsPart,
  matchPart,
  parseParameters,
  printParameters,
  rowsPart,
  windowPart,
  type Query,
  type WrittenQuery,
} from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import type { ValuesOptions } from '../query-client.ts';
import type { Change, ChangesAnswer } from '@ephoros/core/change';
import { ServiceError } from '../service-error.ts';
import type { LocalTable } from './table.ts';

type Checked<Part> = Part | { readonly problems: readonly Problem[] };

/** Answers questions about rows at hand, as the service would about a table that holds them. */
export class LocalAnswers {
  readonly description: TableDescription;
  private readonly textOrder: TextOrder;
  private rowsNow: readonly Row[];
  private executor: MemoryExecutor;

  constructor({ description, rows }: LocalTable, textOrder: TextOrder = unicodeOrder) {
    this.description = description;
    this.textOrder = textOrder;
    // They stand in the encoding of answers.
    this.rowsNow = rows as readonly Row[];
    this.executor = new MemoryExecutor(rows, { textOrder });
  }

  /** Makes changes, all or none. @throws ServiceError as a service's client does */
  async save(changes: readonly Change[], dryRun: boolean): Promise<ChangesAnswer> {
    const { description, textOrder } = this;
    // Most pages change nothing: what does that is loaded when it is first wanted.
    const { applyChanges } = await import('@ephoros/core/change');
    const applied = applyChanges(this.rowsNow, changes, description, textOrder);
    switch (applied.kind) {
      case 'saved':
        if (dryRun) return applied.answer;
        this.rowsNow = applied.rows;
        this.executor = new MemoryExecutor(applied.rows, { textOrder });
        return applied.answer;
      case 'conflict': {
        const { outcomes } = applied;
        throw new ServiceError('refused', 'Rows have changed meanwhile.', {
          status: 409,
          outcomes,
        });
      }
      case 'refused': {
        const { problems } = applied;
        const message = problems.map((one) => one.message).join(' ');
        throw new ServiceError('refused', message, { status: 422, problems });
      }
      default:
        throw new Error(`unknown end ${JSON.stringify(applied satisfies never)}`);
    }
  }

  /** What would refuse a question for rows; none where it can be answered. */
  problemsOf(query: WrittenQuery): readonly Problem[] {
    const read = reading(query);
    const checked = checkQuery(read.query, this.description);
    return [...read.problems, ...('problems' in checked ? checked.problems : [])];
  }

  /** @throws ServiceError where the question is refused, as all others do */
  async rows(query: WrittenQuery): Promise<RowsAnswer> {
    const { checked } = this.check(rowsPart(query), (read) => checkQuery(read, this.description));
    return answerRows(checked, this.executor);
  }

  /** One row by its key; undefined where there is none. */
  async row(key: readonly (string | number)[]): Promise<Row | undefined> {
    const { checked } = this.check({}, (read) => checkQuery(read, this.description));
    const texts = key.map(String);
    const answer = await answerRow(this.description, checked.columns, texts, this.executor);
    return answer?.row;
  }

  async groups(query: WrittenQuery): Promise<GroupsAnswer> {
    const { query: wanted, checked } = this.check(
      { ...groupsPart(query), ...windowPart(query) },
      (read) => checkGrouping(read, this.description),
    );
    return answerGroups(wanted, checked, this.executor);
  }

  async aggregates(query: WrittenQuery): Promise<AggregatesAnswer> {
    const { aggregate } = query;
    const wanted: WrittenQuery = { ...matchPart(query), ...(aggregate && { aggregate }) };
    const { checked } = this.check(wanted, (read) => checkAggregates(read, this.description));
    return answerAggregates(checked, this.executor);
  }

  async values(
    column: string,
    query: WrittenQuery,
    { containing, bins }: ValuesOptions = {},
  ): Promise<ValuesAnswer> {
    const {
      group: _group,
      aggregate: _aggregate,
      path: _path,
      columns: _columns,
      ...terms
    } = query;
    const about = { column, containing, bins };
    const { checked } = this.check(terms, (read) => checkValuesOf(read, about, this.description));
    return answerValues(column, checked, this.executor);
  }

  async mileposts(query: WrittenQuery, ticks: number): Promise<MilepostsAnswer> {
    const { limit: _limit, place: _place, ...terms } = rowsPart(query);
    const { checked } = this.check(terms, (read) => checkQuery(read, this.description));
    return answerMileposts(checked, ticks, this.executor);
  }

  private check<Part extends { readonly checked: unknown }>(
    query: WrittenQuery,
    check: (query: Query) => Checked<Part>,
  ): { readonly query: Query; readonly checked: Part['checked'] } {
    const read = reading(query);
    const checked = check(read.query);
    const problems = [...read.problems, ...('problems' in checked ? checked.problems : [])];
    if ('problems' in checked || problems.length > 0) {
      const message = problems.map((one) => one.message).join(' ');
      throw new ServiceError('refused', message, { status: 400, problems });
    }
    return { query: read.query, checked: checked.checked };
  }
}

function reading(query: WrittenQuery): ReturnType<typeof parseParameters> {
  return parseParameters(Object.fromEntries(printParameters(query)));
}
