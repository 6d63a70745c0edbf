import { z } from 'zod';

const key = z.array(z.string());

/** What a trigger says of one statement: of which table, what it did, to which rows. */
const payload = z.object({
  /** Schema and name, with a dot between them. */
  table: z.string(),
  did: z.enum(['add', 'change', 'remove']),
  /** Absent where they are too many. */
  keys: z.array(key).optional(),
});

export type Notice = z.infer<typeof payload>;

/** Reads what a trigger has sent; undefined for what somebody else has. */
export function readNotice(text: string): Notice | undefined {
  try {
    return payload.parse(JSON.parse(text));
  } catch {
    return undefined;
  }
}
