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

/** Least likeness at which a page is proposed. */
const LEAST = 0.34;

/** Finds the living page that is most like a missing one, by the words of its path and title. */
export class NearestPages {
  private readonly entries: readonly Entry[];
  private readonly byWord = new Map<string, Entry[]>();
  private readonly weight = new Map<string, number>();

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
    // A word that every page has tells nothing.
    for (const [word, list] of this.byWord) this.weight.set(word, Math.log(1 + this.entries.length / list.length));
  }

  /** The nearest page and why; undefined when none is like it. */
  of(address: string, title?: string): { url: string; why: string } | undefined {
    const path = wordsOf(pathOf(address));
    const own = { path: new Set(path), title: new Set(wordsOf(title ?? '')) };
    const tried = new Set<Entry>();
    let best: { entry: Entry; score: number; shared: string[] } | undefined;
    const rareFirst = [...new Set([...own.path, ...own.title])].sort(
      (a, b) => (this.byWord.get(a)?.length ?? 0) - (this.byWord.get(b)?.length ?? 0),
    );
    for (const word of rareFirst.slice(0, 8)) {
      for (const entry of (this.byWord.get(word) ?? []).slice(0, 500)) {
        if (tried.has(entry)) continue;
        tried.add(entry);
        const alike = [
          this.likeness(own.path, entry.path),
          this.likeness(own.title, entry.title),
          // A title says what a path says only in part.
          this.likeness(own.path, entry.title),
          this.likeness(own.title, entry.path),
        ];
        const top = alike.reduce((a, b) => (b.score > a.score ? b : a));
        const score = top.score + (entry.last !== '' && entry.last === path.at(-1) ? 0.2 : 0);
        if (!best || score > best.score) best = { entry, score, shared: top.shared };
      }
    }
    if (!best || best.score < LEAST) return undefined;
    return { url: best.entry.page.url, why: `shares ${best.shared.map((w) => `“${w}”`).join(', ')}` };
  }

  /** Weight of the shared words in that of all, 0 to 1. */
  private likeness(a: ReadonlySet<string>, b: ReadonlySet<string>): { score: number; shared: string[] } {
    const shared: string[] = [];
    let common = 0;
    let all = 0;
    for (const word of new Set([...a, ...b])) {
      const weight = this.weight.get(word) ?? Math.log(1 + this.entries.length);
      all += weight;
      if (!a.has(word) || !b.has(word)) continue;
      common += weight;
      shared.push(word);
    }
    return { score: all === 0 ? 0 : common / all, shared };
  }
}
