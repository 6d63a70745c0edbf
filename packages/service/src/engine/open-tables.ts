import { printAnswer, type RowsAnswer } from '@ephoros/core/answer';
import type { CheckedQuery } from '@ephoros/core/check';
import { answerRows } from '@ephoros/core/answer';
import type { TableDescription } from '@ephoros/core/schema';
import { compileRows, type Statement } from '@ephoros/core/sql';
import type { Access } from '../access/index.ts';
import { findTable, readParameters, readQuery, rowsParameters, Tally } from '../query/index.ts';
import { WaitBudget, type Answer } from '../run/index.ts';
import { Engine, type EngineOptions } from './engine.ts';
import type { RequestContext } from './request-context.ts';
import { SqlExecutor } from './sql-executor.ts';

/** A database whose tables are published, without HTTP. */
export interface Tables {
  /**
   * A table as a caller may see it; whole where nobody is named. @throws Refused where there is
   * none for the caller; AccessError; ConfigurationError; Failure
   */
  table(name: string, access?: Access): Promise<OpenTable>;
  /** Closes all connections but those of a pool that was given. */
  close(): Promise<void>;
}

/** A published table, step by step: read, compile, run. */
export interface OpenTable {
  readonly description: TableDescription;
  /**
   * parameters → parse → check: of a request's URL, or the parameters alone. @throws Refused with
   * every error and its place
   */
  read(parameters: string | URLSearchParams): CheckedQuery;
  /** A query's window in SQL, and one row more; its columns come first, in their order. */
  compile(query: CheckedQuery): Statement;
  /** Any statement for reading. @throws Failure */
  run(statement: Statement, signal?: AbortSignal): Promise<Answer>;
  /** The window of a query, as the service answers it. @throws Failure */
  rows(query: CheckedQuery, signal?: AbortSignal): Promise<RowsAnswer>;
}

/**
 * Opens a database for programs that answer requests of their own: read a request's parameters,
 * compile them, run them. @throws ConfigurationError
 */
export function openTables(options: EngineOptions): Tables {
  return tablesOver(new Engine(options));
}

/** The tables of an engine, which is closed with them. */
export function tablesOver(engine: Engine): Tables {
  return {
    table: (name, access) =>
      engine.answer({ access }, ({ catalog }) => openTable(name, catalog, engine)),
    close: () => engine.close(),
  };
}

/** How an answer came about is reported by routes alone. */
const queryParameters = rowsParameters.omit({ explain: true });

function openTable(name: string, catalog: RequestContext['catalog'], engine: Engine): OpenTable {
  const { description } = findTable(catalog, name);
  const contextOf = (signal: AbortSignal | undefined): RequestContext => ({
    catalog,
    signal: signal ?? new AbortController().signal,
    tally: new Tally(),
    budget: new WaitBudget(engine.longestWait, 'fail'),
  });
  /** Anyone who opens the table again finds it as it is by then. */
  const renewing = async <Result>(work: () => Promise<Result>): Promise<Result> => {
    try {
      return await work();
    } catch (thrown) {
      await engine.staleAfter(thrown);
      throw thrown;
    }
  };
  return {
    description,
    read: (parameters) => {
      const text = String(parameters);
      const url = /^(?:[/?]|https?:)/.test(text) ? text : `?${text}`;
      const read = readParameters(url, queryParameters);
      return readQuery(read, description, contextOf(undefined)).checked;
    },
    compile: (query) => compileRows(query, catalog.locate),
    run: (statement, signal) =>
      renewing(() => engine.database.run(statement, { signal, table: name })),
    rows: (query, signal) =>
      renewing(async () => {
        const executor = new SqlExecutor(engine, contextOf(signal));
        return JSON.parse(printAnswer(await answerRows(query, executor))) as RowsAnswer;
      }),
  };
}
