import { checkGrouping, checkQuery, type CheckOptions } from '@ephoros/core/check';
import { printExpression } from '@ephoros/core/expression';
import { groupsPart, rowsPart } from '@ephoros/core/query';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import {
  fitView,
  queryOf,
  readSavedText,
  readSavedView,
  saveView,
  type View,
  type ViewAnswer,
  type ViewsAnswer,
  type WantedView,
  type WantedViewChange,
} from '@ephoros/core/view';
import type { Published } from '../catalog/index.ts';
import { findTable, printListPlace, readListPlace, Refused } from '../query/index.ts';
import { mostViews, type ViewRecord, type Unkept, type Views } from '../records/index.ts';
import type { Engine } from './engine.ts';
import { cacheTime, ownerOf } from './resolve-selections.ts';
import type { RequestContext } from './request-context.ts';

/** Views of one answer. */
export const mostListed = 100;

/** Which saved views are requested. */
export interface SavedViewsRequest {
  readonly table?: string | undefined;
  readonly search?: string | undefined;
  readonly first?: boolean;
  readonly limit?: number | undefined;
  /** What `next` of an answer stated. */
  readonly after?: string | undefined;
}

/** Answers about saved views to one request. All of them throw Refused, RecordsError, Failure. */
export class SavedViewAnswers {
  private readonly engine: Engine;
  private readonly context: RequestContext;
  private readonly views: Views;
  /** Undefined where rules of access tell no name. */
  private readonly caller: string | undefined;

  constructor(engine: Engine, context: RequestContext) {
    const { views } = engine;
    if (views === undefined) throw new Refused([problem('no-records', {})]);
    this.engine = engine;
    this.context = context;
    this.views = views;
    const nameless = context.access !== undefined && context.access.caller === undefined;
    this.caller = nameless ? undefined : ownerOf(context);
  }

  async make(wanted: WantedView): Promise<ViewAnswer> {
    const { note = '', shared = false, first = false } = wanted;
    const view = await this.checked(wanted.view, findTable(this.context.catalog, wanted.table));
    const made = await this.views.make(this.owner(), { ...wanted, view, note, shared, first });
    return this.isReported(viewAnswer(made, wanted.table));
  }

  async read(id: string): Promise<ViewAnswer> {
    return this.isReported(await this.found(id));
  }

  async list({ table, search, first, limit, after }: SavedViewsRequest): Promise<ViewsAnswer> {
    const { catalog } = this.context;
    const tables = table === undefined ? [...catalog.tables.keys()] : [findTable(catalog, table)];
    const most = Math.min(limit ?? mostListed, mostListed);
    const read = await this.views.list(this.caller, {
      tables: tables.map((one) => (typeof one === 'string' ? one : one.description.name)),
      search,
      first: first === true,
      limit: most + 1,
      after: after === undefined ? undefined : readPlace(after),
    });
    const last = read.length > most ? read[most - 1] : undefined;
    return {
      views: await Promise.all(read.slice(0, most).map((one) => this.isReported(one))),
      next: last === undefined ? null : printPlace(last),
    };
  }

  /** `version` is that which it must still have; undefined for any. */
  async change(
    id: string,
    wanted: WantedViewChange,
    version: number | undefined,
  ): Promise<ViewAnswer> {
    const { owner, before } = await this.ownOf(id);
    const published = findTable(this.context.catalog, before.table);
    const view = wanted.view && (await this.checked(wanted.view, published));
    const changed = await this.views.change(
      id,
      owner,
      { ...wanted, ...(view && { view }) },
      version,
    );
    if (changed === undefined) throw await this.outdated(id);
    return this.isReported(viewAnswer(changed, before.table));
  }

  async drop(id: string, version: number | undefined): Promise<void> {
    const { owner } = await this.ownOf(id);
    if (!(await this.views.drop(id, owner, version))) throw await this.outdated(id);
  }

  /** @throws Refused where the caller has no name to keep views under */
  private owner(): string {
    if (this.caller === undefined) throw new Refused([problem('no-caller', {})]);
    return this.caller;
  }

  private async ownOf(id: string): Promise<{ owner: string; before: ViewRecord }> {
    const before = await this.found(id);
    if (before.caller !== this.caller) throw new Refused([problem('not-your-view', {})]);
    return { owner: before.caller, before };
  }

  /** Views of tables that the caller does not see are none. */
  private async found(id: string): Promise<ViewRecord> {
    const view = await this.views.find(id, this.caller);
    if (view === undefined || !this.context.catalog.tables.has(view.table)) throw unknown();
    return view;
  }

  /** What became of a view that no longer has the version that was named. */
  private async outdated(id: string): Promise<Refused> {
    const now = await this.views.find(id, this.caller);
    if (now === undefined) return unknown();
    return new Refused([problem('view-changed', { version: now.version })]);
  }

  /** A view that can be stored: every part of it holds, and all of them together. @throws Refused */
  private async checked(
    saved: WantedView['view'],
    { description }: Published,
  ): Promise<WantedView['view']> {
    const { view, problems: unread } = readSavedView(saved);
    const options = await this.checkedWith(view);
    const parts = [...unread, ...fitView(view, description, options).problems];
    // The same column twice, or too much at once, no part has by itself.
    const query = queryOf(view);
    const grouped = query.group !== undefined && query.group.length > 0;
    const whole = [
      checkQuery(rowsPart(query), description, options),
      ...(grouped ? [checkGrouping(groupsPart(query), description, options)] : []),
    ].flatMap((one) => ('problems' in one ? one.problems : []));
    const problems = parts.length > 0 ? parts : whole;
    if (problems.length > 0) {
      throw new Refused(
        problems.map((one) => ({ ...one, parameter: `view.${one.parameter ?? ''}` })),
      );
    }
    return saveView(view);
  }

  /** What a view is checked with: the tables that the caller sees, the selections that it names. */
  private async checkedWith({ filter }: View): Promise<CheckOptions> {
    const { describe: tables, unicode } = this.context.catalog;
    const values = filter === undefined ? {} : { filter: printExpression(filter) };
    const known = await cacheTime({ values, problems: [] }, this.engine, this.context);
    return { tables, unicode, ...(known && { storedSelections: known }) };
  }

  private async isReported(row: ViewRecord): Promise<ViewAnswer> {
    const { id, table, name, note, shared, first, version, changedAt, caller } = row;
    const read = readSavedText(row.view);
    const { description } = findTable(this.context.catalog, table);
    const fitted = fitView(read.view, description, await this.checkedWith(read.view));
    const own = caller === this.caller;
    const left = [...read.problems, ...fitted.problems];
    return {
      id,
      table,
      name,
      note,
      view: saveView(fitted.view),
      // What somebody else has written may name what this caller is not to know of.
      left: own || !this.context.catalog.restricted ? left : left.map(unnamed),
      shared,
      first,
      own,
      by: caller === '' ? null : caller,
      version,
      changedAt: changedAt.toISOString(),
    };
  }
}

function unknown(): Refused {
  return new Refused(inParameter('id', [problem('unknown-view', {})]));
}

/** @throws Refused */
function viewAnswer(made: ViewRecord | Unkept, table: string): ViewRecord {
  switch (made) {
    case 'name-taken':
      throw new Refused(inParameter('name', [problem('view-name-taken', { table })]));
    case 'too-many':
      throw new Refused([problem('too-many-views', { most: mostViews })]);
    default:
      return made;
  }
}

function unnamed({ parameter = 'view' }: Problem): Problem {
  return { ...problem('view-part-hidden', { part: parameter }), parameter };
}

function printPlace({ name, id }: ViewRecord): string {
  return printListPlace([name, id]);
}

/** @throws Refused */
function readPlace(token: string): { name: string; id: string } {
  return readListPlace(token, ([name, id]) =>
    typeof name === 'string' && typeof id === 'string' ? { name, id } : undefined,
  );
}
