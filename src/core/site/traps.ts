/** Ways in which a site can have addresses without end. */
export type TrapKind = 'too-long' | 'endless-path' | 'calendar' | 'variants' | 'session';

/** What each kind is called and what was done about it. */
export const TRAP_MEANS: Readonly<Record<TrapKind, string>> = {
  'too-long': 'Addresses longer than 2,000 characters were left out.',
  'endless-path': 'Paths that repeat themselves or go deeper than 20 folders were left out.',
  calendar: 'A calendar leads years ahead or back without end: its far pages were left out.',
  variants: 'One path came with ever new query parameters: the first 200 were visited.',
  session: 'Addresses carry session ids: they were visited without them.',
};

/** Query variants of one path that are visited. */
export const MAX_VARIANTS = 200;

/** How far a calendar is followed, in years either way. */
export const CALENDAR_YEARS = { back: 15, ahead: 2 } as const;

/**
 * Judges addresses one after the other; counts the query variants of each path. `year` is the present one.
 */
export class TrapWatch {
  private readonly variants = new Map<string, number>();

  constructor(private readonly year: number) {}

  /** The trap that a new address would lead into; undefined when it may be visited (it is then counted). */
  judge(url: string): TrapKind | undefined {
    if (url.length > 2000) return 'too-long';
    const mark = url.indexOf('?');
    const path = mark < 0 ? url : url.slice(0, mark);
    if (isEndless(path)) return 'endless-path';
    if (this.leadsFar(url)) return 'calendar';
    if (mark < 0) return undefined;
    const count = this.variants.get(path) ?? 0;
    if (count >= MAX_VARIANTS) return 'variants';
    this.variants.set(path, count + 1);
    return undefined;
  }

  /** A date in the address (2031-05, /2031/05/, year=2031) that is far from the present. */
  private leadsFar(url: string): boolean {
    const found =
      /[/?&=](?:date=|day=|month=|from=)?((?:19|20|21)\d\d)[-/](?:0?[1-9]|1[0-2])(?![0-9])/i.exec(url) ??
      /[?&]y(?:ea)?r?=((?:19|20|21)\d\d)(?![0-9])/i.exec(url);
    if (!found?.[1]) return false;
    const year = Number(found[1]);
    return year > this.year + CALENDAR_YEARS.ahead || year < this.year - CALENDAR_YEARS.back;
  }
}

/** A path deeper than 20 folders, one with a segment three times in a row, or a pair of segments so. */
function isEndless(path: string): boolean {
  const parts = path.split('/').slice(3).filter(Boolean);
  if (parts.length > 20) return true;
  for (const step of [1, 2, 3]) {
    for (let i = 0; i + step * 3 <= parts.length; i++) {
      let same = true;
      for (let k = i; k < i + step * 2 && same; k++) same = parts[k] === parts[k + step];
      if (same) return true;
    }
  }
  return false;
}
