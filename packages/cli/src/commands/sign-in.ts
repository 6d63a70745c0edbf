import { spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { CallerAnswer } from '@ephoros/core/answer';
import password from '@inquirer/password';
import { Command } from 'commander';
import { InputError } from '../input-error.ts';
import { forgetToken, storeToken, storedToken } from '../stored-tokens.ts';
import { plain } from '../output/plain.ts';
import type { Terminal } from '../terminal.ts';
import { urlOption } from './options.ts';

interface Options {
  readonly url: string;
  readonly token?: boolean;
  readonly browser: boolean;
}

/** Ms that somebody may take at the browser. */
const waitLimit = 5 * 60_000;

/** `ephoros sign-in` */
export function signInCommand(terminal: Terminal): Command {
  return new Command('sign-in')
    .description('sign in with a browser')
    .addOption(urlOption(terminal))
    .option('--token', 'use a token (prompt or standard input) instead of a browser')
    .option('--no-browser', 'print the URL, but open no browser')
    .addHelpText(
      'after',
      `
Examples:
  ephoros sign-in
  ephoros sign-in --url https://desk.example.com
  ephoros sign-in --token < token.txt

The token is stored in ~/.config/ephoros/tokens.json, which only you can read. EPHOROS_TOKEN has priority.
ephoros sign-out deletes it.`,
    )
    .action(async ({ url, token: asksToken, browser }: Options) => {
      const token = asksToken === true ? await typed() : await byBrowser(url, terminal, browser);
      const caller = await callerOf(url, token);
      storeToken(url, token, terminal.environment);
      const until = caller.expiresAt === null ? '' : ` until ${minute(caller.expiresAt)}`;
      terminal.stdout.write(
        `You are signed in as ${plain(caller.title ?? caller.name ?? '')}${until}.\n`,
      );
    });
}

/** `ephoros sign-out` */
export function signOutCommand(terminal: Terminal): Command {
  return new Command('sign-out')
    .description('sign out of a service')
    .addOption(urlOption(terminal))
    .action(async ({ url }: Pick<Options, 'url'>) => {
      const token = storedToken(url, terminal.environment);
      if (token === undefined)
        throw new InputError(`ephoros: nobody is signed in at ${plain(url)}`);
      forgetToken(url, terminal.environment);
      await pending(url, '/sign-out', { method: 'POST', headers: bearer(token) });
      terminal.stdout.write('You are signed out.\n');
    });
}

async function typed(): Promise<string> {
  if (process.stdin.isTTY) return password({ message: 'Token' }, { output: process.stderr });
  let text = '';
  for await (const part of process.stdin) text += String(part);
  return text.trim();
}

/** Waits at a port of its own for what the browser is given, and exchanges that for a token. */
async function byBrowser(url: string, { stderr }: Terminal, opens: boolean): Promise<string> {
  await refuseWithoutWays(url);
  const verifier = randomBytes(32).toString('base64url');
  const state = randomBytes(16).toString('base64url');
  const challenge = createHash('sha256').update(verifier).digest('base64url');
  const { port, code, close } = await waiting(state);
  try {
    const address = new URL('/sign-in/program', url);
    address.search = new URLSearchParams({ port: String(port), challenge, state }).toString();
    stderr.write(`Open this in a browser on this machine:\n  ${address.href}\n`);
    if (opens) open(address.href);
    const exchanged = await pending(url, '/sign-in/program/token', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ code: await code, verifier }),
    });
    return ((await exchanged.json()) as { token: string }).token;
  } finally {
    close();
  }
}

async function refuseWithoutWays(url: string): Promise<void> {
  const { ways } = (await (await pending(url, '/sign-in/ways')).json()) as {
    ways: { kind: string }[];
  };
  if (ways.some(({ kind }) => kind === 'token')) return;
  throw new InputError(
    'ephoros: this service takes no tokens that it gives out itself. Send what it takes: EPHOROS_TOKEN, or --header.',
  );
}

/** Listens on loopback for a browser that comes back with this state. */
async function waiting(
  state: string,
): Promise<{ readonly port: number; readonly code: Promise<string>; readonly close: () => void }> {
  let take: (code: string) => void = () => undefined;
  let give: (error: Error) => void = () => undefined;
  const code = new Promise<string>((resolve, reject) => {
    take = resolve;
    give = reject;
  });
  const server = createServer((request, response) => {
    const { searchParams } = new URL(request.url ?? '/', 'http://here');
    const found = searchParams.get('code');
    const isOurs = found !== null && searchParams.get('state') === state;
    response.writeHead(isOurs ? 200 : 400, {
      'Content-Type': 'text/plain; charset=utf-8',
      'Cache-Control': 'no-store',
      Connection: 'close',
    });
    response.end(isOurs ? 'You are signed in. This page can be closed.\n' : 'Nothing is here.\n');
    if (isOurs) take(found);
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(0, '127.0.0.1', resolve);
  });
  const late = setTimeout(
    () => give(new InputError('ephoros: nobody came back from the browser within five minutes')),
    waitLimit,
  );
  return {
    port: (server.address() as AddressInfo).port,
    code,
    close: () => {
      clearTimeout(late);
      server.close();
    },
  };
}

/** Where there is no browser to be opened, the address stands on the terminal. */
function open(address: string): void {
  const program = process.platform === 'darwin' ? 'open' : 'xdg-open';
  const child = spawn(program, [address], { stdio: 'ignore', detached: true });
  child.on('error', () => undefined);
  child.unref();
}

async function callerOf(url: string, token: string): Promise<CallerAnswer> {
  const response = await pending(url, '/api/caller', { headers: bearer(token) });
  return (await response.json()) as CallerAnswer;
}

function bearer(token: string): Record<string, string> {
  return { Authorization: `Bearer ${token}` };
}

/** @throws InputError with what the service says, where it refuses; Error where it is away */
async function pending(url: string, path: string, options: RequestInit = {}): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(new URL(path, url), options);
  } catch (cause) {
    throw new UnavailableError(url, cause);
  }
  if (response.ok) return response;
  const { detail } = (await response.json().catch(() => ({}))) as { detail?: string };
  const text =
    response.status === 404 ? 'nobody signs in at this service' : (detail ?? 'it was refused');
  throw new InputError(`ephoros: ${plain(text)}`);
}

class UnavailableError extends Error {
  readonly exitCode = 4;
  override readonly name = 'InputError';

  constructor(url: string, cause: unknown) {
    super(`ephoros: no service answers at ${plain(url)}.`, { cause });
  }
}

function minute(time: string): string {
  return time.slice(0, 16).replace('T', ' ');
}
