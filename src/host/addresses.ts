import { BlockList, isIP } from 'node:net';

/** Networks that the public internet cannot reach, or that are special (RFC 6890, RFC 4193, RFC 4291). */
const networks: readonly [address: string, bits: number, family: 'ipv4' | 'ipv6'][] = [
  ['0.0.0.0', 8, 'ipv4'],
  ['10.0.0.0', 8, 'ipv4'],
  ['100.64.0.0', 10, 'ipv4'],
  ['127.0.0.0', 8, 'ipv4'],
  ['169.254.0.0', 16, 'ipv4'],
  ['172.16.0.0', 12, 'ipv4'],
  ['192.0.0.0', 24, 'ipv4'],
  ['192.168.0.0', 16, 'ipv4'],
  ['198.18.0.0', 15, 'ipv4'],
  ['224.0.0.0', 3, 'ipv4'],
  ['::', 127, 'ipv6'],
  // NAT64: the address of an IPv4 host is in it.
  ['64:ff9b::', 96, 'ipv6'],
  ['fc00::', 7, 'ipv6'],
  ['fe80::', 10, 'ipv6'],
  ['ff00::', 8, 'ipv6'],
];

let list: BlockList | undefined;

/** Tells whether an IP address is private or special. IPv4 addresses in IPv6 ones count as themselves. */
export function isPrivateAddress(address: string): boolean {
  if (!list) {
    list = new BlockList();
    for (const [network, bits, family] of networks) list.addSubnet(network, bits, family);
  }
  return list.check(address, isIP(address) === 6 ? 'ipv6' : 'ipv4');
}

/** The host of a URL without the brackets of IPv6. */
export function hostOf(url: string | URL): string {
  return new URL(url).hostname.replace(/^\[|\]$/g, '');
}

/** Tells whether a host name or address stands for this machine or a private network, as far as its text tells. */
export function isPrivateHost(host: string): boolean {
  return isIP(host) > 0 ? isPrivateAddress(host) : /(^|\.)(localhost|local|internal|home\.arpa)\.?$/i.test(host);
}
