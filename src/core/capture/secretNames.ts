/** Parts of a name that say what its value is for, whatever stands around them: `authToken`, `user[password]`. */
const TELLING =
  /token|passw(or)?d|passcode|passphrase|secret|credential|apikey|accesskey|privatekey|sharedkey|signingkey|sess(ion)?id|csrf|xsrf|jwt|hmac|signature|securitycode|verificationcode|authcode|onetime/;
/** Whole words that say so; inside other words they mean something else (`monkey`, `design`). */
const WORDS = new Set(
  'auth authorization authentication key keys sid session sig pwd pass passkey otp totp pin nonce assertion bearer'.split(
    ' ',
  ),
);
/** Words that say so in an address, where they carry what lets somebody in or on. */
const ADDRESS_WORDS = new Set('code ticket state invite invitation samlresponse samlrequest'.split(' '));
/** Names that hold one of these and no secret. */
const HARMLESS =
  /^(surrogate-key|x-surrogate-key|cache-key|x-cache-key|sort[-_]?key|key[-_]?words?|tokenized?|tokens?[-_]?(count|limit|used))$/i;

/** The words of a name: `userAccess_token[0]` is user, access, token, 0. */
function wordsOf(name: string): string[] {
  return name
    .replace(/([a-z\d])([A-Z])/g, '$1 $2')
    .split(/[^A-Za-z\d]+/)
    .filter(Boolean)
    .map((w) => w.toLowerCase());
}

/**
 * True for a name whose value is a secret: of a header, a form field, a property, a query parameter.
 * @param place in an `address` more names count: what stands there lets whoever has the address in
 */
export function isSecretName(name: string, place: 'address' | 'other' = 'other'): boolean {
  if (name.length > 200 || HARMLESS.test(name)) return false;
  const words = wordsOf(name);
  if (TELLING.test(words.join(''))) return true;
  return words.some((w) => WORDS.has(w) || (place === 'address' && ADDRESS_WORDS.has(w)));
}

/** True for a name that can mean nothing else than a secret. */
export function isTellingName(name: string): boolean {
  return isSecretName(name) && TELLING.test(wordsOf(name).join(''));
}

/** A JSON Web Token, or an encrypted one (RFC 7519; RFC 7515 and 7516, compact serialization). */
export const JWT = /\beyJ[\w-]{5,}\.[\w-]{4,}(?:\.[\w-]*){1,3}/g;
/** What follows a scheme of HTTP authentication (RFC 9110, 11.4). */
export const CREDENTIALS = /\b(Bearer|Basic|Negotiate|Token)\s+([\w\-.~+/]{6,}=*)/g;

/** Bits of a character of a text by how often each one occurs in it (Shannon). */
export function entropyOf(text: string): number {
  const counts = new Map<string, number>();
  for (const c of text) counts.set(c, (counts.get(c) ?? 0) + 1);
  let bits = 0;
  for (const n of counts.values()) bits -= (n / text.length) * Math.log2(n / text.length);
  return bits;
}

/** True for a value that looks drawn by lot: long, of mixed characters, no words. */
export function looksDrawn(value: string): boolean {
  if (/^eyJ[\w-]+\.[\w-]+\./.test(value)) return true;
  if (/^[A-Fa-f\d]{32,}$/.test(value)) return true;
  if (/^[A-Fa-f\d]{8}(-[A-Fa-f\d]{4}){3}-[A-Fa-f\d]{12}$/.test(value)) return false;
  if (!/^[\w\-.~+/=%]{24,}$/.test(value)) return false;
  return value.length >= 40 || (/\d/.test(value) && /[A-Za-z]/.test(value) && entropyOf(value) > 3.6);
}

/** True for a value that is no word of a language: letters and digits, eight characters or more, no space. */
export function looksMade(value: string): boolean {
  return looksDrawn(value) || (value.length >= 8 && /\d/.test(value) && /[A-Za-z]/.test(value) && !/\s/.test(value));
}

/** Parts of a path that stand before a secret: `/reset/4f9a…`. */
const LEADS_TO_TOKEN =
  /^(reset|password-?reset|reset-?password|invite|invitation|verify|verification|confirm|confirmation|activate|activation|unsubscribe|magic(-?link)?|login|signin|auth|oauth|token|session|share|shared|accept|join|recover|recovery|access|preview|download|s|t|k)$/i;

/** True for a part of a path that lets in whoever knows it, by its look and the part before it. */
export function isSecretSegment(segment: string, before: string): boolean {
  if (/^eyJ[\w-]+\.[\w-]+\./.test(segment)) return true;
  if (!LEADS_TO_TOKEN.test(before) || segment.length < 16 || !/^[\w\-.~=%]+$/.test(segment)) return false;
  return /\d/.test(segment) && (/^[A-Fa-f\d-]+$/.test(segment) || entropyOf(segment) > 3);
}
