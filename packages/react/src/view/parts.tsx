import { useContext, type ReactElement } from 'react';
import { FootLine, HappensButton } from '../parts/foot-line.tsx';
import type { SavedViews } from '../saved-views/saved-views.ts';
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
import { ExportPart } from './export-part.tsx';

/** The view stated as one sentence, each phrase of which opens what changes it. */
export function Sentence(): ReactElement | null {
  return useSheet().known ? <SentenceLine /> : null;
}

/** The condition as text, the search, the columns; and what the table remarks on itself. */
export function Tools(): ReactElement | null {
  const { known, searchable, savedViews } = useSheet();
  const { description } = useRowsOf();
  if (!known) return null;
  return (
    <>
      <ToolLine searchable={searchable ?? (description?.search.length ?? 0) > 0}>
        {savedViews !== undefined && <SavedViewsPart {...savedViews} />}
      </ToolLine>
      {description?.remarks.map((remark) => (
        <p key={remark} className="eph-aside">
          <i>{remark}</i>
        </p>
      ))}
    </>
  );
}

/** Loaded with the first table that offers saved views. */
const savedViewsPart = new Later(() => import('../saved-views/index.ts'));

/** The saved view that is open; until that is loaded, what it will be called. */
function SavedViewsPart(props: SavedViews): ReactElement {
  const { messages } = useModel().reader;
  const words = useAnswer(messages.savedViews);
  const loaded = useLater(savedViewsPart, true);
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || words.state !== 'ready') {
    return <span className="eph-offer">{messages.views}</span>;
  }
  return <loaded.result.SavedViewsLine {...props} messages={words.result} />;
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
  const { visible, handle, instead, actions, refusal, requestLog, files } = useSheet();
  const model = useModel();
  const records = useRowsOf();
  const editing = useContext(EditingContext);
  // A query without the part that cannot be read is not the one that was meant, so nothing is said about it.
  if (model.problems.length > 0) {
    if (requestLog === undefined) return null;
    return (
      <footer className="eph-line">
        <HappensButton {...requestLog} />
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
      exporting={files && <ExportPart files={files} />}
      requestLog={requestLog}
    />
  );
}
