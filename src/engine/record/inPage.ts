import type { Box, LargestPaint, PictureBox } from '../../core/capture/capture';

/** What the page's own performance timeline and layout told. */
export interface PageFacts {
  readonly timeOrigin: number;
  readonly ttfbMs: number;
  readonly dclMs: number;
  readonly loadMs: number;
  readonly fcpMs?: number;
  readonly cls: number;
  readonly largestPaints: readonly LargestPaint[];
  readonly pictures: readonly PictureBox[];
  readonly renderBlocking: Readonly<Record<string, boolean>>;
  readonly html: string;
  readonly title: string;
  readonly documentHeight: number;
  readonly firstScreen: readonly string[];
}

/**
 * Runs in the page before its own scripts: notes largest paints with their element's path while
 * the element still exists. Written as text so that no build step can touch it.
 */
export const OBSERVER_SCRIPT = `(() => {
  if (window.top !== window) return;
  const store = { paints: [], cls: 0 };
  Object.defineProperty(window, '__lensStore', { value: store });
  const pathOf = (el) => {
    const steps = [];
    for (let e = el; e && e.nodeType === 1; e = e.parentElement) {
      let n = 1;
      for (let s = e.previousElementSibling; s; s = s.previousElementSibling) if (s.localName === e.localName) n++;
      steps.unshift(e.localName + ':nth-of-type(' + n + ')');
    }
    return steps.join('>');
  };
  Object.defineProperty(window, '__lensPath', { value: pathOf });
  const box = (r) => ({ x: Math.round(r.x), y: Math.round(r.y + scrollY), width: Math.round(r.width), height: Math.round(r.height) });
  Object.defineProperty(window, '__lensBox', { value: box });
  try {
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) {
        const el = e.element;
        store.paints.push({
          timeMs: e.startTime, size: e.size, url: e.url ? String(e.url).slice(0, 4000) : undefined,
          path: el ? pathOf(el) : undefined, tag: el ? el.localName : undefined, box: el ? box(el.getBoundingClientRect()) : undefined,
        });
      }
    }).observe({ type: 'largest-contentful-paint', buffered: true });
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) if (!e.hadRecentInput) store.cls += e.value;
    }).observe({ type: 'layout-shift', buffered: true });
  } catch (error) { /* An engine without these entries records less. */ }
})();`;

/** Collects the facts once the page has settled; evaluated in the page. */
export const COLLECT_SCRIPT = `(() => {
  const store = window.__lensStore || { paints: [], cls: 0 };
  const nav = performance.getEntriesByType('navigation')[0] || {};
  const fcp = performance.getEntriesByName('first-contentful-paint')[0];
  const pictures = [];
  const add = (el, url, use, natural) => {
    if (!url || /^data:/.test(url)) return;
    const r = el.getBoundingClientRect();
    const style = getComputedStyle(el);
    const visible = r.width > 0 && r.height > 0 && style.visibility !== 'hidden' && style.display !== 'none';
    pictures.push({
      path: window.__lensPath(el), url: url.slice(0, 4000), use, box: window.__lensBox(r), visible,
      naturalWidth: natural ? natural.w : undefined, naturalHeight: natural ? natural.h : undefined,
      lazyAttribute: use === 'img' ? el.loading === 'lazy' : undefined,
      fit: use === 'img' ? style.objectFit : use === 'background' ? style.backgroundSize : undefined,
    });
  };
  for (const img of document.images) add(img, img.currentSrc || img.src, 'img', { w: img.naturalWidth, h: img.naturalHeight });
  for (const v of document.querySelectorAll('video[poster]')) add(v, v.poster, 'poster');
  let looked = 0;
  for (const el of document.querySelectorAll('body, body *')) {
    if (++looked > 20000) break;
    const bg = getComputedStyle(el).backgroundImage;
    if (bg && bg !== 'none') for (const m of bg.matchAll(/url\\("([^"]+)"\\)/g)) add(el, m[1], 'background');
  }
  const firstScreen = [];
  for (const el of document.querySelectorAll('body, body *')) {
    if (firstScreen.length >= 4000) break;
    const r = el.getBoundingClientRect();
    if (r.top + scrollY < innerHeight && r.bottom + scrollY > 0 && r.width > 0 && r.height > 0 && r.left < innerWidth && r.right > 0)
      firstScreen.push(window.__lensPath(el));
  }
  const renderBlocking = {};
  for (const r of performance.getEntriesByType('resource')) if (r.renderBlockingStatus) renderBlocking[r.name] = r.renderBlockingStatus === 'blocking';
  return {
    timeOrigin: performance.timeOrigin, ttfbMs: nav.responseStart || 0, dclMs: nav.domContentLoadedEventEnd || 0, loadMs: nav.loadEventStart || 0,
    fcpMs: fcp ? fcp.startTime : undefined, cls: store.cls, largestPaints: store.paints, pictures, renderBlocking,
    html: document.documentElement.outerHTML.slice(0, 5000000), title: document.title, documentHeight: document.documentElement.scrollHeight, firstScreen,
  };
})()`;

export type { Box };
