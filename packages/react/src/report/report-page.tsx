import type { ReactElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { drawChart } from '../chart/draw-chart.ts';
import type { ReportContent, ReportTable } from './report-content.ts';
import { reportStyle } from './report-style.ts';

/** Columns that a sheet of paper has room for upright. */
const mostUpright = 7;
/** In px: as wide as the page's text. */
const chartWidths = { upright: 784, wide: 1_072 };
const chartHeight = 260;
const appearance = { ink: '#2b2620', faint: '#b9ae9f', accent: '#b3701b' };

/**
 * A report as one HTML page that needs nothing else: no scripts, no files next to it. Printed, it has page numbers, and
 * the headers of its tables on each sheet.
 * @param document where the chart is drawn: of a library that has the DOM without a browser
 */
export function reportPage(content: ReportContent, document: Document): string {
  const { chart, rows } = content;
  const isWide = rows.heads.length > mostUpright;
  const width = isWide ? chartWidths.wide : chartWidths.upright;
  const svg =
    chart === undefined || chart.drawing.marks.length === 0
      ? undefined
      : drawChart({
          ...chart.drawing,
          ...{ width, height: chartHeight, appearance, font: 'inherit', document },
        }).outerHTML.replace(/ style="[^"]*"/, '');
  const style = reportStyle(content.title, isWide);
  const page = renderToStaticMarkup(<Page content={content} style={style} svg={svg} />);
  return `<!doctype html>\n${page}\n`;
}

interface PageProps {
  readonly content: ReportContent;
  readonly style: string;
  readonly svg: string | undefined;
}

function Page({ content, style, svg }: PageProps): ReactElement {
  const { title, note, sentence, facts, chart, groups, rows, nothing } = content;
  return (
    <html lang={content.language} dir={content.direction}>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>{title}</title>
        <style dangerouslySetInnerHTML={{ __html: style }} />
      </head>
      <body>
        <header>
          <h1>{title}</h1>
          <p className="sentence">{sentence}</p>
          {note !== undefined && <p>{note}</p>}
          <p className="facts">{facts.join(' · ')}</p>
        </header>
        {chart !== undefined && svg !== undefined && (
          <figure>
            <figcaption>{chart.title}</figcaption>
            <div role="img" aria-label={chart.title} dangerouslySetInnerHTML={{ __html: svg }} />
          </figure>
        )}
        {groups !== undefined && <Table table={groups} />}
        {rows.lines.length > 0 ? <Table table={rows} /> : <p>{nothing}</p>}
      </body>
    </html>
  );
}

function Table({ table: { title, heads, lines } }: { readonly table: ReportTable }): ReactElement {
  const isNested = lines.some(({ depth = 0 }) => depth > 0);
  const side = (at: number): string | undefined => heads[at]?.set;
  return (
    <section>
      <table>
        <caption>{title}</caption>
        <thead>
          <tr>
            {heads.map(({ text }, at) => (
              <th key={at} scope="col" className={side(at)}>
                {text}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map(({ cells, depth = 0 }, row) => (
            <tr key={row} className={isNested && depth === 0 ? 'top' : undefined}>
              {cells.map((cell, at) => (
                <td
                  key={at}
                  className={side(at)}
                  style={
                    at === 0 && depth > 0 ? { paddingInlineStart: `${depth * 1.4}em` } : undefined
                  }
                >
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
