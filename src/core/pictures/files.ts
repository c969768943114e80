import { header, transferBytes, type Capture, type Load, type LoadKind } from '../capture/capture';
import { sameSite } from '../capture/site';
import { hostOf } from '../capture/url';
import type { Finding } from '../checks/finding';
import type { Fix } from '../fixes/fix';
import type { LoadGraph } from '../load/graph';
import { repeatVisit } from '../load/repeatVisit';
import { folderOf } from '../site/address';

/** One file (one address) with everything that the recorded pages of a sweep say of it. */
export interface SweepFile {
  readonly url: string;
  readonly host: string;
  /** First part of its path. */
  readonly folder: string;
  readonly kind: LoadKind;
  readonly type: string;
  readonly status: number;
  readonly protocol: 'HTTP/1.1' | 'HTTP/2';
  readonly encoding?: string;
  readonly thirdParty: boolean;
  /** Bytes as transferred once: the largest of its loads. */
  readonly bytes: number;
  readonly decodedBytes: number;
  /** Bytes as transferred over all pages, and how many of them these pages need. */
  readonly delivered: number;
  readonly needed: number;
  /** Why less is needed, in words; the reason that saves most. */
  readonly why?: string;
  /** Seconds for which a browser may use it again without asking; 0 for none, undefined where that is not known. */
  readonly freshS?: number;
  /** Widths and heights at which it is drawn, in CSS pixels, each once; `hidden` counts for none. */
  readonly drawn: readonly string[];
  /** Alternative texts as pages give them; an empty one is decoration. */
  readonly alts: readonly string[];
  /** Place in the order of requests, from 1: the middle one of its pages. */
  readonly place: number;
  /** Share of it that a page uses, 0 to 1: the largest of its pages; undefined where that was not examined. */
  readonly usedShare?: number;
  readonly bodyHash?: string;
  /** Bytes that a visitor who comes back a day later gets again, over all pages. */
  readonly again: number;
  /** Capture, bytes delivered, bytes needed, and bytes that come again a day later. */
  readonly uses: readonly (readonly [number, number, number, number])[];
}

/** One recorded page as files are counted from. */
export interface FilesOfPage {
  readonly captureId: number;
  readonly capture: Pick<Capture, 'page' | 'loads' | 'observations'>;
  readonly graph: LoadGraph;
  readonly fixes: readonly Fix[];
  readonly findings: readonly Finding[];
  /** How much of a file the page uses, by address. */
  readonly usedShares: ReadonlyMap<string, number>;
  /** Alternative texts of pictures in the source, by address. */
  readonly alts: ReadonlyMap<string, readonly string[]>;
}

/** Kinds of fix that leave a file there, with fewer bytes. */
const SMALLER: Readonly<Partial<Record<Fix['kind'], string>>> = {
  'image-resize': 'larger than displayed, or poorly compressed',
  'text-compress': 'sent without compression',
  minify: 'not minified',
  'style-remove-unused': 'contains unused rules',
  'font-convert': 'not in the smallest format',
};

/** Checks whose finding says that a page does not need the file at all. */
const USELESS: Readonly<Record<string, string>> = {
  'picture-hidden': 'never shown to this visitor',
  'preload-unused': 'preloaded but not used',
  'duplicate-body': 'the same content at a second URL',
  'library-twice': 'a library that is loaded twice',
};

/** Most texts of one kind that are kept of a file. */
const MOST_TEXTS = 8;

/** The files of recorded pages, put together page by page: no page is held. */
export class FilesOfSweep {
  private readonly found = new Map<string, Collected>();
  private added = 0;

  /** How many pages were added. */
  get pages(): number {
    return this.added;
  }

  /** Counts a page's loads among what the others have. */
  add(page: FilesOfPage): void {
    this.added++;
    const wants = wantsOf(page);
    const fresh = new Map(page.graph.fetches.map((f) => [f.load, f.keep && (f.keep.store ? f.keep.freshS : 0)]));
    const again = new Map(
      repeatVisit(page.graph).fetches.map((f) => [f.load, f.kept ? 0 : f.headerBytes + f.bodyBytes]),
    );
    const order = [...page.capture.loads].sort((a, b) => a.startMs - b.startMs || a.index - b.index);
    order.forEach((load, i) => {
      const file = this.found.get(load.url) ?? collect(load, page.capture.page);
      this.found.set(load.url, file);
      const delivered = transferBytes(load);
      const want = wants.get(load.url);
      const needed = want ? Math.min(delivered, want.bytes) : delivered;
      const use = file.uses.get(page.captureId);
      const later = Math.min(delivered, again.get(load.index) ?? delivered);
      file.uses.set(page.captureId, [(use?.[0] ?? 0) + delivered, (use?.[1] ?? 0) + needed, (use?.[2] ?? 0) + later]);
      if (want && delivered - needed > (file.why?.saved ?? 0)) file.why = { saved: delivered - needed, text: want.why };
      file.places.push(i + 1);
      if (delivered > file.bytes) Object.assign(file, { bytes: delivered, load });
      file.freshS ??= fresh.get(load.index);
      const used = page.usedShares.get(load.url);
      if (used !== undefined) file.usedShare = Math.max(file.usedShare ?? 0, used);
    });
    this.addPictures(page);
  }

  /** How pictures are drawn, and what stands in their place. */
  private addPictures({ capture, alts }: FilesOfPage): void {
    for (const p of capture.observations?.pictures ?? []) {
      const file = this.found.get(p.url);
      if (!file) continue;
      const size = p.visible ? `${Math.round(p.box.width)} × ${Math.round(p.box.height)}` : 'hidden';
      if (file.drawn.size < MOST_TEXTS) file.drawn.add(size);
    }
    for (const [url, texts] of alts)
      for (const text of texts) {
        const file = this.found.get(url);
        if (file && file.alts.size < MOST_TEXTS) file.alts.add(text);
      }
  }

  /** Every file so far, the heaviest over all pages first. */
  files(): SweepFile[] {
    return [...this.found]
      .map(([url, file]) => fileOf(url, file))
      .sort((a, b) => b.delivered - a.delivered || (a.url < b.url ? -1 : 1));
  }
}

interface Collected {
  load: Load;
  readonly thirdParty: boolean;
  bytes: number;
  readonly uses: Map<number, readonly [number, number, number]>;
  why?: { readonly saved: number; readonly text: string };
  freshS?: number;
  usedShare?: number;
  readonly drawn: Set<string>;
  readonly alts: Set<string>;
  readonly places: number[];
}

const collect = (load: Load, page: string): Collected => ({
  load,
  thirdParty: !sameSite(hostOf(load.url), hostOf(page)),
  bytes: -1,
  uses: new Map(),
  drawn: new Set(),
  alts: new Set(),
  places: [],
});

function fileOf(url: string, file: Collected): SweepFile {
  const { load } = file;
  const uses = [...file.uses].map(([id, [delivered, needed, later]]) => [id, delivered, needed, later] as const);
  const sum = (at: 1 | 2 | 3) => uses.reduce((n, use) => n + use[at], 0);
  return {
    url,
    host: hostOf(url),
    folder: folderOf(url),
    kind: load.kind,
    type: load.mimeType.split(';')[0]?.trim() ?? '',
    status: load.status,
    protocol: load.protocol === 'h2' ? 'HTTP/2' : 'HTTP/1.1',
    encoding: header(load.responseHeaders, 'content-encoding'),
    thirdParty: file.thirdParty,
    bytes: Math.max(0, file.bytes),
    decodedBytes: load.decodedBytes,
    delivered: sum(1),
    needed: sum(2),
    again: sum(3),
    why: file.why?.text,
    freshS: file.freshS,
    drawn: [...file.drawn],
    alts: [...file.alts],
    place: [...file.places].sort((a, b) => a - b)[Math.floor(file.places.length / 2)] ?? 0,
    usedShare: file.usedShare,
    bodyHash: load.bodyHash,
    uses,
  };
}

/** How many bytes of its files a page needs, where that is less than it gets; by address. */
function wantsOf({ capture, fixes, findings }: FilesOfPage): Map<string, { bytes: number; why: string }> {
  const out = new Map<string, { bytes: number; why: string }>();
  const want = (url: string, bytes: number, why: string) => {
    const known = out.get(url);
    if (!known || bytes < known.bytes) out.set(url, { bytes, why });
  };
  const headers = new Map(capture.loads.map((l) => [l.url, l.headerBytes]));
  for (const fix of fixes) {
    const why = SMALLER[fix.kind];
    const bytes = fix.values['bytes'];
    if (why !== undefined && bytes !== undefined && headers.has(fix.target))
      want(fix.target, bytes + (headers.get(fix.target) ?? 0), why);
  }
  for (const finding of findings) {
    const why = USELESS[finding.check];
    if (why === undefined) continue;
    for (const { url } of finding.evidence.files ?? [{ url: finding.target }]) want(url, 0, why);
  }
  return out;
}
