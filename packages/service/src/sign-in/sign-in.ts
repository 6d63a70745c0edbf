import { createHash } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  partsOfRule,
  senderOf,
  type Configuration,
  type SignInConfiguration,
} from '../config/index.ts';
import {
  Attempts,
  CodeUsed,
  isInForce,
  isOwnToken,
  SignIns,
  Tokens,
  type StoredSignIn,
  type StoredToken,
  type Records,
} from '../records/index.ts';
import { SignedTokens } from './jwt.ts';
import { OpenIdWay } from './openid.ts';
import { claimAt, type Claims, type Principal } from './principal.ts';
import { ProxyHeader } from './proxy.ts';
import { SignInUnavailable, SignInRefused, TooManyAttempts } from './refusals.ts';
import { Remembered } from './remembered.ts';
import { SealedCookies, type OnTheWay } from './session-cookie.ts';

/** A way of signing in as a page offers it. */
export interface OfferedWay {
  readonly kind: 'openid' | 'token';
  readonly label: string;
  /** Where a browser goes to, or where the token is sent. */
  readonly path: string;
}

export interface SignInOptions {
  readonly configuration: Configuration & { readonly signIn: SignInConfiguration };
  /** Undefined where nothing is stored: then there are neither own tokens nor sessions. */
  readonly records: Records | undefined;
  readonly now?: () => number;
  /** The address that a request came from, as far as proxies are believed. */
  readonly addressOf: (request: IncomingMessage) => string;
  /** Counts what did not hold for all processes of the service; with records it is counted there. */
  readonly attempts?: RateCounters | undefined;
  /** Called when somebody signs in or out, and when that fails. */
  readonly onEvent?: ((event: SignInEvent) => void) | undefined;
}

/** Something to be written down. */
export interface SignInEvent {
  readonly event: 'signed in' | 'signed out' | 'refused' | 'program let in' | 'token ended';
  /** Undefined where nobody is known. */
  readonly caller?: string;
  readonly address: string;
}

const defaultHours = 8;
/** Ms that a program may take to exchange what it was given. */
const exchangedWithin = 60_000;
/** Ms that somebody may take at the provider. */
const onTheWayFor = 10 * 60_000;
/** Refused tokens of one address in a minute, beyond which it has to wait. Valid tokens are let in all the same. */
const mostAttempts = 30;
/** Ms within which they are counted. */
const attemptsWithin = 60_000;

/** Counts for all processes of a service; `left` is negative once there are too many. */
interface RateCounters {
  take(name: string): Promise<readonly { readonly left: number; readonly seconds: number }[]>;
}

/** What is counted of sign-ins that failed, where there are no records to count in. */
export const attemptBounds = { seconds: attemptsWithin / 1000, requests: mostAttempts } as const;

/** Who is requesting, by every way that the configuration names. */
export class SignIn {
  /** Cookies and their key; undefined where nothing is stored. */
  private readonly cookies: SealedCookies | undefined;
  private readonly ways: SignInConfiguration;
  private readonly signed: SignedTokens;
  private readonly proxies: readonly ProxyHeader[];
  private readonly openids: readonly OpenIdWay[];
  private readonly tokens: Tokens | undefined;
  private readonly signIns: SignIns | undefined;
  private readonly knownTokens: Remembered<StoredToken>;
  private readonly knownSessions: Remembered<StoredSignIn>;
  private readonly attempts: Attempts | undefined;
  private readonly options: SignInOptions;
  private readonly now: () => number;
  /** The claims that rules use: nothing else of them stays with a session. */
  private readonly claims: readonly string[];

  constructor(options: SignInOptions) {
    const { configuration, records, now = Date.now } = options;
    const { signIn: ways, address } = configuration;
    this.options = options;
    this.now = now;
    this.ways = ways;
    this.signed = new SignedTokens(ofKind(ways, 'jwt'));
    this.proxies = ofKind(ways, 'proxy').map((way) => new ProxyHeader(way));
    this.openids = ofKind(ways, 'openid').map((way) => new OpenIdWay(way));
    this.tokens = records && new Tokens(records, now);
    this.signIns = records && new SignIns(records, now);
    this.attempts = records && new Attempts(records, attemptsWithin, now);
    const { signIns } = this;
    this.cookies =
      signIns &&
      new SealedCookies(() => signIns.secret(), {
        secure: address?.startsWith('https:') === true,
        now,
      });
    this.knownTokens = new Remembered(async (text) => this.tokens?.find(text), now);
    this.knownSessions = new Remembered(async (id) => this.signIns?.find(id), now);
    this.claims = claimsOfRules(configuration);
  }

  /**
   * Who sends a request; undefined where it says nothing of that.
   * @throws SignInRefused, SignInAway, TooManyAttempts
   */
  async identify(request: IncomingMessage): Promise<Principal | undefined> {
    const token = bearerOf(request);
    if (token !== undefined) return this.ofToken(token, request);
    for (const proxy of this.proxies) {
      const found = proxy.read(request);
      if (found !== undefined) return found;
    }
    return this.ofSession(request);
  }

  /** The ways that a page offers. */
  offered(): readonly OfferedWay[] {
    const providers = this.openids.map(({ way }, index) => ({
      kind: 'openid' as const,
      label: way.label ?? new URL(way.issuer).hostname,
      path: `/sign-in/at/${index}`,
    }));
    const takesTokens = this.takesTokens() && this.cookies !== undefined;
    return [
      ...providers,
      ...(takesTokens
        ? [{ kind: 'token' as const, label: 'A token', path: '/sign-in/token' }]
        : []),
    ];
  }

  /** Sends a browser to a provider; undefined where there is none of this number. @throws SignInAway */
  async toProvider(
    number: number,
    { redirect, back }: { readonly redirect: string; readonly back: string },
    response: ServerResponse,
  ): Promise<URL | undefined> {
    const openid = this.openids[number];
    if (openid === undefined || this.cookies === undefined) return undefined;
    const { url, begun } = await openid.begin(redirect);
    const remembered: OnTheWay = { ...begun, back, way: number };
    await this.cookies.give('way', response, remembered, new Date(this.now() + onTheWayFor));
    return url;
  }

  /** Takes somebody in who comes back from a provider; gives where they wanted to go. @throws SignInRefused, SignInAway */
  async fromProvider(
    url: URL,
    request: IncomingMessage,
    response: ServerResponse,
  ): Promise<string> {
    const remembered = await this.cookies?.read('way', request);
    const openid = this.openids[remembered?.way ?? -1];
    if (remembered === undefined || openid === undefined) {
      throw new SignInRefused(
        'This sign-in was not begun in this browser, or more than ten minutes ago. Begin once more.',
      );
    }
    this.cookies?.drop('way', response);
    const who = await openid.finish(url, remembered);
    const hours = openid.way.hours ?? defaultHours;
    await this.begin(response, { ...who, claims: who.claims }, hours);
    this.notify('signed in', request, who.name);
    return remembered.back;
  }

  /** Signs a browser in by a token that the service has given out. @throws SignInRefused, TooManyAttempts, SignInAway */
  async byToken(
    token: string,
    request: IncomingMessage,
    response: ServerResponse,
  ): Promise<Principal> {
    const who = await this.ofToken(token, request);
    const left = ((who.expiresAt?.getTime() ?? Infinity) - this.now()) / 3_600_000;
    await this.begin(response, who, Math.min(defaultHours, left));
    this.notify('signed in', request, who.name);
    return who;
  }

  /**
   * What a program exchanges for a token, which somebody at this browser lets ask as them; undefined where nobody is
   * signed in, or no tokens are taken here.
   */
  async letProgram(request: IncomingMessage, challenge: string): Promise<string | undefined> {
    const who = await this.ofSession(request);
    if (who?.expiresAt === undefined || this.cookies === undefined || !this.takesTokens()) {
      return undefined;
    }
    const { name, roles, claims, expiresAt, session: sid = '' } = who;
    const until = Math.floor(expiresAt.getTime() / 1000);
    const given = { challenge, sid, name, roles: [...roles], claims: { ...claims }, until };
    this.notify('program let in', request, name);
    return this.cookies.seal('program', given, new Date(this.now() + exchangedWithin));
  }

  /** A token for a program that was let in, as long as the session would be. @throws SignInRefused */
  async tokenFor(code: string, verifier: string, request: IncomingMessage): Promise<string> {
    const allowed = await this.cookies?.open('program', code);
    const proof = createHash('sha256').update(verifier).digest('base64url');
    if (allowed?.challenge !== proof || this.tokens === undefined) {
      throw (await this.refusedOften(this.options.addressOf(request))) ?? this.refusedCode(request);
    }
    const { name, roles, claims, until, sid } = allowed;
    try {
      const { token, text } = await this.tokens.add({
        name,
        roles,
        claims,
        forPerson: true,
        expiresAt: new Date(until * 1000),
        session: sid,
        code,
      });
      // Looked for behind it: a session that ends meanwhile has ended the token, or is found to have ended.
      if ((await this.signIns?.find(sid)) !== undefined) return text;
      await this.tokens.revoke(token.id);
    } catch (thrown) {
      if (!(thrown instanceof CodeUsed)) throw thrown;
    }
    throw this.refusedCode(request);
  }

  private refusedCode(request: IncomingMessage): SignInRefused {
    this.notify('refused', request);
    return new SignInRefused('This sign-in is not the one that was let in, or took too long.');
  }

  private takesTokens(): boolean {
    return this.ways.some(({ kind }) => kind === 'tokens');
  }

  /** Signs a browser out; ends the token of a program. */
  async end(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const token = bearerOf(request);
    const known = token === undefined ? undefined : await this.tokens?.find(token);
    if (known !== undefined) {
      const ended = await this.tokens?.revoke(known.id);
      this.forget({
        tokens: ended?.tokens.map(({ id }) => id) ?? [],
        sessions: ended?.sessions ?? [],
      });
      this.notify('token ended', request, known.name);
    }
    const found = await this.cookies?.read('session', request);
    this.cookies?.drop('session', response);
    if (found === undefined) return;
    this.notify('signed out', request, found.name);
    const ended = await this.signIns?.end({ id: found.sid });
    this.forget(ended ?? { tokens: [], sessions: [] });
  }

  /** What has ended counts no longer at once, in this process. */
  private forget(ended: Readonly<Record<'tokens' | 'sessions', readonly string[]>>): void {
    const [tokens, sessions] = [new Set(ended.tokens), new Set(ended.sessions)];
    this.knownTokens.forgetAll(({ id }) => tokens.has(id));
    this.knownSessions.forgetAll(({ id }) => sessions.has(id));
  }

  private async begin(
    response: ServerResponse,
    {
      name,
      title,
      roles,
      claims,
      token,
    }: Pick<Principal, 'name' | 'title' | 'roles' | 'claims' | 'token'>,
    hours: number,
  ): Promise<void> {
    if (this.signIns === undefined || this.cookies === undefined) return;
    const expiresAt = new Date(this.now() + hours * 3_600_000);
    const { id } = await this.signIns.begin(name, expiresAt, token);
    const stored = Object.fromEntries(
      this.claims.flatMap((claim) => {
        const value = claimAt(claims, claim);
        return value === undefined ? [] : [[claim, value] as const];
      }),
    );
    const content = { sid: id, name, title, roles: [...roles], claims: stored };
    await this.cookies.give('session', response, content, expiresAt);
  }

  private async ofSession(request: IncomingMessage): Promise<Principal | undefined> {
    const found = await this.cookies?.read('session', request);
    if (found === undefined) return undefined;
    const stored = await this.knownSessions.get(found.sid);
    if (stored === undefined) return undefined;
    const { sid, name, title, roles, claims, exp } = found;
    const expiresAt = new Date(exp * 1000);
    if (expiresAt.getTime() <= this.now()) return undefined;
    return { name, title, roles, claims, by: 'session', session: sid, expiresAt };
  }

  private async ofToken(token: string, request: IncomingMessage): Promise<Principal> {
    try {
      return isOwnToken(token) ? await this.ofOwnToken(token) : await this.signed.read(token);
    } catch (thrown) {
      if (!(thrown instanceof SignInRefused)) throw thrown;
      this.notify('refused', request);
      throw (await this.refusedOften(this.options.addressOf(request))) ?? thrown;
    }
  }

  private async ofOwnToken(text: string): Promise<Principal> {
    const way = ofKind(this.ways, 'tokens')[0];
    const token = way === undefined ? undefined : await this.known(text);
    if (token === undefined || !isInForce(token, this.now())) {
      throw new SignInRefused('The token is not known, has expired or was revoked.');
    }
    // Noted while the answer is made; where it cannot be, nothing is lost but that.
    this.tokens?.note(token).catch(() => undefined);
    // What a person lets ask as them has their name and roles, and none of what programs are given.
    const { give = [], prefix = '' } = token.forPerson ? {} : (way ?? {});
    const { name, roles, claims, expiresAt } = token;
    return {
      name: prefix + name,
      title: name,
      roles: [...new Set([...roles, ...give])],
      claims,
      by: 'token',
      token: token.id,
      expiresAt,
    };
  }

  private notify(event: SignInEvent['event'], request: IncomingMessage, caller?: string): void {
    const address = this.options.addressOf(request);
    this.options.onEvent?.({ event, address, ...(caller !== undefined && { caller }) });
  }

  /** What somebody has made up is not looked for. */
  private async known(text: string): Promise<StoredToken | undefined> {
    if (this.knownTokens.has(text)) return this.knownTokens.get(text);
    try {
      if ((await this.tokens?.isPlausible(text)) !== true) return undefined;
    } catch (thrown) {
      throw new SignInUnavailable(thrown);
    }
    return this.knownTokens.get(text);
  }

  /** Counts what did not hold; gives what is stated about it from some number on. */
  private async refusedOften(address: string): Promise<TooManyAttempts | undefined> {
    const sender = senderOf(address);
    try {
      const counted = await this.attempts?.add(sender);
      if (counted !== undefined) {
        const { count, milliseconds } = counted;
        return count > mostAttempts ? new TooManyAttempts(toSeconds(milliseconds)) : undefined;
      }
    } catch {
      // While the records are away this service counts by itself.
    }
    const [counted] = (await this.options.attempts?.take(sender)) ?? [];
    if (counted === undefined || counted.left >= 0) return undefined;
    return new TooManyAttempts(toSeconds(counted.seconds * 1000));
  }
}

function toSeconds(milliseconds: number): number {
  return Math.min(attemptsWithin / 1000, Math.max(1, Math.ceil(milliseconds / 1000)));
}

function ofKind<Kind extends SignInConfiguration[number]['kind']>(
  ways: SignInConfiguration,
  kind: Kind,
): Extract<SignInConfiguration[number], { kind: Kind }>[] {
  return ways.filter(
    (way): way is Extract<SignInConfiguration[number], { kind: Kind }> => way.kind === kind,
  );
}

/** The token of an Authorization header (RFC 6750, 2.1); undefined where there is none. */
function bearerOf({ headers }: IncomingMessage): string | undefined {
  return /^Bearer +([^\s]+) *$/i.exec(headers.authorization ?? '')?.[1];
}

/** The claims that the rules of the roles name. */
function claimsOfRules({ roles = {} }: Configuration): readonly string[] {
  const rules = Object.values(roles).flatMap(({ tables }) =>
    typeof tables === 'string'
      ? []
      : Object.values(tables).flatMap((part) =>
          typeof part === 'object' ? (part.rows ?? []) : [],
        ),
  );
  const names = rules.flatMap((rule) => partsOfRule(rule).names);
  const claims = names.filter((name) => name !== 'caller');
  return [...new Set(claims.map((name) => name.slice('claims.'.length)))];
}

/** The claims of a session, by name. */
export function claimsOf({ claims }: { readonly claims: Claims }): (name: string) => unknown {
  return (name) => claimAt(claims, name);
}
