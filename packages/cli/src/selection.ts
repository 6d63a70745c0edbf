import { selectedKeys } from '@ephoros/client';
import { mostSelected, printExpression } from '@ephoros/core/expression';
import { InvalidArgumentError } from 'commander';
import { readFileSync } from 'node:fs';

/** Rows by their keys, as a command is given them. */
export interface GivenSelection {
  /** How many keys, each counted once. */
  readonly keys: number;
  /** CQL2 Text. */
  readonly condition: string;
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
  if (keys.length > mostSelected) {
    throw new InvalidArgumentError(
      `It holds ${keys.length} keys; a selection holds ${mostSelected} at most.`,
    );
  }
  return { keys: keys.length, condition: printExpression(selectedKeys(keys)) };
}
