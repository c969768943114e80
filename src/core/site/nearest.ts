import { pathOf } from '../capture/url';

/** A page that answers 200. */
export interface LivingPage {
  readonly url: string;
  readonly title?: string;
}

/** Words of a path or title: letters and digits, in lower case; endings like `.html` and index files say nothing. */
function wordsOf(text: string): string[] {
  let plain = text;
  try {
    plain = decodeURIComponent(text);
  } catch {
    // Percent signs that encode nothing stand for themselves.
  }
  return plain
    .toLowerCase()
    .replace(/\.(html?|php|aspx?|jsp)\b/g, ' ')
    .replace(/\bindex\b/g, ' ')
    .split(/[^\p{L}\p{N}]+/u)
    .filter((w) => w.length > 1);
}

interface Entry {
  readonly page: LivingPage;
  readonly path: ReadonlySet<string>;
  readonly title: ReadonlySet<string>;
  readonly last: string;
}

/** Pages of one word that are compared at most. */
const COMMON = 100;
/** Least likeness at which a page is proposed. */
const LEAST = 0.34;

/** Finds the living page that is most like a missing one, by the words of its path and title. */
export class NearestPages {
  private readonly entries: readonly Entry[];
  private readonly byWord = new Map<string, Entry[]>();
  private readonly weight = new Map<string, number>();
  /** Weight of a word that no page has. */
  private readonly unknown: number;

  constructor(living: readonly LivingPage[]) {
    // Of a page that answers over both schemes, the secure address is the one to name.
    const secure = new Set(living.map((p) => p.url));
    living = living.filter((p) => !p.url.startsWith('http:') || !secure.has(p.url.replace(/^http:/, 'https:')));
    this.entries = living.map((page) => {
      const path = wordsOf(pathOf(page.url));
      return { page, path: new Set(path), title: new Set(wordsOf(page.title ?? '')), last: path.at(-1) ?? '' };
    });
    for (const entry of this.entries)
      for (const word of new Set([...entry.path, ...entry.title])) {
        const list = this.byWord.get(word);
        if (list) list.push(entry);
        else this.byWord.set(word, [entry]);
      }
    this.unknown = Math.log(1 + this.entries.length);
    // A word that every page has tells nothing.
    for (const [word, list] of this.byWord) this.weight.set(word, Math.log(1 + this.entries.length / list.length));
  }

  /** The nearest page and why; undefined when none is like it. */
  of(address: string, title?: string): { url: string; why: string } | undefined {
    const path = wordsOf(pathOf(address));
    const own = { path: new Set(path), title: new Set(wordsOf(title ?? '')) };
    const tried = new Set<Entry>();
    let best: { entry: Entry; score: number } | undefined;
    const rareFirst = [...new Set([...own.path, ...own.title])].sort(
      (a, b) => (this.byWord.get(a)?.length ?? 0) - (this.byWord.get(b)?.length ?? 0),
    );
    for (const word of rareFirst) {
      const having = this.byWord.get(word) ?? [];
      // A word of many pages finds nothing that a rarer one has not found.
      if (having.length > COMMON && tried.size > 0) break;
      for (const entry of having.slice(0, COMMON)) {
        if (tried.has(entry)) continue;
        tried.add(entry);
        const alike = [
          this.likeness(own.path, entry.path),
          this.likeness(own.title, entry.title),
          // A title says what a path says only in part.
          this.likeness(own.path, entry.title),
          this.likeness(own.title, entry.path),
        ];
        const most = Math.max(...alike);
        const score = most + (entry.last !== '' && entry.last === path.at(-1) ? 0.2 : 0);
        if (!best || score > best.score) best = { entry, score };
      }
    }
    if (!best || best.score < LEAST) return undefined;
    const { page, path: ownPath, title: ownTitle } = best.entry;
    const shared = [...new Set([...own.path, ...own.title])].filter((w) => ownPath.has(w) || ownTitle.has(w));
    return { url: page.url, why: `shares ${shared.map((w) => `“${w}”`).join(', ')}` };
  }

  /** Weight of the shared words in that of all, 0 to 1. */
  private likeness(a: ReadonlySet<string>, b: ReadonlySet<string>): number {
    if (a.size === 0 || b.size === 0) return 0;
    let common = 0;
    let all = 0;
    for (const word of a) {
      const weight = this.weightOf(word);
      all += weight;
      if (b.has(word)) common += weight;
    }
    if (common === 0) return 0;
    for (const word of b) if (!a.has(word)) all += this.weightOf(word);
    return common / all;
  }

  private weightOf(word: string): number {
    return this.weight.get(word) ?? this.unknown;
  }
}
