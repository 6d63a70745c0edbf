import type { CheckedExpression, CheckedQuery } from '@ephoros/core/check';
import { mostSelected } from '@ephoros/core/expression';
import { amongKeys, compileRows, type Relations, type Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';
import { statementName, type Answer, type Database } from '../run/index.ts';

type Selected = Extract<CheckedExpression, { kind: 'selected' }>;
type Row = Answer['rows'][number];

/** A window of selected rows, by the keys of its own rows alone. */
export interface SelectedWindow {
  /** Undefined where the window lies past the end. */
  readonly query: CheckedQuery | undefined;
  /** Rows that it has, and one more where the result goes on. */
  readonly rows: number;
  /** Has the places looked up again. */
  readonly forget: () => void;
}

/** Ms that the order of selected rows is taken for. */
const goodFor = 30_000;
/** Places of all selections together. */
const mostPlaces = 2_000_000;

/**
 * The places of selected rows: their keys in the order of a query. PostgreSQL would plan and look
 * through all keys of a large selection for each window; with these a window asks for its own rows.
 */
export class SelectedPlaces {
  private readonly database: Database;
  private readonly known: LRUCache<string, { readonly rows: readonly Row[] }>;
  private readonly making = new Set<string>();

  constructor(database: Database, now: () => number = Date.now) {
    this.database = database;
    this.known = new LRUCache({
      maxSize: mostPlaces,
      sizeCalculation: ({ rows }) => rows.length + 1,
      ttl: goodFor,
      perf: { now },
      ttlResolution: 0,
    });
  }

  /**
   * The window of a query among so many selected rows that it pays. Undefined for other queries, and
   * until the places are known: they are looked up meanwhile.
   */
  window(query: CheckedQuery, relations: Relations): SelectedWindow | undefined {
    const { anchor, table, filter, offset, limit } = query;
    if (anchor !== undefined || filter === undefined) return undefined;
    const selected = manySelected(filter);
    if (selected === undefined) return undefined;
    const statement = placesOf(query, selected, relations);
    const name = statementName(statement);
    const places = this.known.get(name)?.rows;
    if (places === undefined) {
      void this.make(name, statement, table.name);
      return undefined;
    }
    // The key's columns come first.
    const width = selected.columns.length;
    const keys = places
      .slice(offset, offset + limit + 1)
      .map((row) => row.slice(0, width).map((value) => value ?? ''));
    return {
      query: keys.length === 0 ? undefined : { ...amongKeys(query, keys), limit },
      rows: keys.length,
      forget: () => this.known.delete(name),
    };
  }

  /** Forgets all places, since the tables are others. */
  forget(): void {
    this.known.clear();
  }

  private async make(name: string, statement: Statement, table: string): Promise<void> {
    if (this.making.has(name)) return;
    this.making.add(name);
    try {
      const { rows } = await this.database.run(statement, { table });
      this.known.set(name, { rows });
    } catch {
      // Too many to keep, or the database is away: windows are requested without them.
    } finally {
      this.making.delete(name);
    }
  }
}

/** What of a filter selects rows by so many keys; undefined where nothing does. */
function manySelected(filter: CheckedExpression): Selected | undefined {
  const operands = filter.kind === 'and' ? filter.operands : [filter];
  return operands.find(isMany);
}

function isMany(filter: CheckedExpression): filter is Selected {
  return filter.kind === 'selected' && filter.keys.length > mostSelected;
}

/** The keys of all rows of a query, in its order. */
function placesOf(
  { cells: _cells, ...query }: CheckedQuery,
  { columns, keys }: Selected,
  relations: Relations,
): Statement {
  return compileRows({ ...query, columns, offset: 0, limit: keys.length }, relations);
}
