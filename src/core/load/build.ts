import { cachePolicy } from '../source/cachePolicy';
import { type Load, type Measured, type Work, header } from '../capture/capture';
import { hostOf, originOf } from '../capture/url';
import { topOfHead } from '../source/document';
import { mediaMatches, screenOf } from '../source/media';
import { asksToBlock, shownAddress, type Page } from '../source/page';
import { discoverLoad, type DiscoveryContext } from './discovery';
import type { Hops } from './drafts';
import type { Discovery, DocumentNode, FetchNode, HeroNode, Keep, LoadGraph, PriorityLevel, StyleNode } from './graph';
import { BROWSER } from './browser';
import { listCallbacks } from './callbacks';
import { goesWithoutCredentials, listPreconnects } from './credentials';
import { comesEarly } from './earlyHints';
import { seenAtFirst } from './earlyView';
import { ESTIMATED_WORK } from './estimates';
import { findHero } from './hero';
import { presentationOf } from './presentation';
import { listScripts, scriptNodes, scriptThatBuilt } from './scripts';
import { serversByUrgency } from './serverOrder';
import { serverWaits, setupTimes } from './serverTimes';
import { shiftsOf } from './shifts';
import { firstContent } from './firstContent';
import { contentFont, fontsLeftToBrowser, hidingFont, sheetsOfFonts } from './textFonts';
import { undrawnAround } from '../source/hidden';
import { isLinkOf } from '../source/linkRel';

const LEVELS: Readonly<Record<string, PriorityLevel>> = { VeryHigh: 4, High: 3, Medium: 2, Low: 1, VeryLow: 0 };

/** Builds the load graph of a parsed capture. */
export function buildGraph(page: Page): LoadGraph {
  const { capture } = page;
  const loads = capture.loads;
  const documentLoad = loads[capture.documentIndex] as Load;
  const text = page.document?.text ?? '';
  const decodedBytes = Math.max(1, documentLoad.decodedBytes);
  const perChar = text.length > 0 ? decodedBytes / text.length : 1;
  const byteAt = (offset: number) => Math.min(decodedBytes, Math.round(offset * perChar));
  const hops = linkRedirects(loads);
  const scripts = listScripts(page, byteAt);
  const callbacks = listCallbacks(capture, scripts);
  const context: DiscoveryContext = { page, byteAt, decodedBytes, hops, scripts, callbacks };
  const hero = findHero(page);
  const visible = new Set(
    page.pictures
      .filter((p) => p.visible && p.box.y < capture.conditions.screenHeight)
      .map((p) => page.loadOf(p.url)?.index),
  );
  const pixels = new Map(
    page.pictures.map((p) => [page.loadOf(p.url)?.index, (p.naturalWidth ?? 0) * (p.naturalHeight ?? 0)]),
  );
  const early = seenAtFirst(page);
  const lazy = lazyLoads(page);
  const setups = setupTimes(page);
  const waits = serverWaits(page);
  const shifts = shiftsOf(page);
  const leftToBrowser = fontsLeftToBrowser(page);
  const fontRules = sheetsOfFonts(page);

  const fetches = loads.map((load): FetchNode => {
    const discovery = discoverLoad(context, load);
    return {
      id: load.index,
      load: load.index,
      url: load.url,
      origin: originOf(load.url),
      kind: load.kind,
      protocol: load.protocol,
      secure: load.url.startsWith('https:'),
      requestBytes: load.requestBytes,
      headerBytes: load.headerBytes,
      bodyBytes: load.bodyBytes,
      decodedBytes: load.decodedBytes,
      serverMs: waits[load.index] as number,
      ...(load.pauses && { pauses: load.pauses }),
      ...(load.earlyHints && { hintsMs: Math.max(0, load.earlyHints.ms - capture.conditions.rttMs) }),
      ...(comesEarly(page, load) && { early: true }),
      setupMs: setups.get(originOf(load.url)) ?? 0,
      priority: load.priority ? (LEVELS[load.priority] ?? 1) : defaultPriority(page, load),
      discovery,
      redirectTo: hops.next.get(load.index),
      refused: load.mixedBlocked === true,
      holdsLoad:
        !['data', 'media', 'other', 'manifest'].includes(load.kind) &&
        !lazy.has(load.index) &&
        !(discovery.by === 'event' && discovery.event === 'load'),
      inViewport: visible.has(load.index),
      seenAtFirst: early.has(load.index) && !visible.has(load.index) ? true : undefined,
      pixels: load.kind === 'image' ? pixels.get(load.index) || load.bodyBytes * ESTIMATED_WORK.pixelsPerByte : 0,
      anonymous: goesWithoutCredentials(page, load) ? true : undefined,
      hidesUntilMs: leftToBrowser.has(load.index) ? BROWSER.autoFontMs : undefined,
      ruleIn: discovery.by === 'style' ? undefined : fontRules.get(load.index),
      keep: keepOf(load),
    };
  });
  const heroFetch = hero.url ? (firstHop(hops, hero.load?.index) ?? -1) : -1;
  const built = (discovery: Discovery | undefined, shownMs: number | undefined) =>
    scriptThatBuilt(discovery, shownMs, scripts, callbacks);
  const { lcpMs } = capture.measured;
  // In the markup and yet not drawn before a script has run, or not in the markup at all.
  const builtBy = hero.element
    ? hero.seen && undrawnAround(page, hero.element)
      ? built(undefined, lcpMs)
      : -1
    : hero.kind === 'background'
      ? -1
      : built(fetches[heroFetch]?.discovery, lcpMs);
  const heroNode: HeroNode = {
    kind: heroFetch >= 0 ? hero.kind : 'text',
    fetch: heroFetch,
    offset: hero.element
      ? byteAt(hero.kind === 'text' ? hero.element.end : hero.element.startTagEnd)
      : byteAt(page.document?.bodyStart ?? 0),
    builtBy,
    font: heroFetch >= 0 ? -1 : hidingFont(page, hero.element),
    path: hero.path,
    url: hero.url,
  };
  const graph: LoadGraph = {
    page: capture.page,
    fetches,
    scripts: scriptNodes(scripts, callbacks),
    styles: listStyles(page, byteAt, hops),
    document: documentNode(page, byteAt, decodedBytes, () => built(undefined, capture.measured.fcpMs)),
    hero: heroNode,
    contentFont: contentFont(page),
    byUrgency: [],
    shifts,
    hsts: capture.loads
      // Over http it says nothing (RFC 6797, 8.1).
      .filter((l) => l.url.startsWith('https:'))
      .filter((l) => /max-age\s*=\s*"?[1-9]/i.test(header(l.responseHeaders, 'strict-transport-security') ?? ''))
      .map((l) => hostOf(l.url)),
    ...frameCosts(page),
    presentation: presentationOf(capture.measured, fetches.find((f) => f.load === hero.load?.index)?.pixels ?? 0),
    lookups: loads.some((l) => (l.timings.dnsMs ?? 0) > 1),
    preconnects: listPreconnects(page, byteAt),
    recorded: {
      ttfbMs: capture.measured.ttfbMs,
      fcpMs: capture.measured.fcpMs,
      lcpMs: capture.measured.lcpMs,
      loadMs: capture.measured.loadMs,
      cls: capture.measured.cls,
      spread: spreadOf(capture.measured),
      shifted: shifts.reduce((sum, s) => sum + s.score, 0),
    },
    conditions: {
      rttMs: capture.conditions.rttMs,
      downKbps: capture.conditions.downKbps,
      upKbps: capture.conditions.upKbps,
      cpuFactor: 1,
    },
  };
  return { ...graph, byUrgency: serversByUrgency(graph, loads, capture.observations?.servers ?? []) };
}

/** How far the runs of a recording lie apart, as a share of the earliest paint. */
function spreadOf({ fcpMs, lcpMs, otherRuns = [] }: Measured): number | undefined {
  if (otherRuns.length === 0) return undefined;
  const apart = (times: readonly (number | undefined)[]) => {
    const known = times.filter((t): t is number => t !== undefined && t > 0);
    return known.length < 2 ? 0 : Math.max(...known) / Math.min(...known) - 1;
  };
  return Math.max(apart([fcpMs, ...otherRuns.map((r) => r.fcpMs)]), apart([lcpMs, ...otherRuns.map((r) => r.lcpMs)]));
}

/** What the response says about being kept; undefined for a recording without headers. */
function keepOf(load: Load): Keep | undefined {
  if (load.responseHeaders.length === 0) return undefined;
  const { freshS, mayStore, validator } = cachePolicy(load);
  return { store: mayStore, freshS: freshS ?? 0, validator };
}

function linkRedirects(loads: readonly Load[]): Hops {
  const next = new Map<number, number>();
  const previous = new Map<number, number>();
  for (const load of loads) {
    if (!load.redirectTo) continue;
    const follower = loads.find((l) => l.index > load.index && l.url === load.redirectTo && !previous.has(l.index));
    if (!follower) continue;
    next.set(load.index, follower.index);
    previous.set(follower.index, load.index);
  }
  return { next, previous };
}

function firstHop(hops: Hops, index: number | undefined): number | undefined {
  let at = index;
  while (at !== undefined && hops.previous.has(at)) at = hops.previous.get(at);
  return at;
}

function listStyles(page: Page, byteAt: (n: number) => number, hops: Hops): StyleNode[] {
  const out: StyleNode[] = [];
  for (const load of page.capture.loads) {
    if (load.kind !== 'style' || hops.previous.has(load.index)) continue;
    const mention = page
      .mentionsOf(load.url)
      .find((m) => m.kind === 'style' && !m.element.inert && isLinkOf(m.element, 'stylesheet'));
    if (!mention) continue;
    const matches = mediaMatches(mention.element.attributes.get('media'), screenOf(page.capture.conditions));
    out.push({
      fetch: load.index,
      offset: byteAt(mention.element.startTagEnd),
      inHead: mention.element.inHead,
      blocking: matches && !mention.element.attributes.has('disabled'),
    });
  }
  return out;
}

function documentNode(
  page: Page,
  byteAt: (n: number) => number,
  decodedBytes: number,
  builtBy: () => number,
): DocumentNode {
  const { capture, document } = page;
  const work = capture.observations?.work?.filter(
    (w) => w.kind === 'parse' && (w.url === undefined || w.url === capture.page),
  );
  const factor = Math.max(0.1, capture.conditions.cpuFactor);
  const content = document && firstContent(page, document);
  const bodyOffset = byteAt(document?.bodyStart ?? 0);
  return {
    fetch: capture.documentIndex,
    decodedBytes,
    parseMs: work
      ? work.reduce((sum, w) => sum + w.durationMs, 0) / factor
      : decodedBytes * ESTIMATED_WORK.parsePerByte,
    bodyOffset,
    hintOffset: byteAt((document && topOfHead(document)) ?? 0),
    contentOffset: Math.max(content === undefined ? bodyOffset : byteAt(content), byteAt(expectedUntil(page))),
    contentBuiltBy: document && content === undefined ? builtBy() : -1,
  };
}

/**
 * Offset up to which the document asks the browser to parse before anything is painted: the end of an element that a link
 * of the head expects, or of the document when that has no such element (HTML, 4.6.7.6); 0 without such a link.
 */
function expectedUntil({ document, capture }: Page): number {
  if (!document) return 0;
  const ends = document.elements.flatMap((e) => {
    if (!e.inHead || e.inert || !isLinkOf(e, 'expect') || !asksToBlock(e)) return [];
    if (!mediaMatches(e.attributes.get('media'), screenOf(capture.conditions))) return [];
    const id = /^#(.+)$/.exec(e.attributes.get('href') ?? '')?.[1];
    if (id === undefined) return [];
    return [document.elements.find((x) => x.attributes.get('id') === id)?.end ?? document.text.length];
  });
  return Math.max(0, ...ends);
}

/**
 * What frames cost: the first one beside the layout of the document, the layout of the whole document, and each later
 * frame. The recording shows how much of the document was parsed before its first frame, and what was laid out after.
 */
function frameCosts(page: Page): Pick<LoadGraph, 'firstFrameMs' | 'laterFrameMs' | 'layoutMs'> {
  const all = page.capture.observations?.work;
  const work = all?.filter((w) => w.kind === 'style' || w.kind === 'layout' || w.kind === 'paint');
  const fcp = page.capture.measured.fcpMs;
  if (!all || !work || fcp === undefined) {
    const elements = page.document?.elements.length ?? 200;
    return {
      firstFrameMs: ESTIMATED_WORK.firstFrameMs,
      layoutMs: elements * ESTIMATED_WORK.firstFramePerElement,
      laterFrameMs: ESTIMATED_WORK.laterFrameMs,
    };
  }
  const factor = Math.max(0.1, page.capture.conditions.cpuFactor);
  const sum = (list: readonly Work[]) => list.reduce((ms, w) => ms + w.durationMs, 0) / factor;
  // Shown is what was painted a moment before: the work after that is another frame's.
  const painted = work.filter((w) => w.kind === 'paint' && w.startMs <= fcp).at(-1);
  const frameMs = painted ? painted.startMs + painted.durationMs : fcp;
  // Reading stylesheets counts where they arrive.
  const reading = page.capture.loads
    .filter((l) => l.kind === 'style' && l.endMs <= frameMs)
    .reduce((ms, l) => ms + l.decodedBytes * BROWSER.styleMsPerByte, 0);
  const spent = sum(work.filter((w) => w.startMs <= frameMs));
  const first = Math.max(spent * 0.2, spent - reading);
  const parsing = all.filter((w) => w.kind === 'parse' && (w.url === undefined || w.url === page.capture.page));
  const share = sum(parsing.filter((w) => w.startMs <= frameMs)) / Math.max(0.001, sum(parsing));
  const parsed = Math.max(0, ...parsing.map((w) => w.startMs + w.durationMs));
  const laidOut = work.find((w) => w.kind === 'paint' && w.startMs >= parsed)?.startMs ?? parsed;
  const during = work.filter((w) => w.startMs > frameMs && w.startMs <= laidOut);
  // Where all was parsed before the first frame, all but a little of that is the document's.
  const layoutMs =
    share < 0.9 && during.length > 0 ? Math.min(sum(during) / (1 - share), first + sum(during)) : first * WHOLE_SHARE;
  const after = work.filter((w) => w.startMs > Math.max(frameMs, laidOut));
  const frames = new Set(after.map((w) => Math.round(w.startMs / 17))).size;
  return {
    firstFrameMs: Math.max(0, first - layoutMs * Math.min(1, share)),
    layoutMs,
    laterFrameMs: frames > 0 ? sum(after) / frames : ESTIMATED_WORK.laterFrameMs,
  };
}

/** Of the first frame's work, what grows with the document. */
const WHOLE_SHARE = 0.8;

function lazyLoads(page: Page): Set<number> {
  const out = new Set<number>();
  for (const element of page.document?.elements ?? []) {
    if (!/^(img|iframe)$/.test(element.tag) || element.attributes.get('loading')?.toLowerCase() !== 'lazy') continue;
    const url =
      element.tag === 'img'
        ? shownAddress(page, element)
        : page.mentionsIn(element).find((m) => m.use === 'load' && m.kind === 'frame')?.url;
    const load = url ? page.loadOf(url) : undefined;
    if (load) out.add(load.index);
  }
  return out;
}

/** Chromium's priorities by kind and place, for recordings that do not state them. */
function defaultPriority(page: Page, load: Load): PriorityLevel {
  const mention = page.mentionsOf(load.url).find((m) => m.use === 'load');
  const hint = mention?.element.attributes.get('fetchpriority')?.toLowerCase();
  const shift = (level: number) =>
    Math.max(0, Math.min(4, level + (hint === 'high' ? 2 : hint === 'low' ? -1 : 0))) as PriorityLevel;
  switch (load.kind) {
    case 'document':
    case 'frame':
      return 4;
    case 'style':
      return mention && !mediaMatches(mention.element.attributes.get('media'), screenOf(page.capture.conditions))
        ? 0
        : 4;
    case 'font':
    case 'data':
      return 3;
    case 'script': {
      const attributes = mention?.element.attributes;
      if (!attributes || attributes.has('async') || attributes.has('defer') || attributes.get('type') === 'module')
        return shift(1);
      return shift(mention.element.inHead ? 3 : 2);
    }
    default:
      return shift(1);
  }
}
