import {
  chosenQuery,
  filterText,
  joinFilters,
  nothingChosen,
  type ChosenRows,
  type GroupLine,
  type WrittenQuery,
} from '@ephoros/client';
import { mostSelected, type Expression } from '@ephoros/core/expression';
import type { OpenGroup } from '@ephoros/core/view';
import { useMemo, useState, type ReactElement } from 'react';
import type { Drawn } from '../records/use-records.ts';
import { groupsAt, isOutline } from '../table/row-at.ts';
import { useAnswer } from '../use-answer.ts';
import { filterExpression } from './filter-expression.ts';
import type { GroupCounts } from './group-counts.ts';
import { RowBox } from './row-box.tsx';
import { useModel, useRowsOf } from './table-context.ts';

export { GroupCounts } from './group-counts.ts';

interface GroupBoxProps {
  readonly line: GroupLine;
  /** Counted from 0 over all lines. */
  readonly position: number;
  readonly counts: GroupCounts;
}

/**
 * The box of a group: empty, full or partly full, by how many of its rows are selected; pressed, it
 * selects all of them, or none. The service counts where that is not plain.
 */
export function GroupBox({ line, position, counts }: GroupBoxProps): ReactElement | null {
  const records = useRowsOf();
  const { reader } = useModel();
  const { match, selection } = records;
  const { chosen } = selection;
  const condition = conditionOf(position, records);
  const around = JSON.stringify(valuesAround(position, records));
  const plain = counts.plain(line);
  const query = useMemo(
    () => (plain === undefined ? () => counts.in(JSON.parse(around) as OpenGroup) : undefined),
    [plain, counts, around],
  );
  const answer = useAnswer(query);
  const now = plain ?? (answer.state === 'ready' ? answer.result(line) : undefined);
  // While it is counted again, what was counted last stays.
  const [last, setLast] = useState(now);
  if (now !== undefined && now !== last) setLast(now);
  if (condition === undefined) return null;
  const count = now ?? last;
  const full = count !== undefined && count >= line.count;
  const next = toggled(chosen, match, condition, !full);
  return (
    <RowBox
      label={reader.messages.selectGroup}
      checked={full || ((count ?? 0) > 0 ? 'some' : false)}
      change={() => {
        if (next !== undefined) selection.choose(next);
      }}
    />
  );
}

/** The values of the groups around a line, the outermost first. */
function valuesAround(position: number, { source }: Drawn): OpenGroup {
  if (!isOutline(source)) return [];
  return groupsAt(source, position)
    .slice(0, -1)
    .map(({ value }) => value);
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
  return filterText(filter);
}

const span = { start: 0, end: 0 };

/** What is chosen with a group, or without it; undefined where that cannot be stated as one condition. */
function toggled(
  chosen: ChosenRows,
  match: WrittenQuery,
  condition: string,
  wanted: boolean,
): ChosenRows | undefined {
  const group = filterExpression(condition);
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
  if (!wanted && filterText(last) === filterText(group)) return nothingChosen;
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
  return filter === undefined ? { kind: 'boolean', value: true, span } : filterExpression(filter);
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
