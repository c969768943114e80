/** Scheme, host and port of an address, `www.` left out; undefined for what is no web address. */
function placeOf(url: string): { secure: boolean; host: string; port: string } | undefined {
  if (!URL.canParse(url)) return undefined;
  const { protocol, hostname, port } = new URL(url);
  if (protocol !== 'https:' && protocol !== 'http:') return undefined;
  return { secure: protocol === 'https:', host: hostname.replace(/^www\./, ''), port };
}

/**
 * Where the headers and the password of a site may be sent: to the origins of the given addresses, with and without
 * `www.`, and to the same over https. Never over http where https was given, and never to another host.
 */
export function ownOrigins(addresses: readonly string[]): (url: string) => boolean {
  const own = addresses.flatMap((a) => placeOf(a) ?? []);
  return (url) => {
    const at = placeOf(url);
    return (
      at !== undefined &&
      own.some(
        (o) =>
          o.host === at.host &&
          (o.secure === at.secure ? o.port === at.port : !o.secure && o.port === '' && at.port === ''),
      )
    );
  };
}
