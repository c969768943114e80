import type { Header } from './capture';

/** What replaces a secret. */
export const CUT = 'cut';

const SECRET_HEADERS =
  /^(cookie|set-cookie|authorization|proxy-authorization|www-authenticate|x-api-key|x-auth-token|x-csrf-token|x-xsrf-token)$/i;
const SECRET_NAME =
  /(^|[-_.])(token|access[-_]?token|id[-_]?token|auth|authorization|api[-_]?key|apikey|key|secret|client[-_]?secret|session|sessionid|sid|sig|signature|password|passwd|pwd|jwt|code|credential)$/i;
const SECRET_SHAPE = /^(eyJ[\w-]+\.[\w-]+\.[\w-]*|[A-Fa-f0-9]{32,}|[\w-]{40,})$/;

/**
 * Cookies, authorization and set-cookie leave no value behind; the names stay, as checks need them, and so do a
 * cookie's name and attributes (RFC 6265, 4.1).
 */
export function redactHeaders(headers: readonly Header[]): Header[] {
  return headers.map((h) =>
    /^set-cookie$/i.test(h.name)
      ? { name: h.name, value: h.value.split('\n').map(cutCookie).join('\n') }
      : SECRET_HEADERS.test(h.name)
        ? { name: h.name, value: CUT }
        : h,
  );
}

const COOKIE_ATTRIBUTE = /^(expires|max-age|domain|path|secure|httponly|samesite|partitioned)\b/i;

function cutCookie(line: string): string {
  const [pair = '', ...attributes] = line.split(';').map((p) => p.trim());
  const eq = pair.indexOf('=');
  const name = eq > 0 ? pair.slice(0, eq) : undefined;
  if (name === undefined || !/^[!#$%&'*+.^_`|~\w-]{1,80}$/.test(name)) return CUT;
  return [`${name}=${CUT}`, ...attributes.filter((a) => COOKIE_ATTRIBUTE.test(a))].join('; ');
}

/**
 * Cuts user:password and token-like query values from an address. Everything else stays to the
 * letter. Values that were cut are added to `found` so that bodies can be cleaned of them.
 */
export function redactUrl(url: string, found?: Set<string>): string {
  let out = url;
  const user = /^([a-z][a-z0-9+.-]*:\/\/)([^/?#@]*)@/i.exec(out);
  if (user?.[1] !== undefined && user[2] !== undefined) {
    if (user[2]) found?.add(user[2]);
    out = out.slice(0, user[1].length) + out.slice(user[0].length);
  }
  const mark = out.indexOf('?');
  if (mark < 0) return out;
  const hash = out.indexOf('#', mark);
  const query = out.slice(mark + 1, hash < 0 ? undefined : hash);
  const cleaned = query
    .split('&')
    .map((pair) => {
      const eq = pair.indexOf('=');
      if (eq < 0) return pair;
      const name = pair.slice(0, eq);
      const value = pair.slice(eq + 1);
      if (!value || value === CUT || !isSecret(safeDecode(name), value)) return pair;
      found?.add(value);
      return `${name}=${CUT}`;
    })
    .join('&');
  return out.slice(0, mark + 1) + cleaned + (hash < 0 ? '' : out.slice(hash));
}

function isSecret(name: string, value: string): boolean {
  return SECRET_NAME.test(name) || SECRET_SHAPE.test(safeDecode(value));
}

function safeDecode(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** Replaces secrets that were cut from addresses wherever a text body repeats them (8 characters or more). */
export function redactText(text: string, secrets: ReadonlySet<string>): string {
  let out = text;
  for (const secret of secrets) if (secret.length >= 8) out = out.replaceAll(secret, CUT);
  return out;
}
