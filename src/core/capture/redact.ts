import { decodeBase64 } from './base64';
import type { Header } from './capture';
import { KnownValues, LEAST_KNOWN } from './knownValues';
import { CREDENTIALS, isSecretName, isSecretSegment, isTellingName, JWT, looksDrawn, looksMade } from './secretNames';

/** What replaces a secret. */
export const CUT = 'cut';

/** Where a secret was cut. */
export type CutPlace = 'header' | 'address' | 'content';

/** Secrets that are known, and how many were cut where. */
export class Secrets {
  private readonly values = new KnownValues();
  private readonly cuts = new Map<CutPlace, number>();

  /** @param given values that are known beforehand: configured headers, passwords */
  constructor(given: Iterable<string> = []) {
    for (const value of given) this.learn(value);
  }

  /**
   * Cuts a value here, and from now on wherever it appears.
   * @param name what the value belongs to: one that may name something harmless does not make a word a secret elsewhere
   */
  cut(value: string, place: CutPlace, name?: string): string {
    if (value === '' || value === CUT) return value;
    if (name === undefined || isTellingName(name) || looksMade(decoded(value))) this.learn(value);
    this.count(place);
    return CUT;
  }

  count(place: CutPlace, times = 1): void {
    this.cuts.set(place, (this.cuts.get(place) ?? 0) + times);
  }

  /** Takes a value as secret in the ways in which it is written: plain, percent-encoded, in JSON, in HTML. */
  learn(value: string): void {
    const plain = decoded(value);
    for (const v of [value, plain, encodeURIComponent(plain), JSON.stringify(plain).slice(1, -1), escaped(plain)]) {
      // What is shorter, or a short word of small letters, may stand anywhere in a text for itself.
      if (v.length >= LEAST_KNOWN && (v.length >= 8 || !/^[a-z]+$/.test(v))) this.values.add(v);
    }
  }

  /** Replaces known values in a text. */
  cutKnown(text: string, place: CutPlace): string {
    if (this.values.size === 0) return text;
    const { text: out, times } = this.values.replaceIn(text, CUT);
    if (times > 0) this.count(place, times);
    return out;
  }

  /** Replaces known values in every text of a value made of plain objects, lists and texts. */
  cutKnownIn<T>(value: T, place: CutPlace): T {
    if (this.values.size === 0) return value;
    const walk = (v: unknown): unknown => {
      if (typeof v === 'string') return this.cutKnown(v, place);
      if (Array.isArray(v)) return v.map(walk);
      if (v === null || typeof v !== 'object' || ArrayBuffer.isView(v)) return v;
      return Object.fromEntries(Object.entries(v).map(([k, inner]) => [k, walk(inner)]));
    };
    return walk(value) as T;
  }

  /** How many secrets were cut, in words; undefined for none. */
  summary(): string | undefined {
    const named: Readonly<Record<CutPlace, string>> = {
      header: 'in headers',
      address: 'in addresses',
      content: 'in contents',
    };
    const parts = [...this.cuts].map(([place, n]) => `${n} ${named[place]}`);
    const all = [...this.cuts.values()].reduce((a, b) => a + b, 0);
    return all === 0 ? undefined : `${all} secret ${all === 1 ? 'value was' : 'values were'} cut: ${parts.join(', ')}.`;
  }
}

/** Headers whose value is a secret in itself, whatever it looks like (RFC 9110, 11; RFC 6265). */
const SECRET_HEADERS =
  /^(cookie2?|(proxy-|www-)?(authorization|authentication-info|authenticate)|proxy-authenticate|sec-websocket-(key|accept))$/i;
/** Headers that are one address, also a relative one. */
const ADDRESS_HEADERS =
  /^(:path|referer|location|content-location|refresh|x-original-ur[li]|x-rewrite-url|x-forwarded-uri|sourcemap|x-sourcemap)$/i;

/**
 * Cuts what is secret in headers; the names stay, as checks need them, and so do a cookie's name and attributes
 * (RFC 6265, 4.1). Addresses in any header lose their secret values.
 */
export function redactHeaders(headers: readonly Header[], secrets = new Secrets()): Header[] {
  return headers.map(({ name, value }) => {
    if (/^set-cookie2?$/i.test(name))
      return {
        name,
        value: value
          .split('\n')
          .map((line) => cutCookie(line, secrets))
          .join('\n'),
      };
    if (/^cookie2?$/i.test(name)) {
      for (const pair of value.split(';')) learnCookie(pair.trim(), secrets);
      secrets.count('header');
      return { name, value: CUT };
    }
    if (SECRET_HEADERS.test(name) || (isSecretName(name) && !/^(sec-ch|access-control)-/i.test(name))) {
      // A scheme and what follows it, or a list of parameters (RFC 9110, 11.4).
      for (const part of value.split(/[\s,;="]+/)) if (looksMade(part)) secrets.learn(part);
      const basic = /^basic\s+([A-Za-z\d+/_-]{4,}={0,2})$/i.exec(value.trim())?.[1];
      if (basic) secrets.learn(passwordOf(basic));
      return { name, value: secrets.cut(value, 'header', name) };
    }
    if (ADDRESS_HEADERS.test(name)) return { name, value: redactUrl(value, secrets) };
    return { name, value: redactAddressesIn(value, secrets) };
  });
}

/** Values of Link headers, redacted. */
export const redactLinks = (values: readonly string[], secrets?: Secrets): string[] =>
  redactHeaders(
    values.map((value) => ({ name: 'link', value })),
    secrets,
  ).map((h) => h.value);

/** The password of basic credentials (RFC 7617, 2). */
function passwordOf(basic: string): string {
  const text = new TextDecoder().decode(decodeBase64(new TextEncoder().encode(basic)));
  return text.slice(text.indexOf(':') + 1);
}

const COOKIE_ATTRIBUTE = /^(expires|max-age|domain|path|secure|httponly|samesite|partitioned)\b/i;

/** A cookie that holds a setting is no secret that could be told from other words. */
function learnCookie(pair: string, secrets: Secrets): void {
  const eq = pair.indexOf('=');
  const value = pair.slice(eq + 1);
  if (looksDrawn(value) || (isSecretName(pair.slice(0, eq)) && looksMade(value))) secrets.learn(value);
}

function cutCookie(line: string, secrets: Secrets): string {
  const [pair = '', ...attributes] = line.split(';').map((p) => p.trim());
  const eq = pair.indexOf('=');
  const name = eq > 0 ? pair.slice(0, eq) : undefined;
  const value = pair.slice(eq + 1);
  if (name === undefined || !/^[!#$%&'*+.^_`|~\w-]{1,80}$/.test(name)) return secrets.cut(line, 'header');
  if (value !== '' && value !== CUT) secrets.count('header');
  learnCookie(pair, secrets);
  return [`${name}=${CUT}`, ...attributes.filter((a) => COOKIE_ATTRIBUTE.test(a))].join('; ');
}

/**
 * Cuts what lets somebody in from an address: user and password, values of parameters by name or look (query, fragment
 * and path parameters), parts of a path that look drawn by lot behind words such as `reset`. Everything else stays to
 * the letter.
 */
export function redactUrl(url: string, secrets = new Secrets()): string {
  let out = url;
  const user = /^([a-z][a-z0-9+.-]*:\/\/)([^/?#@\\]*)@/i.exec(out);
  if (user?.[1] !== undefined && user[2] !== undefined) {
    if (user[2]) {
      for (const part of user[2].split(':')) secrets.learn(part);
      secrets.count('address');
    }
    out = out.slice(0, user[1].length) + out.slice(user[0].length);
  }
  const [, before = '', query = '', fragment = ''] = /^([^?#]*)(\?[^#]*)?(#[\s\S]*)?$/.exec(out) ?? [];
  return (
    redactPath(before, secrets) +
    (query && '?' + redactPairs(query.slice(1), secrets)) +
    (/[=&]/.test(fragment) ? '#' + redactPairs(fragment.slice(1), secrets) : fragment)
  );
}

/** `name=value` pairs joined by `&` (URL Standard, 5.1). */
function redactPairs(text: string, secrets: Secrets): string {
  return text
    .split('&')
    .map((pair) => {
      const eq = pair.indexOf('=');
      if (eq < 0) return pair;
      const name = decoded(pair.slice(0, eq));
      const value = pair.slice(eq + 1);
      const plain = decoded(value);
      if (!value || value === CUT) return pair;
      if (isSecretName(name, 'address') || looksDrawn(plain))
        return `${pair.slice(0, eq)}=${secrets.cut(value, 'address', name)}`;
      // An address inside an address has values of its own.
      if (/^(https?:)?\/\/|^\/[^?]*\?/i.test(plain)) {
        const cleaned = redactUrl(plain, secrets);
        if (cleaned !== plain) return `${pair.slice(0, eq)}=${encodeURIComponent(cleaned)}`;
      }
      return pair;
    })
    .join('&');
}

function redactPath(path: string, secrets: Secrets): string {
  if (/^(data|blob|javascript|mailto):/i.test(path)) return path;
  let before = '';
  return path
    .split('/')
    .map((segment) => {
      const [own = '', ...parameters] = segment.split(';');
      const kept = parameters.map((p) => (p.includes('=') ? redactPairs(p, secrets) : p));
      const secret = isSecretSegment(decoded(own), before);
      before = decoded(own);
      return [secret ? secrets.cut(own, 'address') : own, ...kept].join(';');
    })
    .join('/');
}

const ADDRESS = /\b(?:https?|wss?):\/\/(?:&amp;|[^\s"'<>()\\{}|^`,;])+/gi;

function redactAddressesIn(text: string, secrets: Secrets): string {
  return cutTokens(
    text.replace(ADDRESS, (url) => redactUrl(url, secrets)),
    secrets,
    'header',
  );
}

function cutTokens(text: string, secrets: Secrets, place: CutPlace): string {
  return text
    .replace(JWT, (token) => secrets.cut(token, place))
    .replace(CREDENTIALS, (whole, scheme: string, value: string) =>
      looksDrawn(value) || /\d/.test(value) ? `${scheme} ${secrets.cut(value, place)}` : whole,
    );
}

/**
 * A property with a text as its value, in JSON or in a script. A name begins where no name goes on: else each of its
 * letters is tried.
 */
const PROPERTY = /(?:(["'`])|(?<![\w$.-]))([\w$.-]{2,})\1(\s*[:=]\s*)(["'`])((?:[^"'`\\\r\n]|\\.){1,4000}?)\4/g;
const FIELD = /<(?:input|meta|button)\b[^>]{0,4000}>/gi;

/**
 * Cuts secrets from a text body: tokens by their look, properties of JSON and scripts by their name, values of
 * password and hidden form fields, tokens in `meta`, secret values in its addresses.
 * @param json every property counts; in other texts only values that look like no words do
 */
export function redactContent(text: string, secrets: Secrets, json = false): string {
  let out = cutTokens(text, secrets, 'content');
  if (/<(input|meta|button)\b/i.test(out)) out = out.replace(FIELD, (tag) => redactField(tag, secrets));
  out = out.replace(PROPERTY, (whole, q = '', name: string, sign: string, quote: string, value: string) => {
    if (!isSecretName(name) || value === CUT) return whole;
    if (!json && !likeCredential(value)) return whole;
    return `${q}${name}${q}${sign}${quote}${secrets.cut(value, 'content', name)}${quote}`;
  });
  if (out.includes('?') || out.includes(';'))
    out = out.replace(ADDRESS, (url) => (/[?;]|\/\/[^/]*@/.test(url) ? redactWritten(url, secrets) : url));
  return out;
}

/** In markup an ampersand may be written as a character reference. */
function redactWritten(url: string, secrets: Secrets): string {
  if (!url.includes('&amp;')) return redactUrl(url, secrets);
  return redactUrl(url.replaceAll('&amp;', '&'), secrets).replaceAll('&', '&amp;');
}

/** No sentence, no name of something else, no placeholder. */
const likeCredential = (value: string) => looksDrawn(value) || (!/[<>{}]/.test(value) && looksMade(value));

function redactField(tag: string, secrets: Secrets): string {
  const get = (name: string) =>
    new RegExp(`\\s${name}\\s*=\\s*(?:"([^"]*)"|'([^']*)'|([^\\s>]+))`, 'i')
      .exec(tag)
      ?.slice(1)
      .find((v) => v !== undefined);
  const name = get('name') ?? get('id') ?? get('property') ?? '';
  const attribute = /^<meta/i.test(tag) ? 'content' : 'value';
  const value = get(attribute);
  if (!value || value === CUT) return tag;
  const secret = /password/i.test(get('type') ?? '') || isSecretName(name, 'address') || looksDrawn(value);
  if (!secret || (attribute === 'content' && !isSecretName(name))) return tag;
  return tag.replace(
    new RegExp(`(\\s${attribute}\\s*=\\s*["']?)${literal(value)}`, 'i'),
    (_, start: string) => start + secrets.cut(value, 'content'),
  );
}

const literal = (text: string) => text.replace(/[.*+?^${}()|[\]\\/-]/g, '\\$&');

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (c) => `&${{ '&': 'amp', '<': 'lt', '>': 'gt', '"': 'quot' }[c]};`);

function decoded(text: string): string {
  try {
    return decodeURIComponent(text.replaceAll('+', ' '));
  } catch {
    return text;
  }
}
