import { densities, heights, layouts, rowStyles } from '@ephoros/core/view';
import type { ReactElement } from 'react';
import { useModel } from '../parts/table-context.ts';
import { useAnswer } from '../use-answer.ts';
import { Choices, Tick } from './choices.tsx';
import { ResetAppearance } from './columns-editor.tsx';
import { PaintEditor } from './paint-editor.tsx';
import { Unanswered } from './unanswered.tsx';

/** How rows are set and painted, and how high the table is. */
export function AppearanceEditor(): ReactElement {
  const { view, change, reader, usualDensity } = useModel();
  const { messages } = reader;
  const { editors } = messages;
  const texts = useAnswer(messages.layout);
  if (texts.state !== 'ready') return <Unanswered answer={texts} what={messages.loading} />;
  const words = texts.result;
  const { rowStyle = [] } = view;
  return (
    <div className="eph-form">
      <h2 className="eph-list-title">{editors.rowsStand}</h2>
      <Choices
        inLine
        label={editors.rowsStand}
        values={densities.map((value) => ({ value, text: editors.densities[value] }))}
        chosen={view.density ?? usualDensity}
        change={(density) => change({ density: density === usualDensity ? undefined : density })}
      />
      <ul className="eph-plain-list">
        {rowStyles.map((style) => (
          <li key={style}>
            <Tick
              checked={rowStyle.includes(style)}
              change={(checked) => {
                const next = rowStyles.filter((one) =>
                  one === style ? checked : rowStyle.includes(one),
                );
                change({ rowStyle: next.length === 0 ? undefined : next });
              }}
            >
              {words.rowStyles[style]}
            </Tick>
          </li>
        ))}
      </ul>
      <h2 className="eph-list-title">{editors.rowsLie}</h2>
      <Choices
        inLine
        label={editors.rowsLie}
        values={layouts.map((value) => ({ value, text: editors.layouts[value] }))}
        chosen={view.layout ?? 'down'}
        change={(layout) => change({ layout: layout === 'down' ? undefined : layout })}
      />
      <h2 className="eph-list-title">{words.height}</h2>
      <Choices
        inLine
        label={words.height}
        values={heights.map((value) => ({ value, text: words.heights[value] }))}
        chosen={view.height ?? 'page'}
        change={(height) => change({ height: height === 'page' ? undefined : height })}
      />
      <PaintEditor messages={words} />
      <div className="eph-actions">
        <ResetAppearance text={words.reset} />
      </div>
    </div>
  );
}
