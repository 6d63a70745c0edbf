import { termOf } from '@ephoros/core/query';
import { call, property } from '@ephoros/core/expression';
import type { PaintRule } from '@ephoros/core/view';
import { useMemo } from 'react';
import { Later, useLater } from '../later.ts';
import type { Drawn } from '../records/use-records.ts';
import { useTotals } from '../records/use-totals.ts';
import type { Paint } from '../paint/paint.ts';
import { useSame } from '../use-same.ts';

/** Loaded with the first rule. */
const painter = new Later(() => import('../paint/painter.ts'));

/** The paint of a table's rows; undefined where there is none, or not yet. */
export function usePaint(records: Drawn): Paint | undefined {
  const { paint: rules, table, column, request, match, total, progress } = records;
  // Rows come first: nothing that is useless without them is requested at the same time.
  const part = useLater(painter, rules.length > 0 && total !== undefined);
  const make = part.state === 'ready' ? part.result.painterOf : undefined;
  const painted = make === undefined ? [] : rules;
  const unended = painted.filter(endless).map((rule) => rule.column);
  const measured = useSame(unended, unended.join('\n'));
  const terms = useMemo(
    () =>
      measured.flatMap((name) => [
        termOf(call('min', property(name))),
        termOf(call('max', property(name))),
      ]),
    [measured],
  );
  const answer = useTotals(request, match, terms, progress);
  const known = answer?.state === 'ready' ? answer.result?.values : undefined;
  return useMemo(() => {
    if (make === undefined) return undefined;
    return make({
      rules,
      table,
      column,
      ends: (name) => {
        const at = (made: string): unknown => known?.[termOf(call(made, property(name))).name];
        const [least, greatest] = [at('min'), at('max')];
        if (least == null || greatest == null) return undefined;
        return { least: Number(least), greatest: Number(greatest) };
      },
    });
  }, [make, rules, table, column, known]);
}

/** Whether a rule leaves an end of its scale to what is shown. */
function endless(rule: PaintRule): rule is Extract<PaintRule, { kind: 'bar' | 'scale' }> {
  return rule.kind !== 'tone' && (rule.from === undefined || rule.to === undefined);
}
