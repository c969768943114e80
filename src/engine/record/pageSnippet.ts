import { PAGE_ENTRIES_FORMAT } from '../../core/capture/pageEntries';
import { NATIVE, SEEN } from './inPage';

/** Most text of files that goes along, in characters. */
const MOST_TEXT = 20_000_000;

/**
 * For the console of any browser: saves what the page's own timeline and layout tell (Navigation, Resource, Paint and
 * Element Timing, Largest Contentful Paint, Layout Instability, Long Tasks, Long Animation Frames) as one JSON file. Asks
 * no server for anything: sources come from the browser's cache (Fetch, `only-if-cached`).
 */
export const PAGE_SNIPPET = `(async () => {${NATIVE}
  const known = (PerformanceObserver.supportedEntryTypes || []);
  const entries = (type) => known.includes(type) ? new Promise((done) => {
    const observer = new PerformanceObserver((list) => { observer.disconnect(); done(list.getEntries()); });
    observer.observe({ type, buffered: true });
    setTimeout(() => { observer.disconnect(); done([]); }, 400);
  }) : Promise.resolve([]);
  const [paints, shifts, tasks, frames] = await Promise.all(['largest-contentful-paint', 'layout-shift', 'longtask', 'long-animation-frame'].map(entries));
  const plain = (entry) => entry ? entry.toJSON() : {};
${SEEN}
  const mixed = [];
  if (location.protocol === 'https:')
    for (const el of all('[src], [href], [srcset], [poster], [data], [action]'))
      for (const name of ['src', 'href', 'srcset', 'poster', 'data', 'action']) {
        const value = el.getAttribute(name);
        if (value && /(^|[\\s,])http:\\/\\//i.test(value) && nameOf(el) !== 'a' && mixed.length < 2000) mixed.push({ path: pathOf(el), attribute: name, url: value.slice(0, 4000) });
      }
  const resources = performance.getEntriesByType('resource').slice(0, 20000).map(plain);
  const contents = {};
  let room = ${MOST_TEXT};
  for (const url of [location.href, ...resources.map((r) => r.name)]) {
    if (url in contents || !url.startsWith(location.origin + '/')) continue;
    try {
      const answer = await fetch(url.replace(/#.*$/, ''), { cache: 'only-if-cached', mode: 'same-origin' });
      if (!answer.ok || !/text|javascript|json|svg|xml/.test(answer.headers.get('content-type') || '')) continue;
      const text = await answer.text();
      if (text.length > room) continue;
      room -= text.length;
      contents[url] = { text, type: answer.headers.get('content-type'), headers: [...answer.headers] };
    } catch (error) { /* Not in the cache: the file is taken without its source. */ }
  }
  const root = rootOf(document);
  const file = {
    ${PAGE_ENTRIES_FORMAT}: 1,
    url: location.href, title: document.title, userAgent: navigator.userAgent, began: new Date(performance.timeOrigin).toISOString(),
    isSecureContext, screen: { width: innerWidth, height: innerHeight, density: devicePixelRatio, touch: navigator.maxTouchPoints > 0 && matchMedia('(pointer: coarse)').matches },
    navigation: plain(performance.getEntriesByType('navigation')[0]), resources, paints: performance.getEntriesByType('paint').map(plain),
    largestPaints: paints.map((e) => ({ timeMs: e.startTime, size: e.size, url: e.url ? String(e.url).slice(0, 4000) : undefined,
      path: e.element ? pathOf(e.element) : undefined, tag: e.element ? nameOf(e.element) : undefined, box: e.element ? box(boxOf(e.element)) : undefined })),
    shifts: shifts.map((e) => ({ startTime: e.startTime, value: e.value, hadRecentInput: e.hadRecentInput })),
    longTasks: tasks.map(plain), longFrames: frames.map(plain),
    pictures, firstScreen, mixed, documentHeight: root ? root.scrollHeight : 0, html: root ? root.outerHTML.slice(0, 5000000) : '', contents,
  };
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([JSON.stringify(file)], { type: 'application/json' }));
  link.download = (location.hostname + location.pathname).replace(/[^a-z0-9.]+/gi, '-').replace(/^-|-$/g, '').slice(0, 80) + '.page.json';
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60000);
  return 'Keen Lens: saved ' + link.download + ' with ' + resources.length + ' loads.';
})()`;
