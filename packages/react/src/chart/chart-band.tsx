import type { OnProgress } from '@ephoros/client';
import { printChart, type Chart } from '@ephoros/core/view';
import {
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type ReactElement,
  type RefObject,
} from 'react';
import { plainText, formatText } from '../format/value.ts';
import { Later, useLater } from '../later.ts';
import type { ChartMessages } from '../messages/chart-messages.ts';
import { Unanswered } from '../editors/unanswered.tsx';
import { LoadFailure } from '../parts/load-failure.tsx';
import { Pop } from '../parts/pop.tsx';
import { useCount, useModel, useRowsOf } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { useAction } from '../use-action.ts';
import { useSame } from '../use-same.ts';
import { fetchChart, type ChartData } from './chart-data.ts';
import { ChartNumbers } from './chart-numbers.tsx';
import { chartTitle, markNames, scaleOf } from './chart-words.ts';
import { narrowedTo } from './narrowing.ts';
import { saveFile } from '../copy/save-file.ts';
import { pngOf, svgText } from './save-chart.ts';

/** The plotting library, loaded with the first chart. */
const drawing = new Later(() => import('./draw-chart.ts'));

interface ChartBandProps {
  readonly chart: Chart;
  readonly messages: ChartMessages;
}

/** A chart of what the view shows: it follows the condition, and narrows it. */
export function ChartBand({ chart: given, messages }: ChartBandProps): ReactElement | null {
  const { view, change, request, match, reader, table } = useModel();
  const { column } = useRowsOf();
  const count = useCount();
  const [folded, setFolded] = useState(false);
  const [asNumbers, setAsNumbers] = useState(false);
  // The same for as long as it says the same: a drawing that is replaced loses the press on it.
  const chart = useSame(given, printChart(given));
  const query = useCallback(
    async (signal: AbortSignal, onProgress: OnProgress) => {
      if (request === undefined) throw new Error(messages.nothing);
      return fetchChart(chart, request, match, signal, onProgress);
    },
    [request, match, chart, messages],
  );
  const answer = useAnswer(folded || request === undefined ? undefined : query);
  const side = view.chartSide ?? 'above';
  const labelOf = (name: string): string => column(name)?.label ?? name;
  const { title, of } = chartTitle(chart, labelOf, reader.messages.sentence, messages);
  const data = answer.state === 'ready' ? answer.result : undefined;
  const svg = useRef<SVGSVGElement>(undefined);
  const { error, run } = useAction();
  if (request === undefined) return null;
  const file = `${table.name}-${chart.kind}`;
  return (
    <section
      className="eph-chart"
      data-side={side}
      data-folded={folded}
      aria-label={messages.title}
    >
      <header className="eph-chart-line">
        <Pop className="eph-phrase" text={title} label={messages.title}>
          {({ ChartEditor }, close) => <ChartEditor done={close} />}
        </Pop>
        {data?.all !== undefined && data.all > data.marks.length && (
          <span className="eph-aside">
            {(data.ordered ? messages.first : messages.largest)(
              count(data.marks.length),
              count(data.all),
            )}
          </span>
        )}
        <span className="eph-grow" />
        {!folded && (
          <>
            <button
              type="button"
              className="eph-offer"
              aria-pressed={asNumbers}
              onClick={() => setAsNumbers(!asNumbers)}
            >
              {asNumbers ? messages.picture : messages.numbers}
            </button>
            <button
              type="button"
              className="eph-offer"
              disabled={data === undefined || asNumbers}
              onClick={() => {
                if (svg.current === undefined) return;
                const content = svgText(svg.current, groundOf(svg.current));
                saveFile(`${file}.svg`, new Blob([content], { type: 'image/svg+xml' }));
              }}
            >
              {messages.saveSvg}
            </button>
            <button
              type="button"
              className="eph-offer"
              disabled={data === undefined || asNumbers}
              onClick={() =>
                void run(async () => {
                  if (svg.current === undefined) return;
                  saveFile(`${file}.png`, await pngOf(svg.current, groundOf(svg.current)));
                })
              }
            >
              {messages.savePng}
            </button>
          </>
        )}
        <button
          type="button"
          className="eph-offer"
          aria-expanded={!folded}
          onClick={() => setFolded(!folded)}
        >
          {folded ? messages.unfold : messages.fold}
        </button>
        <button
          type="button"
          className="eph-drop"
          aria-label={messages.drop}
          onClick={() => change({ chart: undefined, chartSide: undefined })}
        >
          ×
        </button>
      </header>
      {error !== undefined && (
        <p role="alert" className="eph-trouble">
          {error.message}
        </p>
      )}
      {!folded && answer.state !== 'ready' && (
        <Unanswered answer={answer} what={messages.reading} />
      )}
      {!folded && data?.marks.length === 0 && (
        <p className="eph-chart-room eph-aside">{messages.nothing}</p>
      )}
      {!folded && data !== undefined && data.marks.length > 0 && asNumbers && (
        <ChartNumbers
          data={data}
          names={markNames(data, chart, reader, messages)}
          title={title}
          messages={messages}
        />
      )}
      {!folded && data !== undefined && data.marks.length > 0 && !asNumbers && (
        <Picture
          data={data}
          chart={chart}
          messages={messages}
          title={title}
          label={chart.kind === 'histogram' ? messages.rows : of}
          drawnRef={svg}
          choose={(index) => {
            const mark = data.marks[index];
            if (mark === undefined) return;
            void narrowedTo(mark, chart, column, reader).then((condition) => {
              if (condition !== undefined) change((last) => condition(last));
            });
          }}
        />
      )}
    </section>
  );
}

function groundOf(element: Element): string {
  const around = element.closest('.eph-view') ?? element;
  return getComputedStyle(around).getPropertyValue('--eph-ground').trim() || '#ffffff';
}

interface PictureProps {
  readonly data: ChartData;
  readonly chart: Chart;
  readonly messages: ChartMessages;
  readonly title: string;
  readonly label: string;
  /** Where the drawing is put. */
  readonly drawnRef: RefObject<SVGSVGElement | undefined>;
  readonly choose: (index: number) => void;
}

/** The drawing itself, as wide and high as its room; a press on a mark narrows the table to it. */
function Picture({
  data,
  chart,
  messages,
  title,
  label,
  drawnRef,
  choose,
}: PictureProps): ReactElement {
  const { reader } = useModel();
  const loaded = useLater(drawing, true);
  const room = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<readonly [number, number]>();
  const [theme, setTheme] = useState(0);
  const names = useMemo(
    () => markNames(data, chart, reader, messages),
    [data, chart, reader, messages],
  );
  const draw = loaded.state === 'ready' ? loaded.result.drawChart : undefined;
  useLayoutEffect(() => {
    const element = room.current;
    if (element === null) return undefined;
    const watch = new ResizeObserver(() => {
      const { clientWidth: width, clientHeight: height } = element;
      setSize((last) => (last?.[0] === width && last[1] === height ? last : [width, height]));
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  // Drawn with the colours of the page, which may become others.
  useEffect(() => {
    const watch = new MutationObserver(() => setTheme((last) => last + 1));
    watch.observe(document.documentElement, { attributes: true });
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    const element = room.current;
    if (draw === undefined || element === null || size === undefined || size[0] < 40) return;
    const style = getComputedStyle(element);
    const colour = (name: string): string => style.getPropertyValue(`--eph-${name}`).trim();
    const [of] = data.of;
    const svg = draw({
      chart,
      marks: data.marks,
      names,
      width: size[0],
      height: Math.max(120, size[1]),
      mirrored: reader.messages.direction === 'rtl',
      appearance: { ink: colour('ink'), faint: colour('faint'), accent: colour('accent') },
      font: style.fontFamily,
      write: scaleOf(reader),
      labelOf: label,
    });
    svg.setAttribute('role', 'img');
    svg.setAttribute('aria-label', title);
    for (const element of svg.querySelectorAll<SVGElement>('[data-mark]')) {
      const index = Number(element.dataset.mark);
      const value = data.marks[index]?.values[0] ?? null;
      const hint = document.createElementNS('http://www.w3.org/2000/svg', 'title');
      const written =
        of === undefined || value === null ? plainText(value) : formatText(value, of, reader);
      hint.textContent = `${names[index] ?? ''}: ${written}`;
      element.append(hint);
    }
    element.replaceChildren(svg);
    drawnRef.current = svg;
  }, [draw, data, chart, names, size, theme, reader, label, title, drawnRef]);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  return (
    <div
      ref={room}
      className="eph-chart-room"
      onClick={({ target }) => {
        const mark = (target as Element).closest<SVGElement>('[data-mark]');
        if (mark?.dataset.mark !== undefined) choose(Number(mark.dataset.mark));
      }}
    />
  );
}
