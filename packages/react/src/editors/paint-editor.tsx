import { isNumeric, mostPaintRules } from '@ephoros/core/schema';
import type { PaintRule } from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import type { LayoutMessages } from '../messages/layout-messages.ts';
import { unfitReason } from '../paint/painter.ts';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { MeasureFields, ToneFields } from './paint-fields.tsx';

/** The rules that rows and cells are painted by. */
export function PaintEditor({ said }: { readonly said: LayoutMessages }): ReactElement {
  const { view, change, table, shown, columns } = useModel();
  const { paint: rules } = useRowsOf();
  const [adding, setAdding] = useState(false);
  const put = (next: readonly PaintRule[]): void => change({ paint: next });
  const replace = (index: number, rule: PaintRule | undefined): void =>
    put(rules.flatMap((one, place) => (place === index ? (rule ?? []) : one)));
  const numbers = columns.filter(({ name, type }) => isNumeric(type) && !table.key.includes(name));
  const measured = numbers.find(({ name }) => shown.includes(name)) ?? numbers[0];
  const isFull = rules.length >= mostPaintRules;
  return (
    <section className="eph-paint">
      <h2 className="eph-list-title">{said.paint}</h2>
      {rules.length > 1 && <p className="eph-aside">{said.paintHint}</p>}
      <ol className="eph-plain-list">
        {rules.map((rule, index) => (
          // Rules have no name but their place.
          <li key={index} className="eph-rule">
            {rule.kind === 'tone' ? (
              <ToneFields rule={rule} said={said} put={(next) => replace(index, next)} />
            ) : (
              <MeasureFields
                rule={rule}
                said={said}
                numbers={numbers}
                put={(next) => replace(index, next)}
              />
            )}
            <button
              type="button"
              className="eph-drop"
              aria-label={said.dropRule(String(index + 1))}
              onClick={() => replace(index, undefined)}
            >
              ×
            </button>
            <Unfit rule={rule} said={said} />
          </li>
        ))}
        {adding && (
          <li className="eph-rule">
            <ToneFields
              rule={undefined}
              said={said}
              put={(rule) => {
                put([...rules, rule]);
                setAdding(false);
              }}
            />
            <button
              type="button"
              className="eph-drop"
              aria-label={said.dropRule(String(rules.length + 1))}
              onClick={() => setAdding(false)}
            >
              ×
            </button>
          </li>
        )}
      </ol>
      <div className="eph-deeds">
        <button
          type="button"
          className="eph-offer"
          disabled={isFull || adding}
          onClick={() => setAdding(true)}
        >
          {said.addTone}
        </button>
        {measured !== undefined &&
          (['bar', 'scale'] as const).map((kind) => (
            <button
              key={kind}
              type="button"
              className="eph-offer"
              disabled={isFull}
              onClick={() => put([...rules, { kind, column: measured.name }])}
            >
              {kind === 'bar' ? said.addBar : said.addScale}
            </button>
          ))}
        {view.paint !== undefined && table.paint !== undefined && (
          <button type="button" className="eph-offer" onClick={() => change({ paint: undefined })}>
            {said.ownPaint}
          </button>
        )}
      </div>
    </section>
  );
}

interface UnfitProps {
  readonly rule: PaintRule;
  readonly said: LayoutMessages;
}

/** Why a rule paints nothing. */
function Unfit({ rule, said }: UnfitProps): ReactElement | null {
  const { table, column } = useModel();
  const reason = unfitReason(rule, table, column);
  if (reason === undefined) return null;
  return (
    <p role="alert" className="eph-trouble">
      {typeof reason === 'string' ? said.unfit[reason] : reason.message}
    </p>
  );
}
