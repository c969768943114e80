import { InputError } from '../capture/errors';
import { resolveUrl } from '../capture/url';

/** Parameters that name a visit, not a page. */
const SESSION_PARAMETER = /^(jsessionid|phpsessid|aspsessionid\w*|sessionid|session_id|sess|sid|cfid|cftoken)$/i;
const SESSION_IN_PATH = /;(jsessionid|sid|sessionid)=[^/?;]*/gi;

/** An address in the form in which pages are told apart. */
export interface PageAddress {
  readonly url: string;
  /** A session id was taken out of it. */
  readonly session: boolean;
}

/**
 * Brings a reference into the form in which pages are told apart: absolute (URL Standard), without fragment,
 * without session ids, without the query parameters to ignore (`name*` ignores by the beginning).
 * Undefined for what is not http or https.
 */
export function pageAddress(reference: string, base: string, ignore: readonly string[] = []): PageAddress | undefined {
  const resolved = resolveUrl(reference, base);
  if (!resolved || !/^https?:/.test(resolved)) return undefined;
  const credentials = /^(https?:\/\/)[^/?#@]*@/.exec(resolved);
  let out = credentials ? (credentials[1] ?? '') + resolved.slice(credentials[0].length) : resolved;
  let session = false;
  if (out.includes(';')) {
    const cut = out.replace(SESSION_IN_PATH, '');
    session = cut !== out;
    out = cut;
  }
  const mark = out.indexOf('?');
  if (mark < 0) return { url: out, session };
  const kept = out
    .slice(mark + 1)
    .split('&')
    .filter((pair) => {
      const name = decode(pair.split('=')[0] ?? '');
      if (SESSION_PARAMETER.test(name)) {
        session = true;
        return false;
      }
      return pair !== '' && !ignore.some((i) => matches(i, name));
    });
  return { url: out.slice(0, mark) + (kept.length > 0 ? '?' + kept.join('&') : ''), session };
}

function matches(pattern: string, name: string): boolean {
  return pattern.endsWith('*') ? name.startsWith(pattern.slice(0, -1)) : name === pattern;
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text.replace(/\+/g, ' '));
  } catch {
    return text;
  }
}

/** First folder of a path, for grouping: `/plants/` of `/plants/fern/12`, `/` for pages at the top. */
export function folderOf(url: string): string {
  try {
    const path = new URL(url).pathname;
    const second = path.indexOf('/', 1);
    return second < 0 ? '/' : path.slice(0, second + 1);
  } catch {
    return '/';
  }
}

/**
 * A web address that somebody typed: http or https; https is added where no scheme is written.
 * @param field where it was typed, for the message
 * @throws InputError for other schemes, for a name and password in it, and for what is no address
 */
export function typedAddress(text: string, field: string): URL {
  const typed = text.trim();
  const shown = typed.length > 200 ? `${typed.slice(0, 200)}…` : typed;
  const scheme = /^([a-z][a-z0-9+.-]*):(?!\d)/i.exec(typed)?.[1]?.toLowerCase();
  if (scheme !== undefined && scheme !== 'http' && scheme !== 'https')
    throw new InputError(
      `"${shown}" is ${scheme === 'mailto' ? 'an e-mail address' : scheme === 'file' ? 'a file on a disk' : `a ${scheme}: address`}, not a web page.`,
      field,
      'Write an address that begins with http:// or https://.',
    );
  let url: URL;
  try {
    url = new URL(scheme === undefined ? `https://${typed}` : typed);
  } catch {
    throw new InputError(`"${shown}" is not a web address.`, field, 'Write it like https://www.fernhollow.example/.');
  }
  if (url.username || url.password)
    throw new InputError(
      'The address holds a name and a password.',
      field,
      'Leave them out here and put them into the fields for basic authentication.',
    );
  return url;
}
