import { REFUSED_BY_GUARD } from '../net/filterProxy';
import { bareHost } from '../net/hostMap';

/** Host and port of an address, as a proxy is asked for them. */
export function placeOf(url: string): string | undefined {
  if (!URL.canParse(url)) return undefined;
  const { hostname, port, protocol } = new URL(url);
  return `${bareHost(hostname)}:${port || (/^(https|wss):$/.test(protocol) ? 443 : 80)}`;
}

/** A fault of a connection as the browser would call it. */
export function proxyFault(code: string): string {
  if (code === REFUSED_BY_GUARD) return 'not asked: it leads to a private address';
  if (/ENOTFOUND|EAI_/.test(code)) return 'net::ERR_NAME_NOT_RESOLVED';
  if (code === 'ECONNREFUSED') return 'net::ERR_CONNECTION_REFUSED';
  if (code === 'ETIMEDOUT') return 'net::ERR_CONNECTION_TIMED_OUT';
  return /UNREACH/.test(code) ? 'net::ERR_ADDRESS_UNREACHABLE' : 'net::ERR_CONNECTION_FAILED';
}
