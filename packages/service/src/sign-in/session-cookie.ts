import type { IncomingMessage, ServerResponse } from 'node:http';
import { parseCookie, stringifySetCookie } from 'cookie';
import { EncryptJWT, jwtDecrypt } from 'jose';
import { z } from 'zod';

/** What a cookie says of somebody who is signed in. */
const content = z.object({
  sid: z.string(),
  name: z.string(),
  title: z.string(),
  roles: z.array(z.string()),
  claims: z.record(z.string(), z.unknown()),
  exp: z.number(),
});

/** What is remembered while somebody is at the provider. */
const onTheWay = z.object({
  state: z.string(),
  nonce: z.string(),
  verifier: z.string(),
  back: z.string(),
  way: z.number(),
});
export type OnTheWay = z.infer<typeof onTheWay>;

/** What a program is given that somebody at a browser lets ask as them, in exchange for a token. */
const forProgram = z.object({
  /** Of what the program alone knows (RFC 7636, S256). */
  challenge: z.string(),
  /** The session in which it was let in. */
  sid: z.string(),
  name: z.string(),
  roles: z.array(z.string()),
  claims: z.record(z.string(), z.unknown()),
  /** When the session ends, in seconds since 1970. */
  until: z.number(),
});

const kinds = { session: content, way: onTheWay, program: forProgram } as const;
type Kind = keyof typeof kinds;
type Sealed<K extends Kind> = z.infer<(typeof kinds)[K]>;

/** Browsers keep about 4 KB of one cookie. */
const mostCharacters = 3_800;

/** Cookies that only this service reads: encrypted (JWE, A256GCM), for HTTP alone, of this site. */
export class SealedCookies {
  private readonly secret: () => Promise<Uint8Array>;
  private readonly secure: boolean;
  private readonly now: () => number;

  constructor(
    secret: () => Promise<Uint8Array>,
    { secure, now = Date.now }: { readonly secure: boolean; readonly now?: () => number },
  ) {
    this.secret = secret;
    this.secure = secure;
    this.now = now;
  }

  /** The content of a request's cookie; undefined where there is none that holds. */
  async read<K extends Kind>(
    kind: K,
    { headers }: IncomingMessage,
  ): Promise<Sealed<K> | undefined> {
    const text = parseCookie(headers.cookie ?? '')[this.nameOf(kind)];
    return text === undefined || text === '' ? undefined : this.open(kind, text);
  }

  /** What was sealed as a kind; undefined where it is nothing of that, or has expired. */
  async open<K extends Kind>(kind: K, text: string): Promise<Sealed<K> | undefined> {
    const secret = await this.secret();
    try {
      const { payload } = await jwtDecrypt(text, secret, {
        audience: kind,
        keyManagementAlgorithms: ['dir'],
        contentEncryptionAlgorithms: ['A256GCM'],
        currentDate: new Date(this.now()),
      });
      return kinds[kind].parse(payload) as Sealed<K>;
    } catch {
      // Of another key, expired, or nothing of ours: as if it were not there.
      return undefined;
    }
  }

  /** Gives a cookie until it expires. @throws Error where it would be too long for a browser */
  async give<K extends Kind>(
    kind: K,
    response: ServerResponse,
    given: Omit<Sealed<K>, 'exp'>,
    expiresAt: Date,
  ): Promise<void> {
    const text = await this.seal(kind, given, expiresAt);
    if (text.length > mostCharacters) {
      throw new Error('what the provider tells of a caller is too long for a cookie');
    }
    this.set(kind, response, text, expiresAt);
  }

  /** Seals something until it expires: nobody else reads it, or makes the like. */
  async seal<K extends Kind>(
    kind: K,
    given: Omit<Sealed<K>, 'exp'>,
    expiresAt: Date,
  ): Promise<string> {
    return new EncryptJWT({ ...given })
      .setProtectedHeader({ alg: 'dir', enc: 'A256GCM' })
      .setAudience(kind)
      .setExpirationTime(Math.floor(expiresAt.getTime() / 1000))
      .encrypt(await this.secret());
  }

  /** Takes it away. */
  drop(kind: Kind, response: ServerResponse): void {
    this.set(kind, response, '', new Date(0));
  }

  private set(kind: Kind, response: ServerResponse, value: string, expires: Date): void {
    const cookie = stringifySetCookie({
      name: this.nameOf(kind),
      value,
      expires,
      path: '/',
      httpOnly: true,
      sameSite: 'lax',
      secure: this.secure,
    });
    response.appendHeader('Set-Cookie', cookie);
  }

  /** Where it is sent over TLS alone, nobody else of the domain can have set it (RFC 6265bis, 4.1.3.2). */
  private nameOf(kind: Kind): string {
    return `${this.secure ? '__Host-' : ''}ephoros-${kind}`;
  }
}
