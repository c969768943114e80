import { hostOf } from '../capture/url';
import type { Device } from '../capture/capture';
import type { News, SweepCause } from '../site/news';
import { isGood, type Verdict } from '../site/entrances';
import type { SweepFile } from './files';

/** A recorded page in two sweeps, for one visitor. Undefined where a sweep did not record it. */
export interface PageThenNow {
  readonly page: string;
  readonly title: string;
  /** Captures, for links. */
  readonly then?: PageFigures;
  readonly now?: PageFigures;
}

export interface PageFigures {
  readonly captureId: number;
  readonly lcpMs: number;
  readonly fcpMs: number;
  readonly bytes: number;
}

/** A file whose bytes changed, or that is in one of two sweeps only. Bytes as transferred once; undefined where it was not. */
export interface FileThenNow {
  readonly url: string;
  readonly then?: number;
  readonly now?: number;
  /** Pages that use it now, or did. */
  readonly pages: number;
}

/** Facts of a page that are compared. */
export const COMPARED_FACTS = ['status', 'title', 'canonical', 'robots', 'redirect', 'template'] as const;
export type ComparedFact = (typeof COMPARED_FACTS)[number];

export type FactsOfPage = Readonly<Record<ComparedFact, string | null>>;

/** One fact of a page that changed. */
export interface FactThenNow {
  readonly page: string;
  readonly fact: ComparedFact;
  readonly then: string | null;
  readonly now: string | null;
}

/** A way in, or a certificate, that fares otherwise than before. */
export interface EntranceThenNow {
  readonly from: string;
  readonly what: 'entrance' | 'certificate';
  readonly then: string;
  readonly now: string;
  /** Better or worse than before; undefined for neither. */
  readonly better?: boolean;
}

/** Two sweeps of a site beside each other, for one visitor. */
export interface SweepComparison {
  readonly then: { readonly id: number; readonly day: string };
  readonly now: { readonly id: number; readonly day: string };
  readonly device: Device;
  readonly pages: readonly PageThenNow[];
  readonly news: News;
  readonly stayed: readonly SweepCause[];
  readonly files: readonly FileThenNow[];
  readonly facts: readonly FactThenNow[];
  /** Pages that both sweeps visited. */
  readonly pagesOfBoth: number;
  /** Undefined where the two sweeps were not both probed. */
  readonly entrances?: readonly EntranceThenNow[];
}

/** Pages of both sweeps, the biggest movers first, then those of one sweep; a pure function. */
export function comparePages(
  then: ReadonlyMap<string, PageFigures & { readonly title: string }>,
  now: ReadonlyMap<string, PageFigures & { readonly title: string }>,
): PageThenNow[] {
  const all = [...new Set([...now.keys(), ...then.keys()])].map((page): PageThenNow => {
    const [a, b] = [then.get(page), now.get(page)];
    return { page, title: (b ?? a)?.title ?? '', then: a && figures(a), now: b && figures(b) };
  });
  const moved = (p: PageThenNow) => (p.then && p.now ? Math.abs(p.now.lcpMs - p.then.lcpMs) : -1);
  return all.sort((a, b) => moved(b) - moved(a) || (a.page < b.page ? -1 : 1));
}

const figures = ({ captureId, lcpMs, fcpMs, bytes }: PageFigures): PageFigures => ({ captureId, lcpMs, fcpMs, bytes });

/** A change of fewer bytes is noise: headers differ from answer to answer. */
const LEAST_BYTES = 200;

/**
 * Files that grew, shrank, are new or gone, the biggest change over all pages first; a pure function.
 * @param both pages that both sweeps recorded, by their captures then and now: others tell nothing of a file
 */
export function compareFiles(
  then: readonly SweepFile[],
  now: readonly SweepFile[],
  both: { readonly then: ReadonlySet<number>; readonly now: ReadonlySet<number> },
): FileThenNow[] {
  const usedBy = (f: SweepFile, captures: ReadonlySet<number>) => f.uses.filter(([id]) => captures.has(id)).length;
  const before = new Map(then.map((f) => [f.url, f]));
  const after = new Map(now.map((f) => [f.url, f]));
  const out = [...new Set([...before.keys(), ...after.keys()])].flatMap((url): FileThenNow[] => {
    const [a, b] = [before.get(url), after.get(url)];
    const [was, is] = [a ? usedBy(a, both.then) : 0, b ? usedBy(b, both.now) : 0];
    if (was === 0 && is === 0) return [];
    if (was > 0 && is > 0 && Math.abs((a?.bytes ?? 0) - (b?.bytes ?? 0)) < LEAST_BYTES) return [];
    return [
      { url, then: was > 0 ? a?.bytes : undefined, now: is > 0 ? b?.bytes : undefined, pages: Math.max(was, is) },
    ];
  });
  const weight = (f: FileThenNow) => Math.abs((f.now ?? 0) - (f.then ?? 0)) * f.pages;
  return out.sort((a, b) => weight(b) - weight(a) || (a.url < b.url ? -1 : 1));
}

/** Facts that changed on pages that both sweeps visited; a pure function. */
export function compareFacts(
  pages: readonly { readonly page: string; readonly then: FactsOfPage; readonly now: FactsOfPage }[],
): FactThenNow[] {
  return pages.flatMap(({ page, then, now }) =>
    COMPARED_FACTS.flatMap((fact) =>
      (then[fact] ?? '') === (now[fact] ?? '') ? [] : [{ page, fact, then: then[fact], now: now[fact] }],
    ),
  );
}

/** A probe as far as it is compared. */
export interface ComparedProbe {
  readonly entrances: readonly {
    readonly from: string;
    readonly family: string;
    readonly why: string;
    readonly verdict: Verdict;
  }[];
  readonly certificates: readonly { readonly host: string; readonly faults: readonly string[] }[];
}

/** Entrances and certificates that fare otherwise in a later probe; a pure function. */
export function compareProbes(then: ComparedProbe, now: ComparedProbe): EntranceThenNow[] {
  const key = (e: ComparedProbe['entrances'][number]) => `${e.from} ${e.family}`;
  const before = new Map(then.entrances.filter((e) => e.why === 'entrance').map((e) => [key(e), e.verdict]));
  const entrances = now.entrances.flatMap((e): EntranceThenNow[] => {
    const was = before.get(key(e));
    if (was === undefined || was === e.verdict) return [];
    const better = isGood(was) === isGood(e.verdict) ? undefined : isGood(e.verdict);
    return [{ from: e.from, what: 'entrance', then: was, now: e.verdict, better }];
  });
  const faults = new Map(then.certificates.map((c) => [c.host, c.faults.join(', ')]));
  const certificates = now.certificates.flatMap((c): EntranceThenNow[] => {
    const was = faults.get(c.host);
    const is = c.faults.join(', ');
    if (was === undefined || was === is) return [];
    const better = was === '' ? false : is === '' ? true : undefined;
    return [{ from: c.host, what: 'certificate', then: was || 'no fault', now: is || 'no fault', better }];
  });
  return [...entrances, ...certificates].sort((a, b) => (hostOf(a.from) < hostOf(b.from) ? -1 : 1));
}

/** A cause with the number of its pages in their place: thousands of causes stay from sweep to sweep. */
export type CountedCause = Omit<SweepCause, 'pages'> & { readonly pages: number };

/** A comparison as it is shown: its files hold the pages of causes that stayed. */
export type ShownComparison = Omit<SweepComparison, 'stayed'> & { readonly stayed: readonly CountedCause[] };

/** Causes by what became of them. */
export function statesOf<C>({ news, stayed }: { readonly news: News; readonly stayed: readonly C[] }) {
  return [
    { state: 'new', list: news.appeared },
    { state: 'came back', list: news.cameBack },
    { state: 'gone', list: news.gone },
    { state: 'stayed', list: stayed },
    { state: 'not looked at again', list: news.notLookedAt },
  ] as const;
}
