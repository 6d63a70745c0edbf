import { catalogOf, countExactly, keyOfRow, type Row } from '@ephoros/client';
import { and, compare, property, type Expression } from '@ephoros/core/expression';
import { literal } from '@ephoros/core/query';
import { shownNames, type Relationship, type TableDescription } from '@ephoros/core/schema';
import { useCallback, useId, useMemo, useState, type ReactElement } from 'react';
import { Unanswered } from '../editors/unanswered.tsx';
import { plainText } from '../format/value.ts';
import { useCounted } from '../parts/use-counted.ts';
import { useAnswer } from '../use-answer.ts';
import type { CardContent } from './card-content.ts';
import { SmallTable } from './small-table.tsx';

/** The rows that refer to a row, by table: how many, and which. */
export function ReferringRows(content: CardContent): ReactElement | null {
  const { read, card } = content;
  const id = useId();
  const steps = read.table.relationships.filter(({ kind }) => kind === 'many');
  if (steps.length === 0) return null;
  return (
    <section className="eph-card-section" aria-labelledby={id}>
      <h3 id={id}>{card.referring}</h3>
      {steps.map((step) => (
        <Referring key={step.name} {...content} step={step} />
      ))}
    </section>
  );
}

interface ReferringProps extends CardContent {
  readonly step: Relationship;
}

const span = { start: 0, end: 0 };

function Referring(props: ReferringProps): ReactElement {
  const { client, read, reader, card, addressOf, go, step } = props;
  const [open, setOpen] = useState(false);
  const { table } = step;
  const { table: from, row } = read;
  const filter = useMemo(() => conditionOf(step, from, row), [step, from, row]);
  const request = useCallback(
    async (signal: AbortSignal) => {
      const other = await catalogOf(client).describe(table);
      if (filter === undefined) return { other, count: 0, kind: 'exact' as const };
      const [column] = other.key.length > 0 ? other.key : other.columns.map(({ name }) => name);
      const { window } = await client.rows(
        table,
        {
          filter,
          limit: 1,
          total: 'exact',
          ...(column === undefined ? {} : { columns: [{ name: column, span }] }),
        },
        signal,
      );
      return { other, count: window.total, kind: window.totalKind };
    },
    [client, table, filter],
  );
  const answer = useAnswer(request);
  const query = useMemo(() => (filter === undefined ? {} : { filter }), [filter]);
  // An estimate stands there until they are counted.
  const isNear = answer.state === 'ready' && answer.result.kind !== 'exact';
  const counting = useCallback(
    (signal: AbortSignal) =>
      countExactly((wanted, until) => client.rows(table, wanted, until), query, signal),
    [client, table, query],
  );
  const counts = useAnswer(isNear ? counting : undefined);
  const exact = counts.state === 'ready' ? counts.result : undefined;
  const counted = useCounted();
  const names = useMemo(() => {
    if (answer.state !== 'ready') return [];
    const { columns } = answer.result.other;
    // Which row they refer to is shown already.
    const own = new Set(
      columns
        .filter(({ name }) => step.references.includes(name))
        .map(({ name, shownAs = name }) => shownAs),
    );
    return shownNames({ columns }).filter((name) => !own.has(name));
  }, [answer, step]);
  if (answer.state !== 'ready')
    return <Unanswered answer={answer} what={reader.messages.loading} />;
  const { other, count, kind } = answer.result;
  const message = counted(exact ?? count ?? undefined, exact === undefined ? kind : 'exact');
  const several = read.table.relationships.filter(
    (one) => one.kind === 'many' && one.table === table,
  );
  const title = several.length > 1 ? `${other.title} (${step.references.join(', ')})` : other.title;
  const href = filter && addressOf?.({ table, query: { filter } });
  const { key } = other;
  return (
    <details
      className="eph-referring"
      open={open}
      onToggle={({ currentTarget }) => setOpen(currentTarget.open)}
    >
      <summary>
        {title} <span className="eph-count">{message}</span>
      </summary>
      {open && count !== 0 && filter !== undefined && (
        <>
          <SmallTable
            client={client}
            table={table}
            title={title}
            query={query}
            columns={names}
            reader={reader}
            open={(row) => {
              const to = keyOfRow(row, key);
              if (to !== undefined) go({ table, key: to });
            }}
          />
          {href !== undefined && (
            <a className="eph-offer" href={href}>
              {card.openAll(other.title)}
            </a>
          )}
        </>
      )}
    </details>
  );
}

/** The rows that refer to a row; undefined where none can. */
function conditionOf(
  { columns, references }: Relationship,
  table: TableDescription,
  row: Row,
): Expression | undefined {
  const terms = columns.flatMap((name, index): readonly Expression[] => {
    const value = row[name] ?? null;
    const column = table.columns.find((one) => one.name === name);
    const reference = references[index];
    if (value === null || column === undefined || reference === undefined) return [];
    return [compare(property(reference), '=', literal(plainText(value), column))];
  });
  return terms.length < columns.length ? undefined : and(terms);
}
