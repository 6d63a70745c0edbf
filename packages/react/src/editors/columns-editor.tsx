import type { ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { Tick } from './choices.tsx';

/** Which columns are shown. */
export function ColumnsEditor(): ReactElement {
  const { columns, shown, change } = useModel();
  const span = { start: 0, end: 0 };
  /** A column that comes stands behind the one that it follows among all. */
  const withColumn = (name: string): readonly string[] => {
    const before = columns.slice(
      0,
      columns.findIndex((one) => one.name === name),
    );
    const last = before.findLast((one) => shown.includes(one.name));
    const at = last === undefined ? 0 : shown.indexOf(last.name) + 1;
    return [...shown.slice(0, at), name, ...shown.slice(at)];
  };
  return (
    <ul className="eph-plain-list">
      {columns.map(({ name, label }) => (
        <li key={name}>
          <Tick
            checked={shown.includes(name)}
            change={(checked) => {
              const names = checked ? withColumn(name) : shown.filter((one) => one !== name);
              if (names.length > 0) change({ columns: names.map((one) => ({ name: one, span })) });
            }}
          >
            {label}
          </Tick>
        </li>
      ))}
    </ul>
  );
}
