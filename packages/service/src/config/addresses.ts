import { BlockList, isIP, SocketAddress } from 'node:net';

/** Whether a host's name or address is reached from this machine alone. */
export function isLoopback(host: string): boolean {
  return ['localhost', '::1', '[::1]'].includes(host) || host.startsWith('127.');
}

interface Network {
  readonly address: string;
  /** Bits of the address that all addresses of the network have in common. */
  readonly bits: number;
  readonly family: 'ipv4' | 'ipv6';
}

/** An address or a network, such as 10.0.0.7 or 10.0.0.0/24; undefined for another text. */
export function readNetwork(text: string): Network | undefined {
  const [address = '', bits, ...more] = text.split('/');
  const version = isIP(address);
  const all = version === 6 ? 128 : 32;
  if (version === 0 || more.length > 0 || (bits !== undefined && !/^\d{1,3}$/.test(bits))) {
    return undefined;
  }
  const those = bits === undefined ? all : Number(bits);
  return those > all
    ? undefined
    : { address, bits: those, family: version === 6 ? 'ipv6' : 'ipv4' };
}

/** Whether an address is one of these, or in one of these networks. Texts that are neither count for nothing. */
export function networks(texts: readonly string[]): (address: string | undefined) => boolean {
  const list = new BlockList();
  for (const text of texts) {
    const network = readNetwork(text);
    if (network !== undefined) list.addSubnet(network.address, network.bits, network.family);
  }
  return (given = '') => {
    const address = canonicalAddress(given);
    return address !== undefined && list.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4');
  };
}

/**
 * An IP address in its one spelling (RFC 5952), without port, brackets and zone; an IPv4 address that is mapped into
 * IPv6 as IPv4. Undefined for what is no address.
 */
export function canonicalAddress(text: string): string | undefined {
  const plain = text
    .trim()
    .replace(/^\[(.*)\](?::\d+)?$/, '$1')
    .replace(/^(\d+(?:\.\d+){3}):\d+$/, '$1')
    .replace(/%.*$/, '');
  const version = isIP(plain);
  if (version === 0) return undefined;
  const { address } = new SocketAddress({
    address: plain,
    family: version === 6 ? 'ipv6' : 'ipv4',
  });
  return address.replace(/^::ffff:(?=\d+\.)/, '');
}

/** What is counted as one sender: an IPv4 address, or the network of 64 bits that an IPv6 address is in. */
export function senderOf(address: string): string {
  const canonical = canonicalAddress(address);
  if (canonical === undefined || isIP(canonical) === 4) return canonical ?? address;
  const [head = '', tail] = canonical.split('::');
  const parts = (text: string): string[] => (text === '' ? [] : text.split(':'));
  const [first, last] = [parts(head), parts(tail ?? '')];
  const between = tail === undefined ? 0 : Math.max(0, 8 - first.length - last.length);
  const all = [...first, ...Array.from({ length: between }, () => '0'), ...last];
  return `${all.slice(0, 4).join(':')}::/64`;
}
