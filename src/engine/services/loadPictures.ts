import type { Box, Capture, Device } from '../../core/capture/capture';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import { firstPaintPicture, type FirstPaintPicture } from '../../core/pictures/blocking';
import { heroPicture, type HeroPicture } from '../../core/pictures/hero';
import { codeStamp } from '../codeStamp';
import { auditsOf, deviceIn, listCaptures, recordedCapture } from '../store/captures';
import { findingsOfCaptures } from '../store/findings';
import { isKept, keepOnce, readKept } from '../store/kept';
import { placesOf } from '../store/pagePlaces';
import type { Store } from '../store/store';
import { inSweepThread } from './sweepThread';

/** What the pictures of Hero and Blocking show of one recorded page. */
export interface LoadPicture {
  readonly captureId: number;
  /** Width and height of the first screen, CSS pixels. */
  readonly screen: readonly [number, number];
  readonly element: {
    readonly kind: string;
    readonly url?: string;
    readonly tag?: string;
    readonly box?: Box;
    /** Seen by the recorder, or guessed from the source. */
    readonly seen: boolean;
  };
  readonly hero: HeroPicture;
  readonly firstPaint: FirstPaintPicture;
  /** Findings that say how the hero is made late, besides its place in the queue. */
  readonly late: readonly { readonly id: string; readonly title: string }[];
}

/** The pictures of all recorded pages of a sweep for one visitor. */
export interface LoadPictures {
  readonly device: Device;
  readonly pages: readonly LoadPicture[];
}

/** What Hero shows of a page. */
export type HeroesPicture = Omit<LoadPicture, 'firstPaint'>;

/** What Hero shows of a sweep. */
export interface HeroPictures {
  readonly device: Device;
  readonly pages: readonly HeroesPicture[];
}

/** The page of a template that is painted last, and what its first paint waits for. */
export interface TemplateChain {
  readonly captureId: number;
  readonly firstPaint: FirstPaintPicture;
  /** Other recorded pages of the template. */
  readonly like: number;
}

/** What Blocking shows of a sweep: a chain for each template, the latest paint first. */
export interface TemplateChains {
  readonly device: Device;
  readonly chains: readonly TemplateChain[];
}

/** Pictures without what the first paint waits for. */
export const heroesOf = ({ device, pages }: LoadPictures): HeroPictures => ({
  device,
  pages: pages.map(({ firstPaint: _, ...hero }) => hero),
});

/** Of each template the page that is painted last; pages of no template stand for themselves. */
export async function chainsOfTemplates(
  store: Store,
  sweepId: number,
  { device, pages }: LoadPictures,
): Promise<TemplateChains> {
  const rows = await listCaptures(store, sweepId, device);
  const places = await placesOf(
    store,
    sweepId,
    rows.map((r) => r.page),
  );
  const templateOf = new Map(rows.map((r) => [r.id, places.get(r.page)?.template?.id ?? r.page]));
  const latest = new Map<string, TemplateChain>();
  for (const { captureId, firstPaint } of pages) {
    const key = templateOf.get(captureId);
    if (key === undefined) continue;
    const known = latest.get(key);
    const like = known ? known.like + 1 : 0;
    const isLater = !known || firstPaint.fcpMs > known.firstPaint.fcpMs;
    latest.set(key, isLater ? { captureId, firstPaint, like } : { ...known, like });
  }
  return { device, chains: [...latest.values()].sort((a, b) => b.firstPaint.fcpMs - a.firstPaint.fcpMs) };
}

const picturesName = (visitor: Visitor) => `pictures ${visitor.id} ${codeStamp()}`;

/** The pictures for a visitor if they have been made. */
function keptPictures(store: Store, sweepId: number, visitor: Visitor): Promise<LoadPictures | undefined> {
  return readKept(store, sweepId, picturesName(visitor));
}

/** Whether the pictures for a visitor have been made. */
export const picturesAreKept = (store: Store, sweepId: number, visitor: Visitor): Promise<boolean> =>
  isKept(store, sweepId, picturesName(visitor));

/** As `loadPictures`, made in a thread of its own. */
export async function picturesInThread(
  store: Store,
  sweepId: number,
  visitor: Visitor,
): Promise<LoadPictures | undefined> {
  return (
    (await keptPictures(store, sweepId, visitor)) ??
    inSweepThread<LoadPictures>(store, sweepId, { make: 'pictures', visitor: visitor.id })
  );
}

/** Works out what Hero and Blocking show, once for each visitor; undefined for a sweep that is not there. */
export function loadPictures(store: Store, sweepId: number, visitor: Visitor): Promise<LoadPictures | undefined> {
  return keepOnce(store, sweepId, picturesName(visitor), async () => {
    const device = await deviceIn(store, sweepId, deviceOf(visitor));
    const rows = await listCaptures(store, sweepId, device);
    const pages: LoadPicture[] = [];
    for await (const { row, audit } of auditsOf(store, rows)) {
      const capture = await recordedCapture(store, row.id);
      if (!capture) continue;
      const own = (await findingsOfCaptures(store, [row.id])).get(row.id) ?? [];
      const paint = capture.observations?.largestPaints.at(-1);
      const { kind, url } = audit.graph.hero;
      pages.push({
        captureId: row.id,
        screen: [capture.conditions.screenWidth, capture.conditions.screenHeight],
        element: { kind, url, tag: paint?.tag, box: paint?.box, seen: paint !== undefined },
        hero: heroPicture(audit.graph, visitor, neverShown(capture)),
        firstPaint: firstPaintPicture(audit.graph, visitor, new Map(audit.usedShares)),
        late: own
          .filter((f) => f.concern === 'hero' && f.check !== 'hero-late')
          .map(({ id, title }) => ({ id, title })),
      });
    }
    return { device, pages };
  });
}

/** Pictures that are nowhere shown to the visitor. */
function neverShown(capture: Capture): Set<string> {
  const pictures = capture.observations?.pictures ?? [];
  const shown = new Set(pictures.filter((p) => p.visible).map((p) => p.url));
  return new Set(pictures.filter((p) => !shown.has(p.url)).map((p) => p.url));
}
