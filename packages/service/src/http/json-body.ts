import { inParameter, problem, type Problem } from '@ephoros/core/problem';
import { unknownParameter } from '@ephoros/core/query';
import type { z } from 'zod';
import { mostProblems, Refused } from '../query/index.ts';

/** A body of this form. @throws Refused with each member that is wrong */
export function readJsonBody<Body>(text: string, schema: z.ZodType<Body>): Body {
  let plain: unknown;
  try {
    plain = JSON.parse(text);
  } catch {
    throw new Refused([malformed('JSON')]);
  }
  const found = schema.safeParse(plain);
  if (found.success) return found.data;
  const known = Object.keys((schema as unknown as { shape: object }).shape);
  throw new Refused(
    found.error.issues.slice(0, mostProblems).flatMap((issue): readonly Problem[] => {
      if (issue.code === 'unrecognized_keys') {
        return issue.keys.map((name) => unknownParameter(name, known));
      }
      const place = issue.path
        .map((part, index) =>
          typeof part === 'number' ? `[${part}]` : `${index > 0 ? '.' : ''}${String(part)}`,
        )
        .join('');
      if (place === '') return [malformed('a JSON object')];
      return inParameter(place, [malformed(`right in ${place}: ${issue.message}`)]);
    }),
  );
}

export function malformed(expected: string): Problem {
  return problem('malformed-body', { expected });
}
