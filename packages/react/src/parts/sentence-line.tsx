import type { ReactElement, ReactNode } from 'react';
import { formatText } from '../format/value.ts';
import { sentence, type Phrase } from '../sentence/sentence.ts';
import { useFixed } from './use-fixed.ts';
import { Pop } from './pop.tsx';
import { useCount, useModel } from './table-context.ts';

/** The view stated as one sentence; every phrase opens what changes it, and more can be added. */
export function SentenceLine(): ReactElement {
  const { view, table, column, reader, reading } = useModel();
  const { messages } = reader;
  const count = useCount();
  const phrases = sentence(view, table, {
    show: (value, of) => (of === undefined ? value : formatText(value, of, reader)),
    count,
    column,
    reading,
    messages,
    fixed: useFixed(),
  });
  const { editors } = messages;
  return (
    <p className="eph-sentence" data-testid="sentence">
      {phrases.map((phrase, index) => (
        <Unbroken key={index} comma={/^[,،]/.exec(phrases[index + 1]?.text ?? '')?.[0]}>
          <PhraseText phrase={{ ...phrase, text: phrase.text.replace(/^[,،]/, '') }} />
        </Unbroken>
      ))}
      .&ensp;
      <Pop className="eph-offer" text={editors.addCondition} label={editors.addCondition}>
        {({ ConditionOffer }, close) => <ConditionOffer done={close} />}
      </Pop>
      &ensp;
      <Pop className="eph-offer" text={editors.addSort} label={editors.addSort}>
        {({ SortOffer }, close) => <SortOffer done={close} />}
      </Pop>
      &ensp;
      <Pop className="eph-offer" text={editors.addGroup} label={editors.addGroup}>
        {({ GroupOffer }, close) => <GroupOffer done={close} />}
      </Pop>
    </p>
  );
}

interface UnbrokenProps {
  readonly comma: string | undefined;
  readonly children: ReactNode;
}

/** A comma stays with the phrase before it: between a button and text a line may break. */
function Unbroken({ comma, children }: UnbrokenProps): ReactNode {
  if (comma === undefined) return children;
  return (
    <span className="eph-unbroken">
      {children}
      {comma}
    </span>
  );
}

function PhraseText({ phrase }: { readonly phrase: Phrase }): ReactElement {
  const { reader } = useModel();
  const { editors } = reader.messages;
  if (!('part' in phrase)) {
    if (phrase.kind === 'table') return <strong>{phrase.text}</strong>;
    if (phrase.kind === 'plain') return <span>{phrase.text}</span>;
    return (
      <span className="eph-fixed" title={reader.messages.fixedCondition}>
        {phrase.text}
      </span>
    );
  }
  const labels = {
    condition: editors.conditionSheet,
    search: reader.messages.search,
    group: editors.levelSheet,
    aggregate: editors.sumSheet,
    sort: editors.sortSheet,
    reading: editors.readingSheet,
  };
  return (
    <Pop className="eph-phrase" text={phrase.text} label={labels[phrase.kind]}>
      {({ PartEditor }, close) => <PartEditor part={phrase.part} done={close} />}
    </Pop>
  );
}
