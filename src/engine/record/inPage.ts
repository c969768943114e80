import type { Box, LargestPaint, PictureBox } from '../../core/capture/capture';

/** What the page's own performance timeline and layout told. */
export interface PageFacts {
  readonly timeOrigin: number;
  readonly ttfbMs: number;
  readonly dclMs: number;
  readonly loadMs: number;
  readonly fcpMs?: number;
  /** When the main thread had painted what the first paint shows, and what the hero's does. */
  readonly fcpPaintMs?: number;
  readonly lcpPaintMs?: number;
  readonly cls: number;
  readonly largestPaints: readonly LargestPaint[];
  readonly pictures: readonly PictureBox[];
  readonly embedded: readonly { readonly path: string; readonly box: Box }[];
  readonly renderBlocking: Readonly<Record<string, boolean>>;
  /** Bytes of the bodies that came because of Early Hints, by address, as they were transferred (Resource Timing, encodedBodySize). */
  readonly hintedBytes: Readonly<Record<string, number>>;
  readonly html: string;
  readonly title: string;
  readonly documentHeight: number;
  readonly firstScreen: readonly string[];
}

/** The world that our scripts run in: the page's own cannot see or change what they use. */
export const WORLD = 'keen-lens';

/** Getters and methods as the browser made them: a form field called `parentElement` must not stand in for one. */
export const NATIVE = `
  const getter = (type, name) => { const { get } = Object.getOwnPropertyDescriptor(type.prototype, name); return (o) => get.call(o); };
  const parentOf = getter(Node, 'parentElement');
  const previousOf = getter(Element, 'previousElementSibling');
  const nameOf = getter(Element, 'localName');
  const rootOf = getter(Document, 'documentElement');
  const boxOf = (el) => Element.prototype.getBoundingClientRect.call(el);
  const all = (selector) => Document.prototype.querySelectorAll.call(document, selector);
  const pathOf = (el) => {
    const steps = [];
    for (let e = el; e && steps.length < 2000; e = parentOf(e)) {
      let n = 1;
      for (let s = previousOf(e); s; s = previousOf(s)) if (nameOf(s) === nameOf(e)) n++;
      steps.unshift(nameOf(e) + ':nth-of-type(' + n + ')');
    }
    return steps.join('>');
  };
  const box = (r) => ({ x: Math.round(r.x), y: Math.round(r.y + scrollY), width: Math.round(r.width), height: Math.round(r.height) });`;

/**
 * Runs in a world of its own before the page's scripts: notes largest paints with their element's path while the
 * element still exists. Written as text so that no build step can touch it.
 */
export const OBSERVER_SCRIPT = `(() => {
  if (window.top !== window) return;${NATIVE}
  const store = { paints: [], paintMs: undefined, cls: 0 };
  Object.defineProperty(window, '__lensStore', { value: store });
  try {
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) {
        const el = e.element;
        store.paintMs = e.paintTime || undefined;
        store.paints.push({
          timeMs: e.startTime, size: e.size, url: e.url ? String(e.url).slice(0, 4000) : undefined,
          path: el ? pathOf(el) : undefined, tag: el ? nameOf(el) : undefined, box: el ? box(boxOf(el)) : undefined,
        });
      }
    }).observe({ type: 'largest-contentful-paint', buffered: true });
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) if (!e.hadRecentInput) store.cls += e.value;
    }).observe({ type: 'layout-shift', buffered: true });
  } catch (error) { /* An engine without these entries records less. */ }
})();`;

/** Collects `pictures`, `embedded` and `firstScreen`, with what NATIVE has. */
export const SEEN = `  const pictures = [];
  const add = (el, url, use, natural) => {
    if (!url || typeof url !== 'string' || /^data:/.test(url) || pictures.length >= 20000) return;
    const r = boxOf(el);
    const style = getComputedStyle(el);
    const visible = r.width > 0 && r.height > 0 && style.visibility !== 'hidden' && style.display !== 'none';
    pictures.push({
      path: pathOf(el), url: url.slice(0, 4000), use, box: box(r), visible,
      naturalWidth: natural ? natural.w : undefined, naturalHeight: natural ? natural.h : undefined,
      lazyAttribute: use === 'img' ? el.loading === 'lazy' : undefined,
      fit: use === 'img' ? style.objectFit : use === 'background' ? style.backgroundSize : undefined,
    });
  };
  for (const img of all('img')) add(img, img.currentSrc || img.src, 'img', { w: img.naturalWidth, h: img.naturalHeight });
  for (const v of all('video[poster]')) add(v, v.poster, 'poster');
  let looked = 0;
  for (const el of all('body, body *')) {
    if (++looked > 20000) break;
    const bg = getComputedStyle(el).backgroundImage;
    if (bg && bg !== 'none') for (const m of bg.matchAll(/url\\("([^"]+)"\\)/g)) add(el, m[1], 'background');
  }
  const embedded = [];
  for (const el of all('iframe, frame, embed, object, video, audio')) if (embedded.length < 1000) embedded.push({ path: pathOf(el), box: box(boxOf(el)) });
  const firstScreen = [];
  for (const el of all('body, body *')) {
    if (firstScreen.length >= 4000) break;
    const r = boxOf(el);
    if (r.top + scrollY < innerHeight && r.bottom + scrollY > 0 && r.width > 0 && r.height > 0 && r.left < innerWidth && r.right > 0)
      firstScreen.push(pathOf(el));
  }`;

/** Collects the facts once the page has settled; evaluated in the same world. */
export const COLLECT_SCRIPT = `(() => {${NATIVE}
  const store = window.__lensStore || { paints: [], cls: 0 };
  const nav = performance.getEntriesByType('navigation')[0] || {};
  const fcp = performance.getEntriesByName('first-contentful-paint')[0];
${SEEN}
  const renderBlocking = {}, hintedBytes = {};
  for (const r of performance.getEntriesByType('resource')) {
    if (r.renderBlockingStatus) renderBlocking[r.name] = r.renderBlockingStatus === 'blocking';
    if (r.initiatorType === 'early-hints' && r.encodedBodySize) hintedBytes[r.name] = r.encodedBodySize;
  }
  const root = rootOf(document);
  return {
    timeOrigin: performance.timeOrigin, ttfbMs: nav.finalResponseHeadersStart || nav.responseStart || 0, dclMs: nav.domContentLoadedEventEnd || 0, loadMs: nav.loadEventStart || 0,
    fcpMs: fcp ? fcp.startTime : undefined, fcpPaintMs: (fcp && fcp.paintTime) || undefined, lcpPaintMs: store.paintMs, cls: store.cls, largestPaints: store.paints, pictures, embedded, renderBlocking, hintedBytes,
    html: root ? root.outerHTML.slice(0, 5000000) : '', title: String((all('title')[0] || {}).textContent || '').trim().slice(0, 2000),
    documentHeight: root ? root.scrollHeight : 0, firstScreen,
  };
})()`;

export type { Box };
