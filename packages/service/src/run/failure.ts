/**
 * Why a statement gave no rows. `away`: the database cannot be reached or is starting or
 * stopping. `time-limit`: it took too long. `cancelled`: the caller is gone. `changed`: a
 * table or column is no longer what the catalog stated. `refused-value`: a value that passed the
 * check cannot be computed with. `broken-table`: the table itself has such a value, whatever is
 * requested, as a view may. `mismatched`: types do not fit the statement, because a column
 * has another one by now or because the statement is wrong. `too-large`: more bytes than an answer may have. `full`: no connection
 * became free in time. `locked`: rows are being changed by somebody else for long. `no-space`: the server has no disk
 * space left. `temp-limit`: the statement needs more temporary space than it may have. `no-memory`: the server has no
 * memory left. `too-complex`: the statement is nested too deep for the server. `not-populated`: a materialized view was
 * never filled. `not-on-replica`: a table that a replica does not have.
 */
export type FailureKind =
  | 'unavailable'
  | 'time-limit'
  | 'cancelled'
  | 'changed'
  | 'mismatched'
  | 'refused-value'
  | 'broken-table'
  | 'too-large'
  | 'locked'
  | 'full'
  | 'no-space'
  | 'temp-limit'
  | 'no-memory'
  | 'too-complex'
  | 'not-populated'
  | 'not-on-replica'
  | 'unknown';

/** A failed statement. The cause is for logs only: it may hold values. */
export class Failure extends Error {
  readonly kind: FailureKind;

  constructor(kind: FailureKind, cause?: unknown) {
    super(`statement failed: ${kind}`, { cause });
    this.name = 'Failure';
    this.kind = kind;
  }

  /** Reads what `pg` threw (SQLSTATE classes: PostgreSQL manual, appendix A). */
  static from(thrown: unknown): Failure {
    if (thrown instanceof Failure) return thrown;
    const { code, message } = thrown as { code?: unknown; message?: unknown };
    const state = typeof code === 'string' ? code : '';
    const text = typeof message === 'string' ? message : '';
    // Of all that is not supported one thing says that a table has changed: what is prepared.
    if (state === '0A000' && text.includes('cached plan')) return new Failure('changed', thrown);
    if (state === '0A000' && text.includes('during recovery')) {
      return new Failure('not-on-replica', thrown);
    }
    if (state === '55000' && text.includes('populated'))
      return new Failure('not-populated', thrown);
    const known = byState[state];
    if (known !== undefined) return new Failure(known, thrown);
    if (network.has(state) || state.startsWith('08')) return new Failure('unavailable', thrown);
    if (state.startsWith('22')) return new Failure('refused-value', thrown);
    // pg reports these by their words alone.
    if (text.includes('timeout exceeded')) return new Failure('full', thrown);
    if (gone.test(text)) return new Failure('unavailable', thrown);
    return new Failure('unknown', thrown);
  }
}

const byState: Readonly<Record<string, FailureKind>> = {
  '57014': 'time-limit',
  '25P03': 'time-limit',
  '57P01': 'unavailable',
  '57P02': 'unavailable',
  '57P03': 'unavailable',
  '57P04': 'unavailable',
  '57P05': 'unavailable',
  '55P03': 'locked',
  '40001': 'locked',
  '40P01': 'locked',
  // A standby, as after a change of the leading server.
  '25006': 'unavailable',
  '53300': 'full',
  '53100': 'no-space',
  '53400': 'temp-limit',
  '53200': 'no-memory',
  '54001': 'too-complex',
  '42P01': 'changed',
  '42703': 'changed',
  '42501': 'changed',
  '3F000': 'changed',
  '42704': 'changed',
  '42883': 'mismatched',
  '42804': 'mismatched',
  '42P18': 'mismatched',
  '3D000': 'unavailable',
  '28000': 'unavailable',
  '28P01': 'unavailable',
};

/** What pg says of a connection that has ended under a statement, or just before it. */
const gone =
  /Connection terminated|Connection ended|is not queryable|after calling end|timeout expired/;

const network = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'ENOTFOUND',
  'ENOENT',
  'EPIPE',
  'ETIMEDOUT',
  'EHOSTUNREACH',
  'EAI_AGAIN',
]);
