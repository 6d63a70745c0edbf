import type { IncomingMessage } from 'node:http';
import { networks, type WayIn } from '../config/index.ts';
import type { Principal } from './principal.ts';

/** Who a trusted proxy says is asking. */
export class ProxyHeader {
  private readonly way: WayIn<'proxy'>;
  private readonly isTrusted: (address: string | undefined) => boolean;

  constructor(way: WayIn<'proxy'>) {
    this.way = way;
    this.isTrusted = networks(way.from);
  }

  /** Undefined where it says nothing, or where somebody else does. */
  read({ headers, socket }: IncomingMessage): Principal | undefined {
    const { header, rolesHeader, titleHeader, claims = {}, give = [], prefix = '' } = this.way;
    if (!this.isTrusted(socket.remoteAddress)) return undefined;
    const said = (name: string | undefined): string | undefined => {
      const text = name === undefined ? undefined : headers[name.toLowerCase()];
      // Sent twice it would be two names: nobody is meant.
      return typeof text === 'string' && text.trim() !== '' ? text.trim() : undefined;
    };
    const name = said(header);
    if (name === undefined) return undefined;
    const roles = (said(rolesHeader) ?? '').split(',').map((one) => one.trim());
    return {
      name: prefix + name,
      title: said(titleHeader) ?? name,
      roles: [...new Set([...roles.filter((one) => one !== ''), ...give])],
      claims: Object.fromEntries(
        Object.entries(claims).map(([claim, from]) => [claim, said(from)] as const),
      ),
      by: 'proxy',
    };
  }
}
