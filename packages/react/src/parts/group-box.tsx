import {
  chosenQuery,
  joinFilters,
  nothingChosen,
  type ChosenRows,
  type GroupLine,
  type WrittenQuery,
} from '@ephoros/client';
import {
  mostSelected,
  parseExpression,
  printExpression,
  type Expression,
} from '@ephoros/core/expression';
import { useMemo, type ReactElement } from 'react';
import type { Drawn } from '../records/use-records.ts';
import { isOutline } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { RowBox } from './row-box.tsx';
import { useModel, useRowsOf } from './table-context.ts';

interface GroupBoxProps {
  readonly line: GroupLine;
  /** Counted from 0 over all lines. */
  readonly position: number;
}

/**
 * The box of a group: empty, full or partly full, by how many of its rows are selected; pressed, it
 * selects all of them, or none. The service counts where that is not plain.
 */
export function GroupBox({ line, position }: GroupBoxProps): ReactElement | null {
  const records = useRowsOf();
  const { reader } = useModel();
  const { ask, match, selection } = records;
  const { chosen } = selection;
  const condition = conditionOf(position, records);
  const plain = plainCount(chosen, match, line);
  const question = useMemo(() => {
    if (plain !== undefined || ask === undefined || condition === undefined) return undefined;
    return async (signal: AbortSignal): Promise<number> => {
      const query = await countingQuery(chosen, match, condition, ask);
      const { window } = await ask.rows({ ...query, limit: 1, total: 'exact' }, signal);
      const counted = window.total ?? 0;
      // Of all that match the exceptions are counted.
      return isSame(chosen, match) ? Math.max(0, line.count - counted) : counted;
    };
  }, [plain, ask, condition, chosen, match, line.count]);
  const answer = useAnswer(question);
  if (condition === undefined) return null;
  const count = plain ?? (answer.state === 'ready' ? answer.result : undefined);
  const checked =
    count !== undefined && count >= line.count ? true : (count ?? 0) > 0 ? 'some' : false;
  const next = toggled(chosen, match, condition, checked !== true);
  return (
    <RowBox
      label={reader.messages.selectGroup}
      checked={checked}
      change={() => {
        if (next !== undefined) selection.choose(next);
      }}
    />
  );
}

/** What the rows of a group meet, with those of the groups around it; undefined where nothing says it. */
function conditionOf(position: number, { source, match }: Drawn): string | undefined {
  if (!isOutline(source)) return undefined;
  const path = source.pathAt(position);
  let filter = match.filter;
  for (let depth = 1; depth <= path.length; depth += 1) {
    const line = source.row(source.positionOf(path.slice(0, depth)));
    const own = line?.kind === 'group' ? line.line.filter : null;
    if (own === null) return undefined;
    filter = joinFilters(filter, own);
  }
  return printed(filter);
}

/** How many rows of a group are selected, where nobody has to be asked. */
function plainCount(
  chosen: ChosenRows,
  match: WrittenQuery,
  { count }: GroupLine,
): number | undefined {
  if (chosen.kind === 'keys') return chosen.keys.length === 0 ? 0 : undefined;
  return isSame(chosen, match) && chosen.except.length === 0 ? count : undefined;
}

/** Whether what is chosen is all that the view shows, but for exceptions. */
function isSame(chosen: ChosenRows, match: WrittenQuery): boolean {
  if (chosen.kind === 'keys') return false;
  return (
    printed(chosen.filter) === printed(match.filter) &&
    JSON.stringify(chosen.search ?? []) === JSON.stringify(match.search ?? [])
  );
}

async function countingQuery(
  chosen: ChosenRows,
  match: WrittenQuery,
  condition: string,
  ask: NonNullable<Drawn['ask']>,
): Promise<WrittenQuery> {
  const wanted: ChosenRows =
    chosen.kind === 'matching' && isSame(chosen, match)
      ? { kind: 'keys', keys: chosen.except }
      : chosen;
  const { filter, search = [] } = chosenQuery(await ask.askable(wanted));
  const words = [...new Set([...search, ...(match.search ?? [])])];
  return {
    filter: joinFilters(condition, filter ?? condition),
    ...(words.length > 0 && { search: words }),
  };
}

const span = { start: 0, end: 0 };

/** What is chosen with a group, or without it; undefined where that cannot be said as one condition. */
function toggled(
  chosen: ChosenRows,
  match: WrittenQuery,
  condition: string,
  wanted: boolean,
): ChosenRows | undefined {
  const group = parsed(condition);
  if (group === undefined) return undefined;
  const search = match.search ?? [];
  const empty = chosen.kind === 'keys' && chosen.keys.length === 0;
  const words = chosen.kind === 'matching' ? (chosen.search ?? []) : search;
  // A search holds for all of what is chosen: what was chosen under another one cannot join it.
  if (!empty && JSON.stringify(words) !== JSON.stringify(search)) return undefined;
  if (chosen.kind === 'keys' && !empty && search.length > 0) return undefined;
  const last = empty ? undefined : lastCondition(chosen);
  if (!empty && last === undefined) return undefined;
  // Without the only group that was chosen nothing is.
  if (!wanted && printed(last) === printed(group)) return nothingChosen;
  const filter = wanted ? anyOf(last, group) : last && without(last, group);
  if (filter === undefined) return undefined;
  return {
    kind: 'matching',
    filter,
    ...(search.length > 0 && { search }),
    except: [],
  };
}

function lastCondition(chosen: ChosenRows): Expression | undefined {
  const keys = chosen.kind === 'keys' ? chosen.keys : chosen.except;
  if (keys.length > mostSelected) return undefined;
  const { filter } = chosenQuery(chosen);
  return filter === undefined ? { kind: 'boolean', value: true, span } : parsed(printed(filter));
}

function anyOf(last: Expression | undefined, group: Expression): Expression {
  return last === undefined ? group : { kind: 'or', operands: [last, group], span };
}

/** What is unknown to the group's condition is not in the group. */
function without(last: Expression, group: Expression): Expression {
  const outside: Expression = { kind: 'not', operand: group, span };
  const unknown: Expression = { kind: 'isNull', operand: group, span };
  const others: Expression = { kind: 'or', operands: [outside, unknown], span };
  return { kind: 'and', operands: [last, others], span };
}

function printed(filter: WrittenQuery['filter']): string {
  return filter === undefined ? '' : typeof filter === 'string' ? filter : printExpression(filter);
}

function parsed(filter: string): Expression | undefined {
  const read = parseExpression(filter);
  return 'expression' in read ? read.expression : undefined;
}
