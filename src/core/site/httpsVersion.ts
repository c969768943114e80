/** What the https version of a file that is fetched by http turned out to be. */
export type VersionVerdict = 'same bytes' | 'same size' | 'other file' | 'error page' | 'no https';

/** A file that is fetched by http, and its https version. */
export interface HttpsVersion {
  readonly url: string;
  readonly own: boolean;
  readonly pages: number;
  readonly verdict: VersionVerdict;
  readonly says: string;
}

/** A page of another site that is linked by http, and whether it can be had by https. */
export interface OutsideLink {
  readonly url: string;
  /** Places that link to it. */
  readonly links: number;
  /** Undefined when its robots.txt asks not to request it. */
  readonly secure?: boolean;
  readonly says: string;
}

/** What an address brought. */
export interface FetchedFile {
  readonly status: number;
  readonly type: string;
  readonly bytes: number;
  readonly hash: string;
  readonly error?: string;
}

/** Compares a file with its https version: decides between changing the address and hosting the file oneself. */
export function compareVersions(http: FetchedFile, https: FetchedFile): { verdict: VersionVerdict; says: string } {
  if (https.error !== undefined)
    return { verdict: 'no https', says: `No https version: ${https.error}. Host the file yourself, or do without it.` };
  if (https.status >= 400 || https.status === 0)
    return {
      verdict: http.status >= 400 ? 'error page' : 'no https',
      says:
        http.status >= 400
          ? `Both versions respond with an error (${http.status} and ${https.status}): remove the reference.`
          : `The https version responds with ${https.status}: host the file yourself, or do without it.`,
    };
  const kind = (type: string) => type.split(/[;/]/)[0]?.trim().toLowerCase() ?? '';
  if (http.error === undefined && http.status < 400) {
    if (http.hash === https.hash)
      return { verdict: 'same bytes', says: 'Works over https with the same bytes: change the URL.' };
    if (kind(http.type) !== kind(https.type))
      return {
        verdict: 'error page',
        says: `The https version is something else (${https.type || 'no type'} instead of ${http.type || 'no type'}): host the file yourself.`,
      };
    if (http.bytes === https.bytes)
      return {
        verdict: 'same size',
        says: 'Works over https with other bytes of the same size: look at it, then change the URL.',
      };
    return {
      verdict: 'other file',
      says: `Works over https, but with other contents (${https.bytes} instead of ${http.bytes} bytes): look at it before you change the URL.`,
    };
  }
  return { verdict: 'other file', says: 'Works over https only: change the URL.' };
}
