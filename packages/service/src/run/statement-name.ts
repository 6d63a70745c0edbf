import { createHash } from 'node:crypto';
import type { Statement } from '@ephoros/core/sql';
import { LRUCache } from 'lru-cache';

/** Characters from which on a parameter is reported by its digest. */
const long = 2_000;

const digests = new LRUCache<string, string>({ max: 100 });

/** The same for statements that are the same; never much longer than what is queried. */
export function statementName({ text, parameters }: Statement): string {
  return `${text}\0${JSON.stringify(parameters.map(shortened))}`;
}

function shortened(parameter: Statement['parameters'][number]): unknown {
  if (typeof parameter !== 'string' || parameter.length < long) return parameter;
  const known = digests.get(parameter);
  if (known !== undefined) return { digest: known };
  const digest = createHash('sha256').update(parameter).digest('base64');
  digests.set(parameter, digest);
  return { digest };
}
