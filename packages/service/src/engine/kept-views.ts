import { printParameters } from '@ephoros/core/query';
import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import {
  fitView,
  readSavedView,
  saveView,
  type View,
  type ViewAnswer,
  type ViewsAnswer,
  type WantedView,
  type WantedViewChange,
} from '@ephoros/core/view';
import type { Published } from '../catalog/index.ts';
import { findTable, Refused } from '../question/index.ts';
import { mostViews, type KeptView, type Unkept, type Views } from '../records/index.ts';
import type { Engine } from './engine.ts';
import { keptFor, ownerOf } from './kept.ts';
import type { RequestContext } from './request-context.ts';

/** Views of one answer. */
export const mostListed = 100;

/** Which kept views are asked for. */
export interface AskedViews {
  readonly table?: string | undefined;
  readonly search?: string | undefined;
  readonly first?: boolean;
  readonly limit?: number | undefined;
  /** What `next` of an answer said. */
  readonly after?: string | undefined;
}

/** Answers about kept views to one request. All of them throw Refused, RecordsError, Failure. */
export class KeptViewAnswers {
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
    return this.told(kept(made, wanted.table));
  }

  async read(id: string): Promise<ViewAnswer> {
    return this.told(await this.found(id));
  }

  async list({ table, search, first, limit, after }: AskedViews): Promise<ViewsAnswer> {
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
      views: await Promise.all(read.slice(0, most).map((one) => this.told(one))),
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
    const change = { ...wanted, ...(view && { view }) };
    const changed = await this.views.change(id, owner, defined(change), version);
    if (changed === undefined) throw await this.outdated(id);
    return this.told(kept(changed, before.table));
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

  private async ownOf(id: string): Promise<{ owner: string; before: KeptView }> {
    const before = await this.found(id);
    if (before.caller !== this.caller) throw new Refused([problem('not-your-view', {})]);
    return { owner: before.caller, before };
  }

  /** Views of tables that the caller does not see are none. */
  private async found(id: string): Promise<KeptView> {
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

  /** A view that can be kept: every part of it holds. @throws Refused */
  private async checked(
    saved: WantedView['view'],
    { description }: Published,
  ): Promise<WantedView['view']> {
    const read = readSavedView(saved);
    const fitted = await this.fitted(read.view, description.name);
    const problems = [...read.problems, ...fitted.problems];
    if (problems.length > 0) {
      throw new Refused(
        problems.map((one) => ({ ...one, parameter: `view.${one.parameter ?? ''}` })),
      );
    }
    return saveView(read.view);
  }

  private async fitted(view: View, table: string): Promise<ReturnType<typeof fitView>> {
    const { catalog } = this.context;
    const { filter } = Object.fromEntries(
      printParameters(view.filter === undefined ? {} : { filter: view.filter }),
    );
    const values = filter === undefined ? {} : { filter };
    const known = await keptFor({ values, problems: [] }, this.engine, this.context);
    const { description } = findTable(catalog, table);
    const { describe: tables, unicode } = catalog;
    return fitView(view, description, { tables, unicode, ...(known && { kept: known }) });
  }

  private async told(row: KeptView): Promise<ViewAnswer> {
    const { id, table, name, note, shared, first, version, changedAt, caller } = row;
    const read = readSavedView(JSON.parse(row.view));
    const fitted = await this.fitted(read.view, table);
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
function kept(made: KeptView | Unkept, table: string): KeptView {
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

function defined<Members extends object>(
  members: Members,
): { [Name in keyof Members]?: NonNullable<Members[Name]> } {
  const there = Object.entries(members).filter(([, member]) => member !== undefined);
  return Object.fromEntries(there) as { [Name in keyof Members]?: NonNullable<Members[Name]> };
}

function printPlace({ name, id }: KeptView): string {
  return Buffer.from(JSON.stringify([name, id])).toString('base64url');
}

/** @throws Refused */
function readPlace(text: string): { name: string; id: string } {
  try {
    const read: unknown = JSON.parse(Buffer.from(text, 'base64url').toString());
    const [name, id] = Array.isArray(read) ? (read as unknown[]) : [];
    if (typeof name === 'string' && typeof id === 'string') return { name, id };
  } catch {
    // Told below.
  }
  throw new Refused(inParameter('after', [problem('malformed-cursor', {})]));
}
