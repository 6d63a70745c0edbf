import type { Value } from '@ephoros/client';
import type { ColumnDescription } from '@ephoros/core/schema';
import type { ReactElement } from 'react';
import { formatValue } from '../format/value.ts';
import { useCount, useModel } from '../parts/table-context.ts';
import { Cell } from '../table/cell.tsx';
import { Tick } from './choices.tsx';

interface ValueLinesProps {
  readonly column: ColumnDescription;
  readonly chosen: readonly string[];
  readonly change: (chosen: readonly string[]) => void;
  /** In the notation of a condition. */
  readonly values: readonly string[];
  readonly counts?: ReadonlyMap<string, number> | undefined;
  /** The values themselves, where they are no texts. */
  readonly shown?: ReadonlyMap<string, Value>;
}

/** Values to be chosen from, each with its count where that is known. */
export function ValueLines(props: ValueLinesProps): ReactElement {
  const { column, values, counts, shown, chosen, change } = props;
  const { reader } = useModel();
  const written = useCount();
  return (
    <ul className="eph-values" aria-label={reader.messages.editors.valuesOf(column.label)}>
      {values.map((text) => (
        <li key={text}>
          <Tick
            checked={chosen.includes(text)}
            change={(checked) =>
              change(checked ? [...chosen, text] : chosen.filter((one) => one !== text))
            }
          >
            <span className="eph-value">
              <Cell value={formatValue(shown?.get(text) ?? text, column, reader)} />
            </span>
            {counts !== undefined && (
              <span className="eph-count">{written(counts.get(text) ?? 0)}</span>
            )}
          </Tick>
        </li>
      ))}
    </ul>
  );
}
