import { useEffect, useState, type ReactElement } from 'react';
import { Later, useLater } from '../later.ts';
import { LoadFailure } from '../parts/load-failure.tsx';
import { useModel } from '../parts/table-context.ts';
import type { TableColumn } from '../table/column.ts';
import { useAnswer } from '../use-answer.ts';

/** Loaded when something is first printed. */
const printing = new Later(() => import('../print/index.ts'));

interface PrintPartProps {
  readonly columns: readonly TableColumn[];
  /** The rows in view are looked at again. */
  readonly after: () => void;
}

/** Prints the whole result by the keys that print a page. */
export function PrintPart({ columns, after }: PrintPartProps): ReactElement | null {
  const { messages } = useModel().reader;
  const [wanted, setWanted] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      if (event.key.toLowerCase() !== 'p' || !(event.ctrlKey || event.metaKey) || event.shiftKey) {
        return;
      }
      event.preventDefault();
      setWanted(true);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
  const loaded = useLater(printing, wanted);
  const words = useAnswer(wanted ? messages.printing : undefined);
  if (!wanted) return null;
  if (loaded.state === 'failed') return <LoadFailure retry={loaded.retry} />;
  if (loaded.state === 'loading' || words.state !== 'ready') return null;
  return (
    <loaded.result.PrintSheet
      columns={columns}
      messages={words.result}
      done={() => {
        setWanted(false);
        after();
      }}
    />
  );
}
