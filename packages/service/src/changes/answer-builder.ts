import { JsonText, printAnswer } from '@ephoros/core/answer';
import type { CheckedChange } from '@ephoros/core/change';
import type { Problem } from '@ephoros/core/problem';
import type pg from 'pg';
import type { Catalog, Published } from '../catalog/index.ts';
import type { LoggedChange } from '../records/index.ts';
import { logLine, RowTexts } from './log-lines.ts';
import type { LeftOut, Result, SetRun } from './run-set.ts';
import { titleIfWhole, violationOf } from './violations.ts';
import type { Transaction } from './writer.ts';

/** What is answered to a set of changes, and how many rows that shows. */
export type SavedAnswer = { readonly rows: number } & (
  | { readonly status: 200; readonly json: string }
  /** Rows are not as they were read. */
  | { readonly status: 409; readonly outcomes: string; readonly errors: readonly Problem[] }
  /** Something of it is refused. */
  | { readonly status: 422; readonly outcomes: string; readonly errors: readonly Problem[] }
);

/** What an answer needs next to what was done. */
interface AnswerContext {
  readonly catalog: Catalog;
  /** Changes that were sent. */
  readonly count: number;
  /** Those that could not even be tried, and why. */
  readonly refused: LeftOut;
}

/** Puts what has become of a set into the words of an answer, and of the history. */
export class AnswerBuilder {
  private readonly checked: readonly CheckedChange[];
  private readonly count: number;
  private readonly refused: LeftOut;
  private readonly run: SetRun;
  private readonly catalog: Catalog;
  private readonly texts = new Map<string, RowTexts>();
  /** Rows in the outcomes. */
  private shown = 0;

  constructor(
    checked: readonly CheckedChange[],
    run: SetRun,
    { catalog, count, refused }: AnswerContext,
  ) {
    // As they were sent, whatever order they were made in.
    this.checked = [...checked].sort((one, other) => one.at - other.at);
    this.run = run;
    this.count = count;
    this.refused = refused;
    this.catalog = catalog;
  }

  /** Whether all of it was done. */
  get isWhole(): boolean {
    if (this.run.broken.size > 0) return false;
    return this.checked.every(({ at }) => {
      const result = this.run.results.get(at);
      if (result?.kind === 'rows') return result.rows.every(({ kind }) => kind === 'done');
      return result?.kind === 'done';
    });
  }

  /** The answer to a set that was saved, under this id; or that was tried. */
  saved(id: string | null): SavedAnswer {
    const outcomes = this.outcomes(true);
    const json = printAnswer({ id, outcomes: new JsonText(outcomes) });
    return { status: 200, json, rows: this.shown };
  }

  /** The answer to a set of which nothing was saved. */
  refusal(late: readonly Problem[] = []): SavedAnswer {
    const refused = this.checked.flatMap(({ at }) => {
      const result = this.run.results.get(at);
      const problems =
        result?.kind === 'refused' ? result.problems : (this.run.broken.get(at) ?? []);
      return distinct(problems);
    });
    const errors = [...refused, ...late];
    const outcomes = this.outcomes(false);
    return { status: errors.length > 0 ? 422 : 409, outcomes, errors, rows: this.shown };
  }

  /** The same where the database refuses all of it together, as it does at the end. */
  async lateRefusal(thrown: pg.DatabaseError, inside: Transaction): Promise<SavedAnswer> {
    const { schema, table } = thrown;
    const published = [...this.catalog.tables.values()].find(
      ({ relation }) => relation.schema === schema && relation.name === table,
    );
    const change = this.placeOf(thrown);
    const kind = change === undefined || change.kind === 'set' ? 'change' : change.kind;
    const titleOf = (): string | undefined => titleIfWhole(this.catalog, published);
    const of = published ?? this.published(this.checked[0]);
    const { locate } = this.catalog;
    const found = await violationOf(thrown, { published: of, kind, titleOf, locate }, inside);
    const place = change === undefined ? {} : { change: change.at };
    const column = found.column === undefined ? {} : { column: found.column };
    return this.refusal([{ ...found.problem, ...place, ...column }]);
  }

  /** The entries of the history, in the order in which the rows were changed. */
  log(withValues: boolean): readonly LoggedChange[] {
    const texts = new Map<Published, RowTexts>();
    return this.run.made.map((made) => {
      const own = texts.get(made.published) ?? new RowTexts(made.published);
      texts.set(made.published, own);
      return logLine(made, own, withValues);
    });
  }

  private outcomes(saved: boolean): string {
    this.shown = 0;
    const members = new Map(this.checked.map((change) => [change.at, this.outcome(change, saved)]));
    const all = Array.from(
      { length: this.count },
      (_change, at) => members.get(at) ?? refusedOutcome(this.refused.get(at) ?? []),
    );
    return `[${all.join(',')}]`;
  }

  private outcome(change: CheckedChange, saved: boolean): string {
    const broken = this.run.broken.get(change.at);
    const result: Result | undefined =
      broken === undefined
        ? this.run.results.get(change.at)
        : { kind: 'refused', problems: broken };
    const texts = this.textsOf(change);
    switch (result?.kind) {
      case undefined:
      case 'skipped':
        return '{"kind":"held"}';
      case 'done': {
        if (!saved) return '{"kind":"held"}';
        const row = this.rowOf(texts, result.after);
        const follows =
          result.follows === undefined ? '' : `,"follows":${JSON.stringify(result.follows)}`;
        return `{"kind":"done","key":${JSON.stringify(texts.key(result.key))},"row":${row}${follows}}`;
      }
      case 'rows': {
        const other = result.rows.filter(({ kind }) => kind !== 'done').length;
        if (saved && other === 0) return `{"kind":"done","count":${result.rows.length}}`;
        return other === 0
          ? '{"kind":"held"}'
          : `{"kind":"conflict","count":${result.rows.length - other}}`;
      }
      case 'other-count':
        return `{"kind":"conflict","count":${result.count}}`;
      case 'conflict': {
        const now = this.rowOf(texts, result.now);
        const columns = JSON.stringify(result.differing);
        return `{"kind":"conflict","columns":${columns},"now":${now}}`;
      }
      case 'refused':
        return refusedOutcome(result.problems);
      default:
        throw new Error(`no outcome of ${JSON.stringify(result satisfies never)}`);
    }
  }

  private rowOf(texts: RowTexts, row: Parameters<RowTexts['json']>[0] | undefined): string {
    if (row === undefined) return 'null';
    this.shown += 1;
    return texts.json(row);
  }

  private published(change: CheckedChange | undefined): Published {
    const found = change && this.catalog.tables.get(change.table.name);
    if (found === undefined) throw new Error('a change is about a published table');
    return found;
  }

  private textsOf(change: CheckedChange): RowTexts {
    const { name } = change.table;
    const made = this.texts.get(name) ?? new RowTexts(this.published(change));
    this.texts.set(name, made);
    return made;
  }

  /**
   * The change that the database means: the only one, or the one with the values that it names. They
   * are compared and go nowhere else.
   */
  private placeOf({ detail = '' }: pg.DatabaseError): CheckedChange | undefined {
    if (this.checked.length === 1) return this.checked[0];
    const [, names = '', values = ''] = /\(([^()]+)\)=\((.*?)\)/.exec(detail) ?? [];
    const parts = values.split(', ');
    return this.checked.find((change) =>
      names
        .split(', ')
        .every(
          (name, index) => change.kind !== 'remove' && change.values.get(name) === parts[index],
        ),
    );
  }
}

function refusedOutcome(problems: readonly Problem[]): string {
  return `{"kind":"refused","errors":${JSON.stringify(distinct(problems))}}`;
}

/** A change of many rows is refused once for the same reason, however many of them it holds for. */
function distinct(problems: readonly Problem[]): readonly Problem[] {
  return [...new Map(problems.map((one) => [JSON.stringify(one), one])).values()];
}
