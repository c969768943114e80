import { InputError } from '../capture/errors';

/** Tells whether an address is meant. */
export type Matcher = (url: string) => boolean;

/**
 * Reads one pattern of a person: `/talks/` means that folder and what is in it, `*` stands for anything
 * (`*.pdf`, `/plants/*print`), `?` is a plain question mark, and one with `://` in it is matched with the whole
 * address instead of path and query. Letters count as they are written.
 * @throws InputError for an empty pattern.
 */
export function readPattern(pattern: string): Matcher {
  const text = pattern.trim();
  if (!text) throw new InputError('A pattern is empty.', 'patterns', 'Write a folder like /talks/ or *.pdf.');
  const whole = text.includes('://');
  // A piece at a time from left to right: no pattern can take long, whatever stands in it.
  const pieces = (whole || /^[/*]/.test(text) ? text : `*${text}`).split('*');
  const open = text.endsWith('*') || text.endsWith('/') || !text.includes('*');
  return (url) => {
    const subject = whole ? url : pathAndQuery(url);
    let at = 0;
    for (const [i, piece] of pieces.entries()) {
      if (i === 0) {
        if (!subject.startsWith(piece)) return false;
        at = piece.length;
      } else if (i === pieces.length - 1 && !open) {
        return subject.length - piece.length >= at && subject.endsWith(piece);
      } else {
        const found = subject.indexOf(piece, at);
        if (found < 0) return false;
        at = found + piece.length;
      }
    }
    return true;
  };
}

function pathAndQuery(url: string): string {
  const scheme = url.indexOf('://');
  const slash = url.indexOf('/', scheme < 0 ? 0 : scheme + 3);
  return slash < 0 ? '/' : url.slice(slash);
}

/** What include and exclude patterns together keep: any of `include` (or all when none), none of `exclude`. */
export function keeps(include: readonly string[], exclude: readonly string[]): Matcher {
  const wanted = include.filter((p) => p.trim()).map(readPattern);
  const unwanted = exclude.filter((p) => p.trim()).map(readPattern);
  return (url) => (wanted.length === 0 || wanted.some((m) => m(url))) && !unwanted.some((m) => m(url));
}
