import type { SelectionAnswer } from '@ephoros/core/answer';
import { checkKeys, checkQuery, type ResolvedSelection } from '@ephoros/core/check';
import { call, storedSelectionMember, printExpression, text } from '@ephoros/core/expression';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import type { Query } from '@ephoros/core/query';
import type { TableDescription } from '@ephoros/core/schema';
import { Refused } from '../query/index.ts';
import type { KeyChange, Selections } from '../records/index.ts';
import { TableAnswers } from './answers.ts';
import type { Engine } from './engine.ts';
import { ownerOf } from './resolve-selections.ts';
import type { RequestContext } from './request-context.ts';

/** Which rows to keep: by their keys, or as a question whose answer they are. */
export type WantedSelection = { readonly table: string } & (
  | { readonly keys: readonly string[] }
  | { readonly query: Pick<Query, 'filter' | 'search'>; readonly except: readonly string[] }
);

/** Keys of one selection at most. */
const mostKeys = 1_000_000;
/** Errors of keys that are reported at once. */
const mostListed = 20;

/** Answers about stored selections to one request. All of them throw Refused, RecordsError, Failure. */
export class StoredSelectionAnswers {
  private readonly engine: Engine;
  private readonly context: RequestContext;
  private readonly selections: Selections;
  private readonly owner: string;

  constructor(engine: Engine, context: RequestContext) {
    const { selections } = engine;
    if (selections === undefined) throw new Refused([problem('no-records', {})]);
    // Without a name all callers would share what they select.
    if (context.access !== undefined && context.access.caller === undefined) {
      throw new Refused([problem('no-caller', {})]);
    }
    this.engine = engine;
    this.context = context;
    this.selections = selections;
    this.owner = ownerOf(context);
  }

  async make(wanted: WantedSelection): Promise<SelectionAnswer> {
    const { description } = new TableAnswers(wanted.table, this.engine, this.context);
    const selection = this.checked(wanted, description);
    const id = await this.selections.make(this.owner, selection);
    return this.answerOf(id, selection);
  }

  async read(id: string): Promise<SelectionAnswer> {
    return this.answerOf(id, await this.found(id));
  }

  async change(id: string, change: KeyChange): Promise<SelectionAnswer> {
    const selection = await this.found(id);
    const { description } = new TableAnswers(selection.table, this.engine, this.context);
    const keys = selection.kind === 'keys' ? selection.keys : selection.except;
    refuseKeys('add', change.add, description);
    refuseKeys('remove', change.remove, description);
    refuseMany('add', keys.length + change.add.length);
    await this.selections.change(id, this.owner, change);
    return this.answerOf(id, await this.found(id));
  }

  async drop(id: string): Promise<void> {
    if (!(await this.selections.drop(id, this.owner))) throw unknown();
  }

  private async found(id: string): Promise<ResolvedSelection> {
    const selection = await this.selections.find(id, this.owner);
    if (selection === undefined) throw unknown();
    return selection;
  }

  private checked(wanted: WantedSelection, table: TableDescription): ResolvedSelection {
    const { name } = table;
    if ('keys' in wanted) {
      refuseMany('keys', wanted.keys.length);
      refuseKeys('keys', wanted.keys, table);
      return { kind: 'keys', table: name, keys: [...new Set(wanted.keys)] };
    }
    const { query, except } = wanted;
    const { describe, unicode } = this.context.catalog;
    // Stored selections within stored selections would be dropped one before the other.
    const read = checkQuery(query, table, {
      tables: describe,
      unicode,
      storedSelections: () => 'nested',
    });
    if ('problems' in read) throw new Refused(read.problems);
    refuseMany('except', except.length);
    refuseKeys('except', except, table);
    return { kind: 'matching', table: name, ...query, except: [...new Set(except)] };
  }

  /** What it means now, counted as any question's answer is. */
  private async answerOf(id: string, selection: ResolvedSelection): Promise<SelectionAnswer> {
    const { table, kind } = selection;
    const answers = new TableAnswers(table, this.engine, this.context);
    const filter = printExpression(call('selected', text(storedSelectionMember(id))));
    const [column = ''] = answers.description.key;
    const values = { filter, limit: '1', total: 'exact', columns: column };
    const { window } = await answers.rows({ values, problems: [] });
    const keys = (kind === 'keys' ? selection.keys : selection.except).length;
    const exact = window.totalKind === 'exact' ? window.total : null;
    return {
      id,
      table,
      kind,
      count: window.total,
      countKind: window.totalKind,
      keys,
      ...(kind === 'keys' && exact !== null ? { missing: keys - exact } : {}),
    };
  }
}

function unknown(): Refused {
  return new Refused(inParameter('id', [problem('unknown-selection', {})]));
}

function refuseMany(member: string, count: number): void {
  if (count <= mostKeys) return;
  throw new Refused(inParameter(member, [problem('too-many-members', { most: mostKeys })]));
}

function refuseKeys(member: string, keys: readonly string[], table: TableDescription): void {
  const wrong = checkKeys(keys, table, mostListed);
  if (wrong.length === 0) return;
  throw new Refused(
    wrong.flatMap(({ index, problem: one }): readonly Problem[] =>
      inParameter(`${member}[${index}]`, [one]),
    ),
  );
}
