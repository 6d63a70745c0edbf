import { parseExpression, parseExpressionJson, type Expression } from '@ephoros/core/expression';
import { inParameter } from '@ephoros/core/problem';
import { parseSearch } from '@ephoros/core/query';
import { printKey } from '@ephoros/core/schema';
import { z } from 'zod';
import type { WantedSelection } from '../engine/index.ts';
import { Refused } from '../query/index.ts';
import type { KeyChange } from '../records/index.ts';
import { malformed, readJsonBody } from './json-body.ts';

const keys = z
  .array(z.array(z.union([z.string(), z.number(), z.boolean()])).min(1))
  .meta({ description: 'Keys of rows: each a list of texts, one for each column of the key.' });

const wanted = z
  .strictObject({
    table: z.string().meta({ description: 'The published name.' }),
    keys: keys.optional(),
    filter: z
      .union([z.string(), z.record(z.string(), z.unknown())])
      .optional()
      .meta({
        description: 'CQL2 Text or JSON: all rows that match are selected.',
      }),
    search: z.string().optional(),
    except: keys.optional().meta({ description: 'Of all that match these are left out.' }),
  })
  .meta({ id: 'NewSelection' });

const change = z
  .strictObject({ add: keys.optional(), remove: keys.optional() })
  .meta({ id: 'SelectionChange' });

/** What is sent about selections, for OpenAPI as well. */
export const selectionBodies = { wanted, change };

type Written = readonly (string | number | boolean)[];

/** A key as the address of its row has it. */
function spelled(key: Written): string {
  return printKey(key.map(String));
}

/** A selection that is to be made. @throws Refused */
export function readWantedSelection(text: string): WantedSelection {
  const body = readJsonBody(text, wanted);
  const { table, filter, search, except = [] } = body;
  const others = (['filter', 'search', 'except'] as const).filter(
    (name) => body[name] !== undefined,
  );
  if (body.keys !== undefined) {
    const [other] = others;
    if (other === undefined) return { table, keys: body.keys.map(spelled) };
    throw new Refused(inParameter(other, [malformed('absent where keys are given')]));
  }
  if (others.length === 0) {
    throw new Refused([malformed('one with keys, or with a filter, a search or exceptions')]);
  }
  const condition = filter === undefined ? undefined : conditionOf(filter);
  const terms = search === undefined ? [] : parseSearch(search);
  return {
    table,
    query: { ...(condition && { filter: condition }), ...(terms.length > 0 && { search: terms }) },
    except: except.map(spelled),
  };
}

/** What is to be changed of a selection. @throws Refused */
export function readKeyChange(text: string): KeyChange {
  const { add = [], remove = [] } = readJsonBody(text, change);
  return { add: add.map(spelled), remove: remove.map(spelled) };
}

function conditionOf(filter: string | Record<string, unknown>): Expression | undefined {
  if (typeof filter === 'string' && filter.trim() === '') return undefined;
  const parsed =
    typeof filter === 'string'
      ? parseExpression(filter)
      : parseExpressionJson(JSON.stringify(filter));
  if ('problems' in parsed) throw new Refused(inParameter('filter', parsed.problems));
  return parsed.expression;
}
