import { type Load, header } from '../capture/capture';
import { fileName } from '../capture/url';
import { mediaMatches, screenOf } from '../source/media';
import { preloads } from '../source/linkHeader';
import { shownAddress, type Page } from '../source/page';
import { callbackThatAsked, type Callback } from './callbacks';
import { scriptNamed, type Hops, type ScriptDraft } from './drafts';
import type { Discovery } from './graph';
import { scriptThatBuilt } from './scripts';

/** What finding the cause of a load needs. */
export interface DiscoveryContext {
  readonly page: Page;
  readonly byteAt: (offset: number) => number;
  readonly decodedBytes: number;
  readonly hops: Hops;
  readonly scripts: readonly ScriptDraft[];
  readonly callbacks: readonly Callback[];
}

/**
 * How the browser learns of a load: the source says it for what the scanner or the parser finds,
 * the recording (initiator, Referer, times) for the rest.
 */
export function discoverLoad(context: DiscoveryContext, load: Load): Discovery {
  const { page, hops, byteAt, decodedBytes } = context;
  const { capture } = page;
  const before = hops.previous.get(load.index);
  if (before !== undefined) return { by: 'fetch', fetch: before, delayMs: 0 };
  const first = capture.loads.find((l) => l.kind === 'document');
  if (load.index === (first?.index ?? capture.documentIndex)) return { by: 'navigation' };

  // What a Link header preloads is asked for when the page is taken over, before its markup is looked at.
  if (page.headerLinks.some((link) => preloads(link, load.url))) return { by: 'scanner', offset: 0 };
  const marked = markupDiscovery(context, load);
  if (marked) return marked;
  const parent = initiatorLoad(page, load);
  if (parent?.kind === 'style') return styleDiscovery(context, load, parent.index);
  if (parent?.kind === 'frame' || (parent?.kind === 'document' && parent.index !== capture.documentIndex)) {
    return { by: 'fetch', fetch: parent.index, delayMs: 2 };
  }
  for (const style of page.styles) {
    if (!style.references.some((r) => r.url === load.url || r.url === load.url.replace(/^https:/, 'http:'))) continue;
    return styleDiscovery(context, load, style.load?.index ?? -1);
  }
  const importer = importerOf(context, load);
  if (importer >= 0) return { by: 'fetch', fetch: importer, delayMs: 0 };
  const callback = callbackOf(context, load);
  if (callback) return callback;
  const script = scriptOf(context, load);
  if (script >= 0) return scriptDiscovery(context, load, script);
  const { loadMs, dclMs } = capture.measured;
  if (loadMs !== undefined && load.startMs >= loadMs - 2)
    return { by: 'event', event: 'load', delayMs: Math.min(3000, Math.max(0, load.startMs - loadMs)) };
  if (dclMs !== undefined && load.startMs >= dclMs - 2)
    return { by: 'event', event: 'dcl', delayMs: Math.min(3000, Math.max(0, load.startMs - dclMs)) };
  return { by: 'parser', offset: byteAt(decodedBytes) };
}

/** Found in the markup itself: by the scanner, the parser, or by layout when lazy. */
function markupDiscovery(context: DiscoveryContext, load: Load): Discovery | undefined {
  const { page, byteAt } = context;
  // A script that asked for it did so although the source names it, as loaders of data attributes do.
  const byScript = load.initiator?.type === 'script';
  let fallback: Discovery | undefined;
  for (const m of page.mentionsOf(load.url)) {
    if (m.use !== 'load' || m.element.inert) continue;
    const offset = byteAt(m.element.startTagEnd);
    const { tag } = m.element;
    if (tag === 'img' || tag === 'source') {
      const img =
        tag === 'img'
          ? m.element
          : page.document?.elements.find((e) => e.tag === 'img' && e.parent === m.element.parent);
      if (!img) continue;
      const shown = shownAddress(page, img);
      if (shown && shown !== m.url && !byScript && shown !== load.url) continue;
      if (byScript) continue;
      if (img.attributes.get('loading')?.toLowerCase() === 'lazy') return { by: 'layout', offset };
      return { by: 'scanner', offset };
    }
    if (byScript) continue;
    if (tag === 'iframe' && m.element.attributes.get('loading')?.toLowerCase() === 'lazy')
      return { by: 'layout', offset };
    if (m.kind === 'style' && !mediaMatches(m.element.attributes.get('media'), screenOf(page.capture.conditions)))
      return { by: 'parser', offset };
    if (tag === 'script' || (tag === 'link' && m.kind !== 'icon' && m.kind !== 'manifest'))
      return { by: 'scanner', offset };
    if (m.kind === 'icon' || m.kind === 'manifest') {
      fallback = { by: 'event', event: 'load', delayMs: 0 };
      continue;
    }
    return { by: 'parser', offset };
  }
  return fallback;
}

function styleDiscovery(context: DiscoveryContext, load: Load, sheet: number): Discovery {
  const { page, byteAt } = context;
  if (load.kind === 'style') return { by: 'style', sheet, drawn: false, offset: 0 };
  const picture = page.pictures.find((p) => p.use === 'background' && p.url === load.url);
  const element = page.elementAt(picture?.path);
  const builder = picture?.path && !element ? builderOf(context, load) : -1;
  if (builder >= 0) return { by: 'script', script: builder, delayMs: 0 };
  return { by: 'style', sheet, drawn: true, offset: byteAt(element?.startTagEnd ?? page.document?.bodyStart ?? 0) };
}

/** From the end of a script until what it built is asked for, at most: the next frame computes its styles. */
const BUILT_WITHIN_MS = 60;

/** The script that built the element of a background, which the source does not have: the one that had just ended; -1 for none. */
function builderOf({ scripts, callbacks }: DiscoveryContext, load: Load): number {
  const id = scriptThatBuilt(undefined, load.startMs, scripts, callbacks);
  const endMs = id < scripts.length ? scripts[id]?.endMs : callbacks[id - scripts.length]?.endMs;
  return endMs !== undefined && load.startMs - endMs <= BUILT_WITHIN_MS ? id : -1;
}

/** The stylesheet or frame that asked, by recorded initiator or by the Referer header. */
function initiatorLoad(page: Page, load: Load): Load | undefined {
  const by =
    load.initiator?.type === 'parser'
      ? load.initiator.url
      : load.initiator
        ? undefined
        : header(load.requestHeaders, 'referer');
  return by && by !== page.capture.page ? page.loadOf(by) : undefined;
}

function scriptOf(context: DiscoveryContext, load: Load): number {
  const { page, scripts } = context;
  const named = scriptNamed(scripts, load.initiator);
  if (named >= 0) return named;
  // No script on record (pictures set by scripts have none): one that names the file is the likeliest cause.
  const name = fileName(load.url);
  if (name.length < 5) return -1;
  const hinted = page.mentions.some((m) => m.use === 'hint' && m.url === load.url);
  return scripts.findIndex((s) => {
    const own = s.url ? page.loadOf(s.url) : undefined;
    if (own && own.endMs > load.startMs + 1) return false;
    const text = own ? page.bodies.text(own) : undefined;
    if (text === undefined) return false;
    return hinted ? /\.dataset\b|data-(src|original|full|lazy)/.test(text) : text.includes(name);
  });
}

/** The module that imports a module: its sources are asked for when it has come, before it runs. */
function importerOf({ scripts }: DiscoveryContext, load: Load): number {
  const own = scripts.findIndex((s) => s.mode === 'import' && s.url === load.url);
  if (own < 0) return -1;
  // The one that came first of those that need it, and that needs the fewest: its direct importer.
  const importers = scripts
    .filter((s) => s.fetch >= 0 && s.imports?.includes(own) && s.fetch < load.index)
    .sort((a, b) => (a.imports?.length ?? 0) - (b.imports?.length ?? 0));
  return importers[0]?.fetch ?? -1;
}

/**
 * Asked for by later work of a script: a handler, a timer, or what an answer set off. A request that nobody owns
 * (pictures set by scripts name no script) counts as well when it went out during such work.
 */
function callbackOf(context: DiscoveryContext, load: Load): Discovery | undefined {
  const type = load.initiator?.type;
  if (type !== 'script' && type !== 'other') return undefined;
  const own = scriptOf(context, load);
  const endMs = context.scripts[own]?.endMs;
  if (endMs !== undefined && load.startMs - endMs <= 4) return undefined;
  const at = callbackThatAsked(context.callbacks, load);
  const callback = context.callbacks[at];
  if (!callback) return undefined;
  return { by: 'script', script: context.scripts.length + at, delayMs: Math.max(0, load.startMs - callback.endMs) };
}

/** A script's request comes right after its run, with a delay, or from its DOMContentLoaded or load handler. */
function scriptDiscovery(context: DiscoveryContext, load: Load, script: number): Discovery {
  const { dclMs, loadMs } = context.page.capture.measured;
  const endMs = context.scripts[script]?.endMs;
  if (endMs === undefined) return { by: 'script', script, delayMs: 0 };
  const gap = load.startMs - endMs;
  if (gap > 4) {
    if (loadMs !== undefined && load.startMs >= loadMs - 2)
      return { by: 'event', event: 'load', delayMs: Math.max(0, load.startMs - loadMs) };
    if (dclMs !== undefined && load.startMs >= dclMs - 2 && endMs <= dclMs + 1) {
      return { by: 'event', event: 'dcl', delayMs: Math.max(0, load.startMs - dclMs) };
    }
  }
  return { by: 'script', script, delayMs: Math.max(0, gap) };
}
