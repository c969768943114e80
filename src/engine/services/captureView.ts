import { type Load, bodiesInMemory, header } from '../../core/capture/capture';
import { fixChanges } from '../../core/fixes';
import type { Fix } from '../../core/fixes/fix';
import type { LineChange } from '../../core/fixes/edits';
import { findHero } from '../../core/load/hero';
import type { OfferContext } from '../../core/fixes/fix';
import { readPage, type Page } from '../../core/source/page';
import { elementLabel } from '../../core/source/document';
import { listMutes } from '../store/mutes';
import { getBodies } from '../store/bodies';
import { getCapture, listCaptures, unpackSizes, type CaptureRow, type FullCapture } from '../store/captures';
import type { Store } from '../store/store';
import type { Box } from '../../core/capture/capture';
import type { Finding } from '../../core/checks/finding';
import type { LoadGraph } from '../../core/load/graph';
import { trustOf, type Trust } from '../../core/plan/forecast';

/** One load without what the screens do not show. */
export interface LoadRow {
  readonly index: number;
  readonly url: string;
  readonly status: number;
  readonly kind: Load['kind'];
  readonly protocol: string;
  readonly priority?: string;
  readonly renderBlocking?: boolean;
  readonly startMs: number;
  readonly endMs: number;
  readonly bytes: number;
  readonly decodedBytes: number;
  readonly encoding?: string;
  readonly cache?: string;
  readonly error?: string;
  readonly bodyHash?: string;
}

/** A finding, and why it is kept out of lists. */
export type ShownFinding = Finding & { readonly muted?: { readonly id: number; readonly reason: string } };

/** What the Page screen shows of one capture at first. */
export interface CaptureView {
  readonly row: CaptureRow;
  readonly requested: string;
  readonly notes: readonly string[];
  readonly conditions: FullCapture['capture']['conditions'];
  readonly measured: FullCapture['capture']['measured'];
  readonly hero: {
    readonly kind: string;
    readonly url?: string;
    readonly label?: string;
    readonly box?: Box;
    readonly seen: boolean;
    readonly bodyHash?: string;
  };
  /** Where pictures and the hero were drawn, by path. */
  readonly boxes: Readonly<Record<string, Box>>;
  readonly loads: readonly LoadRow[];
  readonly findings: readonly ShownFinding[];
  readonly fixes: readonly Fix[];
  readonly trust: Trust;
  /** The same page as another device sees it, in the same sweep. */
  readonly twins: readonly { readonly id: number; readonly device: 'phone' | 'desktop' }[];
}

/** Everything about one capture. */
export interface WholeCapture extends CaptureView {
  readonly fixes: readonly (Fix & { readonly changes: readonly LineChange[] })[];
  readonly source?: string;
  readonly graph: LoadGraph;
}

/**
 * Reads a stored capture back with its text bodies, or with all of them; undefined when there is none. Where the hero
 * was not observed the pictures come along: it is guessed from their sizes.
 */
export async function openCapture(
  store: Store,
  id: number,
  bodiesOf: 'text' | 'all' = 'text',
): Promise<{ full: FullCapture; page: Page } | undefined> {
  const full = await getCapture(store, id);
  if (!full) return undefined;
  const all = bodiesOf === 'all' || !full.capture.observations?.largestPaints.length;
  const wanted = full.capture.loads.filter(
    (l) => l.bodyHash && (all || ['document', 'style', 'script', 'frame'].includes(l.kind)),
  );
  const bodies = await getBodies(store, [...new Set(wanted.map((l) => l.bodyHash as string))]);
  const byIndex = new Map<number, Uint8Array>();
  for (const load of wanted) {
    const body = bodies.get(load.bodyHash as string);
    if (body) byIndex.set(load.index, body);
  }
  return { full, page: readPage(full.capture, bodiesInMemory(byIndex)) };
}

/** What fixes of a stored capture are offered and edited from. */
export function offerContext(full: FullCapture, page: Page): OfferContext {
  return { page, hero: findHero(page), sizes: unpackSizes(full.audit.sizes) };
}

/** The view of one capture without its source. */
export async function viewCapture(store: Store, id: number): Promise<CaptureView | undefined> {
  const opened = await openCapture(store, id);
  return opened && viewOf(store, opened.full, opened.page, offerContext(opened.full, opened.page));
}

/** Everything about one capture, with the source lines that each fix changes. */
export async function wholeCapture(store: Store, id: number): Promise<WholeCapture | undefined> {
  const opened = await openCapture(store, id);
  if (!opened) return undefined;
  const { full, page } = opened;
  const context = offerContext(full, page);
  const view = await viewOf(store, full, page, context);
  return {
    ...view,
    fixes: view.fixes.map((fix) => ({ ...fix, changes: fixChanges(fix, context) })),
    source: page.document?.text,
    graph: full.audit.graph,
  };
}

async function viewOf(store: Store, full: FullCapture, page: Page, { hero }: OfferContext): Promise<CaptureView> {
  const paint = full.capture.observations?.largestPaints.at(-1);
  const mutes = await listMutes(store, full.row.siteId);
  return {
    row: full.row,
    requested: full.capture.requested,
    notes: full.row.thinnedAt
      ? [
          'Its files are no longer kept, as the settings of the sweep say: source and pictures are gone.',
          ...full.capture.notes,
        ]
      : full.capture.notes,
    conditions: full.capture.conditions,
    measured: full.capture.measured,
    hero: {
      kind: hero.kind,
      url: hero.url,
      label: hero.element && page.document ? elementLabel(page.document, hero.element) : hero.tag,
      box: paint?.box,
      seen: hero.seen,
      bodyHash: hero.load?.bodyHash,
    },
    boxes: boxesOf(full.capture),
    loads: full.capture.loads.map(loadRow),
    findings: full.findings.map((f) => {
      const mute = mutes.find(
        (m) => m.value === (m.scope === 'check' ? f.check : m.scope === 'cause' ? f.cause : f.id),
      );
      return mute ? { ...f, muted: { id: mute.id, reason: mute.reason } } : f;
    }),
    fixes: full.audit.fixes,
    trust: trustOf(full.audit.graph),
    twins: (await listCaptures(store, full.row.sweepId))
      .filter((c) => c.page === full.row.page && c.device !== full.row.device)
      .map(({ id: twin, device }) => ({ id: twin, device })),
  };
}

/** Boxes of pictures, embedded documents and the hero by path of their elements, CSS pixels of the page. */
export function boxesOf(capture: FullCapture['capture']): Record<string, Box> {
  const out: Record<string, Box> = {};
  for (const p of capture.observations?.pictures ?? []) out[p.path] = p.box;
  for (const e of capture.observations?.embedded ?? []) out[e.path] = e.box;
  const hero = capture.observations?.largestPaints.at(-1);
  if (hero?.path && hero.box) out[hero.path] = hero.box;
  return out;
}

function loadRow(load: Load): LoadRow {
  return {
    index: load.index,
    url: load.url,
    status: load.status,
    kind: load.kind,
    protocol: load.protocol === 'h2' ? 'HTTP/2' : 'HTTP/1.1',
    priority: load.priority,
    renderBlocking: load.renderBlocking,
    startMs: load.startMs,
    endMs: load.endMs,
    bytes: load.headerBytes + load.bodyBytes,
    decodedBytes: load.decodedBytes,
    encoding: header(load.responseHeaders, 'content-encoding'),
    cache: header(load.responseHeaders, 'cache-control'),
    error: load.error,
    bodyHash: load.kind === 'image' ? load.bodyHash : undefined,
  };
}
