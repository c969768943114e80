import ipaddr from 'ipaddr.js';

/** The well-known prefixes that carry an IPv4 address inside an IPv6 one. */
const NAT64 = ipaddr.parseCIDR('64:ff9b::/96');

/**
 * True for an address that does not lead into the public internet: loopback, private, link-local, shared (CGNAT),
 * multicast, documentation, benchmarking and reserved ranges (RFC 6890), also inside IPv6 (mapped, NAT64, 6to4, Teredo),
 * and for what is no address.
 */
export function isPrivateAddress(address: string): boolean {
  const text = address.replace(/^\[|\]$/g, '').replace(/%.*$/, '');
  if (!ipaddr.isValid(text)) return true;
  const parsed = ipaddr.process(text);
  if (parsed.kind() === 'ipv4') return parsed.range() !== 'unicast';
  const six = parsed as ipaddr.IPv6;
  if (six.match(NAT64[0] as ipaddr.IPv6, NAT64[1])) return isPrivateAddress(embedded(six.toByteArray().slice(12)));
  const range = six.range();
  if (range === '6to4') return isPrivateAddress(embedded(six.toByteArray().slice(2, 6)));
  return range !== 'unicast';
}

const embedded = (bytes: readonly number[]) => bytes.join('.');
