import { isNumeric, mostPaintRules } from '@ephoros/core/schema';
import type { PaintRule } from '@ephoros/core/view';
import { useState, type ReactElement } from 'react';
import type { LayoutMessages } from '../messages/layout-messages.ts';
import { unfitReason } from '../paint/painter.ts';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { MeasureFields, ToneFields } from './paint-fields.tsx';

/** The rules that rows and cells are painted by. */
export function PaintEditor({ messages }: { readonly messages: LayoutMessages }): ReactElement {
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
      <h2 className="eph-list-title">{messages.paint}</h2>
      {rules.length > 1 && <p className="eph-aside">{messages.paintHint}</p>}
      <ol className="eph-plain-list">
        {rules.map((rule, index) => (
          // Rules have no name but their place.
          <li key={index} className="eph-rule">
            {rule.kind === 'tone' ? (
              <ToneFields rule={rule} messages={messages} put={(next) => replace(index, next)} />
            ) : (
              <MeasureFields
                rule={rule}
                messages={messages}
                numbers={numbers}
                put={(next) => replace(index, next)}
              />
            )}
            <button
              type="button"
              className="eph-drop"
              aria-label={messages.dropRule(String(index + 1))}
              onClick={() => replace(index, undefined)}
            >
              ×
            </button>
            <Unfit rule={rule} messages={messages} />
          </li>
        ))}
        {adding && (
          <li className="eph-rule">
            <ToneFields
              rule={undefined}
              messages={messages}
              put={(rule) => {
                put([...rules, rule]);
                setAdding(false);
              }}
            />
            <button
              type="button"
              className="eph-drop"
              aria-label={messages.dropRule(String(rules.length + 1))}
              onClick={() => setAdding(false)}
            >
              ×
            </button>
          </li>
        )}
      </ol>
      <div className="eph-actions">
        <button
          type="button"
          className="eph-offer"
          disabled={isFull || adding}
          onClick={() => setAdding(true)}
        >
          {messages.addTone}
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
              {kind === 'bar' ? messages.addBar : messages.addScale}
            </button>
          ))}
        {view.paint !== undefined && table.paint !== undefined && (
          <button type="button" className="eph-offer" onClick={() => change({ paint: undefined })}>
            {messages.ownPaint}
          </button>
        )}
      </div>
    </section>
  );
}

interface UnfitProps {
  readonly rule: PaintRule;
  readonly messages: LayoutMessages;
}

/** Why a rule paints nothing. */
function Unfit({ rule, messages }: UnfitProps): ReactElement | null {
  const { table, column } = useModel();
  const reason = unfitReason(rule, table, column);
  if (reason === undefined) return null;
  return (
    <p role="alert" className="eph-trouble">
      {typeof reason === 'string' ? messages.unfit[reason] : reason.message}
    </p>
  );
}
