import { lookup as systemLookup } from 'node:dns';
import { isIP, type LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';

/** Which private addresses this installation may call: host names, IP addresses or CIDR ranges, as its operator listed them. */
export interface AddressRules {
  allowed: readonly string[];
}

export class ForbiddenAddress extends Error {
  override name = 'ForbiddenAddress';
}

const refuse = (what: string) =>
  new ForbiddenAddress(
    `${what} is a private or local address, which this installation does not call; its operator can allow it by name in MONSOON_ALLOW_ADDRESSES`,
  );

/**
 * Checks an address that a person gave before it is called.
 * @throws ForbiddenAddress for other schemes than http and https, and for literal private addresses
 */
export function checkAddress(url: URL, rules: AddressRules): void {
  if (url.protocol !== 'http:' && url.protocol !== 'https:')
    throw new ForbiddenAddress(`${url.protocol}// addresses are not called; give http:// or https://`);
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (isIP(host) !== 0 && !mayCall(host, host, rules)) throw refuse(host);
}

/** ::/96 (RFC 4291, 2.5.5.1, deprecated) holds an IPv4 address in an IPv6 one: a system may call the former. */
const isCompatible = (address: ipaddr.IPv4 | ipaddr.IPv6): boolean =>
  address.kind() === 'ipv6' && (address as ipaddr.IPv6).parts.slice(0, 6).every((part) => part === 0);

/** May a name that resolved to this IP address be called? Only public unicast addresses may unless allowed by name. */
export function mayCall(host: string, address: string, rules: AddressRules): boolean {
  const parsed = ipaddr.process(address);
  if (parsed.range() === 'unicast' && !isCompatible(parsed)) return true;
  return rules.allowed.some((rule) => {
    if (rule.toLowerCase() === host.toLowerCase()) return true;
    if (ipaddr.isValid(rule)) return ipaddr.process(rule).toString() === parsed.toString();
    if (!ipaddr.isValidCIDR(rule)) return false;
    const [network, bits] = ipaddr.parseCIDR(rule);
    return network.kind() === parsed.kind() && (parsed as ipaddr.IPv4).match(network as ipaddr.IPv4, bits);
  });
}

/** A name lookup that lets no forbidden address through. It is the one the socket uses, so a name cannot change in between. */
export function checkedLookup(rules: AddressRules): LookupFunction {
  return (hostname, options, callback) => {
    systemLookup(hostname, { ...options, all: true }, (error, found) => {
      if (error !== null) return callback(error, '', 0);
      const fine = found.filter((a) => mayCall(hostname, a.address, rules));
      if (fine.length === 0) return callback(refuse(`${hostname} (${found.map((a) => a.address).join(', ')})`), '', 0);
      if (options.all) (callback as unknown as (e: null, a: typeof fine) => void)(null, fine);
      else callback(null, fine[0]!.address, fine[0]!.family);
    });
  };
}
