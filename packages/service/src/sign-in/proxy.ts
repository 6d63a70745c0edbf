import type { IncomingMessage } from 'node:http';
import { networks, type WayIn } from '../config/index.ts';
import type { Principal } from './principal.ts';
import { remoteAddressOf } from './remote-address.ts';

/** Who a trusted proxy says is requesting. */
export class ProxyHeader {
  private readonly way: WayIn<'proxy'>;
  private readonly isTrusted: (address: string | undefined) => boolean;

  constructor(way: WayIn<'proxy'>) {
    this.way = way;
    this.isTrusted = networks(way.from);
  }

  /** Undefined where it says nothing, or where somebody else does. */
  read(request: IncomingMessage): Principal | undefined {
    const { headersDistinct } = request;
    const { header, rolesHeader, titleHeader, claims = {}, give = [], prefix = '' } = this.way;
    if (!this.isTrusted(remoteAddressOf(request))) return undefined;
    const values = (name = ''): readonly string[] => headersDistinct[name.toLowerCase()] ?? [];
    // Behind a proxy that adds a header instead of replacing it, the first value is the client's: nobody is meant.
    const names = [header, rolesHeader, titleHeader, ...Object.values(claims)];
    if (names.some((name) => values(name).length > 1)) return undefined;
    const headerOf = (name: string | undefined): string | undefined => {
      const text = values(name)[0]?.trim();
      return text === '' ? undefined : text;
    };
    const name = headerOf(header);
    if (name === undefined) return undefined;
    const roles = (headerOf(rolesHeader) ?? '').split(',').map((one) => one.trim());
    return {
      name: prefix + name,
      title: headerOf(titleHeader) ?? name,
      roles: [...new Set([...roles.filter((one) => one !== ''), ...give])],
      claims: Object.fromEntries(
        Object.entries(claims).map(([claim, from]) => [claim, headerOf(from)] as const),
      ),
      by: 'proxy',
    };
  }
}
