import { queryableRows, chosenQuery, type Client } from '@ephoros/client';
import { printExpression } from '@ephoros/core/expression';
import { InvalidArgumentError } from 'commander';
import { readFileSync } from 'node:fs';

/** Keys of one selection at most. */
const mostKeys = 1_000_000;

/** Rows by their keys, as a command is given them: each counted once. */
export interface GivenSelection {
  readonly keys: readonly string[];
}

/** The same as a condition of one question. */
export interface UsedSelection extends GivenSelection {
  /** CQL2 Text. */
  readonly condition: string;
  /** Has the service forget what it stored for it. */
  readonly forget: () => Promise<void>;
}

/**
 * Reads keys, a line each, as in the address of a row, from a file or, for `-`, from standard input.
 * Empty lines are none.
 */
export function readSelection(file: string): GivenSelection {
  let text: string;
  try {
    text = readFileSync(file === '-' ? 0 : file, 'utf8');
  } catch (thrown) {
    const { code } = thrown as { code?: string };
    const why = code === 'ENOENT' ? 'There is no such file' : `It cannot be read (${code ?? ''})`;
    throw new InvalidArgumentError(`${why}.`);
  }
  const lines = text.split(/\r?\n/).map((line) => line.trim());
  const keys = [...new Set(lines.filter((line) => line !== ''))];
  if (keys.length > mostKeys) {
    throw new InvalidArgumentError(
      `It holds ${keys.length} keys; a selection holds ${mostKeys} at most.`,
    );
  }
  return { keys };
}

/** A selection for one question; more keys than that has room for are stored by the service meanwhile. */
export async function useSelection(
  { keys }: GivenSelection,
  table: string,
  client: Pick<Client, 'selections'>,
): Promise<UsedSelection> {
  const rows = await queryableRows(client, table, { kind: 'keys', keys });
  const { filter } = chosenQuery(rows);
  const condition = typeof filter === 'object' ? printExpression(filter) : '';
  const forget = async (): Promise<void> => {
    if (rows.kind === 'stored') await client.selections.drop(rows.id);
  };
  return { keys, condition, forget };
}
