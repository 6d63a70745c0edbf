import { BlockList, isIP } from 'node:net';

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
    const address = given.replace(/^::ffff:(?=\d+\.)/, '');
    const family = isIP(address);
    return family !== 0 && list.check(address, family === 6 ? 'ipv6' : 'ipv4');
  };
}
