import { useContext, type ReactElement } from 'react';
import { FootLine, HappensButton } from '../parts/foot-line.tsx';
import type { KeptViews } from '../kept-views/kept-views.ts';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { noteInstead } from '../parts/notes.tsx';
import { SentenceLine } from '../parts/sentence-line.tsx';
import { useModel, useRowsOf } from '../parts/table-context.ts';
import { ToolLine } from '../parts/tool-line.tsx';
import { useAnswer } from '../use-answer.ts';
import { isOutline } from '../table/row-at.ts';
import { useSheet } from './sheet-context.ts';
import { EditingContext } from './edited-parts.tsx';
import { TakeOutPart } from './take-out-part.tsx';

/** The view said as one sentence, each phrase of which opens what changes it. */
export function Sentence(): ReactElement | null {
  return useSheet().known ? <SentenceLine /> : null;
}

/** The condition as text, the search, the columns; and what the table remarks on itself. */
export function Tools(): ReactElement | null {
  const { known, searchable, keptViews } = useSheet();
  const { description } = useRowsOf();
  if (!known) return null;
  return (
    <>
      <ToolLine searchable={searchable ?? (description?.search.length ?? 0) > 0}>
        {keptViews !== undefined && <KeptViewsPart {...keptViews} />}
      </ToolLine>
      {description?.remarks.map((remark) => (
        <p key={remark} className="eph-aside">
          <i>{remark}</i>
        </p>
      ))}
    </>
  );
}

/** Loaded with the first table that offers kept views. */
const keptViewsPart = new Later(() => import('../kept-views/index.ts'));

/** The kept view that is open; until that is loaded, what it will be called. */
function KeptViewsPart(props: KeptViews): ReactElement {
  const { messages } = useModel().reader;
  const said = useAnswer(messages.keptViews);
  const loaded = useLater(keptViewsPart, true);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || said.state !== 'ready') {
    return <span className="eph-offer">{messages.views}</span>;
  }
  return <loaded.result.KeptViewsLine {...props} said={said.result} />;
}

/** Loaded with the first grouping that is shown. */
const line = new Later(() => import('../levels/levels-line.tsx'));

/** The levels of a grouping, to be added, moved and removed; nothing where there is none. */
export function Levels(): ReactElement | null {
  const { source } = useRowsOf();
  const { drawn } = useSheet();
  const grouped = isOutline(source);
  const loaded = useLater(line, grouped);
  if (!grouped) return null;
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading') return null;
  return <loaded.result.LevelsLine source={source} labels={drawn.levels} />;
}

interface FootProps {
  /** Whether it says how the rows are read, where no sentence does. */
  readonly sayReading?: boolean;
}

/** Which rows are in view of how many, what went wrong, what is selected, the way to others. */
export function Foot({ sayReading = false }: FootProps): ReactElement | null {
  const { visible, handle, instead, actions, refusal, happened, files } = useSheet();
  const model = useModel();
  const records = useRowsOf();
  const editing = useContext(EditingContext);
  // What is asked without the part that cannot be read is not what is meant: nothing is said of it.
  if (model.problems.length > 0) {
    if (happened === undefined) return null;
    return (
      <footer className="eph-line">
        <HappensButton {...happened} />
      </footer>
    );
  }
  const quiet = noteInstead(records, model, instead) !== undefined;
  const goTo = (row: number): void => handle.current?.goTo(row);
  return (
    <FootLine
      visible={visible}
      quiet={quiet}
      goTo={goTo}
      sayReading={sayReading}
      actions={actions}
      refusal={refusal}
      drafts={editing?.line}
      takingOut={files && <TakeOutPart files={files} />}
      happened={happened}
    />
  );
}
