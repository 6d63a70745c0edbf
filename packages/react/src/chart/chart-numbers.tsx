import type { ReactElement } from 'react';
import { formatText } from '../format/value.ts';
import type { ChartMessages } from '../messages/chart-messages.ts';
import { useModel } from '../parts/table-context.ts';
import type { ChartData } from './chart-data.ts';

interface ChartNumbersProps {
  readonly data: ChartData;
  readonly names: readonly string[];
  readonly title: string;
  readonly messages: ChartMessages;
}

/** The same numbers that a chart draws, as a table. */
export function ChartNumbers({ data, names, title, messages }: ChartNumbersProps): ReactElement {
  const { reader } = useModel();
  const { spread } = messages;
  const ofSpread = [
    spread.least,
    spread.quarter,
    spread.median,
    spread.threeQuarters,
    spread.greatest,
  ];
  const heads = data.of.map(({ label }, index) =>
    data.of.length > 1 ? (ofSpread[index] ?? label) : label || messages.rows,
  );
  return (
    <div className="eph-chart-room eph-chart-numbers" tabIndex={0} role="group" aria-label={title}>
      <table>
        <caption className="eph-unseen">{title}</caption>
        <thead>
          <tr>
            <th scope="col">{data.by.label}</th>
            {heads.map((head) => (
              <th key={head} scope="col">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.marks.map(({ values }, row) => (
            <tr key={names[row]}>
              <th scope="row">{names[row]}</th>
              {data.of.map((column, index) => (
                <td key={column.name}>
                  {values[index] == null ? '—' : formatText(values[index] ?? null, column, reader)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
