import type { Chart } from '@ephoros/core/view';
import type { ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';

/** Loaded with the first chart. */
const charts = new Later(() => import('../chart/index.ts'));

/** The chart of the view, once it is loaded. */
export function ChartPart({ chart }: { readonly chart: Chart }): ReactElement | null {
  const { messages } = useModel().reader;
  const words = useAnswer(messages.charts);
  const loaded = useLater(charts, true);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || words.state !== 'ready') {
    return <section className="eph-chart" aria-busy="true" />;
  }
  return <loaded.result.ChartBand chart={chart} messages={words.result} />;
}
