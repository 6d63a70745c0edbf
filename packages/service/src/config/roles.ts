import { z } from 'zod';

const columnName = z.string().min(1).meta({ description: "The column's published name." });

/** A value of the caller's in a row rule: `{claims.lock}`, `{caller}`. */
const placeholder = /'(?:[^']|'')*'|"(?:[^"]|"")*"|\{([^{}]*)\}/g;

/** The parts of a row rule: its own text, and the names of what of the caller stands between. */
export function partsOfRule(rule: string): {
  readonly texts: readonly string[];
  readonly names: readonly string[];
} {
  const texts: string[] = [];
  const names: string[] = [];
  let from = 0;
  for (const { 0: found, 1: name, index } of rule.matchAll(placeholder)) {
    if (name === undefined) continue;
    texts.push(rule.slice(from, index));
    names.push(name.trim());
    from = index + found.length;
  }
  return { texts: [...texts, rule.slice(from)], names };
}

const isKnown = (name: string): boolean => name === 'caller' || /^claims\../.test(name);

const rows = z
  .string()
  .min(1)
  .superRefine((rule, context) => {
    const { names, texts } = partsOfRule(rule);
    const wrong = names.filter((name) => !isKnown(name));
    for (const name of wrong) {
      context.addIssue({
        code: 'custom',
        message: `{${name}} is nothing of the caller's; {claims.lock} or {caller} would be`,
      });
    }
    if (/'[^']*\{(?:claims\.|caller\})/.test(texts.join(''))) {
      context.addIssue({
        code: 'custom',
        message: 'a value of the caller’s stands without quotes: lock = {claims.lock}',
      });
    }
  })
  .meta({
    description:
      'Which rows, in the filter language, with values of the caller’s: "lock_id = {claims.lock}". Without such a value the role shows none of the table.',
  });

const changes = z.strictObject({
  add: z.boolean().optional(),
  change: z.union([z.boolean(), z.array(columnName)]).optional(),
  remove: z.boolean().optional(),
});

const part = z.strictObject({
  rows: rows.optional(),
  columns: z.array(columnName).min(1).optional().meta({ description: 'The only columns.' }),
  hidden: z.array(columnName).min(1).optional().meta({ description: 'All columns but these.' }),
  changes: z
    .union([z.literal(true), changes])
    .optional()
    .meta({
      description: 'What may be changed, of what the table lets change; nothing by default.',
    }),
});

const role = z.strictObject({
  tables: z
    .union([z.literal('all'), z.record(z.string().min(1), z.union([z.boolean(), part]))])
    .meta({
      description:
        'What is shown, by published name: { locks: true, passages: { rows: "lock_id = {claims.lock}" } }; or "all".',
    }),
  changes: z.boolean().optional().meta({
    description: 'Whether tables that are shown whole may be changed, as far as each lets that.',
  }),
  exports: z.boolean().optional().meta({ description: 'Whether rows may be taken out as files.' }),
  explanations: z.boolean().optional().meta({
    description: 'Whether a caller who sees every table whole may ask how an answer came about.',
  }),
  views: z
    .union([z.boolean(), z.literal('open')])
    .optional()
    .meta({
      description: 'Whether views may be saved; "open": those that others share may be opened.',
    }),
  metrics: z.boolean().optional().meta({ description: 'Whether /metrics may be read.' }),
});

/** What callers may, by their roles; what no role of a caller allows is refused. */
export const roles = z.record(z.string().min(1).max(100), role).meta({
  description:
    'What callers see and may do, by their roles, which add up. Without it everybody who is signed in may all that the service lets anybody.',
});

export type RolesConfiguration = z.infer<typeof roles>;
export type RoleConfiguration = RolesConfiguration[string];
