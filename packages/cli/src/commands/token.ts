import type { StoredToken } from '@ephoros/service';
import { Command, InvalidArgumentError } from 'commander';
import { InputError } from '../input-error.ts';
import { plain, plainJson } from '../output/plain.ts';
import { drawTable } from '../output/table.ts';
import type { Terminal } from '../terminal.ts';
import { withClaim, withNames, type GivenClaims } from './claims.ts';
import { part } from './parts.ts';
import { recordsUrl, withRecords, type RecordsChoice } from './records-url.ts';

interface Options extends RecordsChoice {
  readonly json?: boolean;
}

interface AddOptions extends Options {
  readonly role?: readonly string[];
  readonly claim?: GivenClaims;
  readonly expires: number;
}

const hour = 3_600_000;
const day = 24 * hour;
const units: Readonly<Record<string, number>> = { h: hour, d: day, w: 7 * day };

/** Ms of a time such as 90d; without an end for "never". */
function duration(text: string): number {
  if (text === 'never') return Infinity;
  const [, number, unit = ''] = /^(\d{1,4})([hdw])$/.exec(text) ?? [];
  const ms = Number(number) * (units[unit] ?? NaN);
  if (ms > 0) return ms;
  throw new InvalidArgumentError('Expected such as 12h, 90d, 4w, or never.');
}

/** `ephoros token` */
export function tokenCommand(terminal: Terminal): Command {
  const command = new Command('token')
    .description('manage API tokens: add, list, revoke')
    .addHelpText(
      'after',
      `
Examples:
  ephoros token add crane --role keeper --claim lock=7 --expires 90d
  ephoros token list
  ephoros token revoke crane

"add" shows a token once; the records store a hash of it. The service accepts tokens with
signIn: [{ kind: tokens }] in its configuration. Send a token as "Authorization: Bearer …";
these commands read it from EPHOROS_TOKEN.`,
    );
  for (const make of [add, list, revoke]) command.addCommand(make(terminal));
  return command;
}

function add(terminal: Terminal): Command {
  return withRecords(new Command('add'))
    .description('create a token and print it once')
    .argument('<name>', 'name of the caller, shown in the history')
    .option('--role <names>', 'roles, separated by commas; repeatable', withNames)
    .option(
      '--claim <name=value>',
      'a value for the rules of rows; may be given more than once',
      withClaim,
    )
    .option('--expires <time>', 'when it ends by itself: 12h, 90d, 4w, never', duration, 90 * day)
    .option('--json', 'print JSON')
    .action(async (name: string, options: AddOptions, command: Command) => {
      const { role = [], claim = {}, expires, json } = options;
      const expiresAt = expires === Infinity ? undefined : new Date(Date.now() + expires);
      await withTokens(options, terminal, command, async (tokens) => {
        const made = await tokens.add({ name, roles: role, claims: claim, expiresAt });
        if (json === true) {
          const { token, text } = made;
          writeJson(terminal, { token: text, ...plainToken(token) });
          return;
        }
        terminal.stdout.write(`${made.text}\n`);
        const until =
          expiresAt === undefined ? 'until it is revoked' : `until ${minute(expiresAt)}`;
        terminal.stderr.write(`It counts ${until}, and is not shown again.\n`);
      });
    });
}

function list(terminal: Terminal): Command {
  return withRecords(new Command('list'))
    .description('list valid tokens')
    .option('--all', 'include expired and revoked tokens')
    .option('--json', 'print JSON')
    .action(async (options: Options & { readonly all?: boolean }, command: Command) => {
      await withTokens(options, terminal, command, async (tokens) => {
        const found = await tokens.list(options.all === true);
        if (options.json === true) {
          writeJson(terminal, found.map(plainToken));
          return;
        }
        const columns = ['Name', 'Id', 'Roles', 'Claims', 'Ends', 'Used'].map((label) => ({
          name: label,
          label,
          right: false,
        }));
        terminal.stdout.write(drawTable(columns, found.map(line), terminal));
      });
    });
}

function revoke(terminal: Terminal): Command {
  return withRecords(new Command('revoke'))
    .description('revoke a token, or all tokens of a name')
    .argument('<name>', 'name or id')
    .option('--json', 'print JSON')
    .action(async (name: string, options: Options, command: Command) => {
      await withTokens(options, terminal, command, async (tokens) => {
        // Sessions that were begun by it end with it, and tokens of programs that were let in during those.
        const ended = await tokens.revoke(name);
        const { length } = ended.tokens;
        if (length === 0) throw new InputError(`ephoros: no token counts by ${plain(name)}`);
        if (options.json === true) writeJson(terminal, ended.tokens.map(plainToken));
        else {
          const sessions = ended.sessions.length;
          const also =
            sessions === 0 ? '' : `, ${sessions} ${sessions === 1 ? 'session' : 'sessions'} ended`;
          terminal.stdout.write(`${length} revoked${also}\n`);
        }
      });
    });
}

type Service = typeof import('@ephoros/service');

async function withTokens(
  options: Options,
  terminal: Terminal,
  command: Command,
  work: (tokens: InstanceType<Service['Tokens']>) => Promise<void>,
): Promise<void> {
  const url = recordsUrl(options, terminal, command);
  if (url === undefined) command.error('error: give --records, or set EPHOROS_RECORDS');
  const { Records, Tokens } = await part('@ephoros/service', () => import('@ephoros/service'));
  const records = new Records(url);
  try {
    await work(new Tokens(records));
  } finally {
    await records.close();
  }
}

function plainToken(token: StoredToken): object {
  const { id, name, roles, claims, createdAt, expiresAt, revokedAt, usedAt } = token;
  const times = { createdAt, expiresAt, revokedAt, usedAt };
  return {
    id,
    name,
    roles,
    claims,
    ...Object.fromEntries(
      Object.entries(times).map(([key, time]) => [key, time?.toISOString() ?? null]),
    ),
  };
}

function line({
  name,
  id,
  roles,
  claims,
  expiresAt,
  revokedAt,
  usedAt,
}: StoredToken): Record<string, string> {
  const ends = revokedAt ?? expiresAt;
  return {
    Name: name,
    Id: id,
    Roles: roles.join(', '),
    Claims: Object.entries(claims)
      .map(([claim, value]) => `${claim}=${JSON.stringify(value)}`)
      .join(' '),
    Ends:
      revokedAt !== undefined
        ? `revoked ${minute(revokedAt)}`
        : ends === undefined
          ? 'never'
          : minute(ends),
    Used: usedAt === undefined ? 'never' : minute(usedAt),
  };
}

function minute(time: Date): string {
  return time.toISOString().slice(0, 16).replace('T', ' ');
}

function writeJson({ stdout }: Terminal, value: unknown): void {
  stdout.write(`${plainJson(JSON.stringify(value, null, 2))}\n`);
}
