import type { HeroPicture } from '../../core/pictures/hero';
import type { BestGains } from '../../core/plan/bestGains';
import type { GroupInfo } from '../../core/plan/sweepForecast';
import type { HeroesPicture } from '../../engine/services/loadPictures';
import type { OverviewPage } from '../../engine/services/sweepOverview';
import { bytes, count } from '../ui/format';

/** Where stands what Hero (`heroes`) or Blocking (`chains`) shows of a sweep for a visitor. */
export const picturesPath = (part: 'heroes' | 'chains', sweepId: number, visitor: string): string =>
  `/api/sweeps/${sweepId}/pictures?visitor=${encodeURIComponent(visitor)}&part=${part}`;

/** How heroes can be sorted. */
export const HERO_SORTS = { gain: 'gain', time: 'hero paint', place: 'place in the queue', page: 'page' } as const;
export type HeroSort = keyof typeof HERO_SORTS;

/** Width of a first screen in the gallery, px. */
export const HERO_WIDTH = 118;

/** How an address asks for heroes: sorted by what, and all of them or one of each template. */
export function heroOrder(query: URLSearchParams): HeroOrder {
  const asked = query.get('heroes');
  return {
    sort: asked !== null && asked in HERO_SORTS ? (asked as HeroSort) : 'gain',
    all: query.get('each') === 'page',
  };
}

interface HeroOrder {
  readonly sort: HeroSort;
  readonly all: boolean;
}

/** A fix that paints the hero of a page earlier, alone. */
export interface HeroGain {
  readonly group: GroupInfo;
  readonly savedMs: number;
}

/** A page in the gallery, with those of its template that load alike. */
export interface HeroEntry {
  readonly page: OverviewPage;
  readonly picture: HeroesPicture;
  /** The best fixes for this page, the best one first. */
  readonly gains: readonly HeroGain[];
  readonly like: readonly { readonly page: OverviewPage; readonly picture: HeroesPicture }[];
}

/** Pages with what their pictures say, one of each template unless `all`; the one of a template with most to gain. */
export function heroEntries(
  pages: readonly OverviewPage[],
  pictures: readonly HeroesPicture[],
  best: BestGains | undefined,
  { sort, all }: HeroOrder,
): HeroEntry[] {
  const byCapture = new Map(pictures.map((p) => [p.captureId, p]));
  const gainsAt = new Map(best?.pages);
  const gainsOf = (captureId: number): HeroGain[] =>
    (gainsAt.get(captureId) ?? []).flatMap(([at, savedMs]) => {
      const group = best?.groups[at];
      return group ? [{ group, savedMs }] : [];
    });
  const entries = pages.flatMap((page): HeroEntry[] => {
    const picture = byCapture.get(page.row.id);
    if (!picture) return [];
    return [{ page, picture, gains: gainsOf(page.row.id), like: [] }];
  });
  const sorted = entries.sort(
    (a, b) => VALUE[sort](b) - VALUE[sort](a) || (a.page.row.page < b.page.row.page ? -1 : 1),
  );
  if (all) return sorted;
  const heads = new Map<string, HeroEntry>();
  for (const e of sorted) {
    const key = e.page.template?.id ?? e.page.row.page;
    const head = heads.get(key);
    heads.set(key, head ? { ...head, like: [...head.like, e] } : e);
  }
  return [...heads.values()];
}

const VALUE: Readonly<Record<HeroSort, (e: HeroEntry) => number>> = {
  gain: (e) => e.gains[0]?.savedMs ?? 0,
  time: (e) => e.picture.hero.lcpMs,
  place: (e) => e.picture.hero.place,
  page: () => 0,
};

/** The hero's place in the queue and what went ahead, in a sentence. */
export function queueSentence({ place, requests, ahead }: HeroPicture): string {
  if (place === 0) return 'A text: nothing has to be fetched for it but the page and its fonts.';
  if (ahead.requests === 0) return `First of ${requests} requests.`;
  const pictures =
    ahead.pictures === 0
      ? 'no picture'
      : `${count(ahead.pictures, 'picture')}${ahead.hidden > 0 ? `, ${ahead.hidden} of them never shown` : ''}`;
  return `Request ${place} of ${requests}: ${count(ahead.requests, 'load')} (${bytes(ahead.bytes)}) went ahead, among them ${pictures}.`;
}
