import type { Capture } from './capture';
import type { ReadCapture } from './har';

/** A network panel and a console start the same load within so much, in ms. */
const SAME_LOAD_MS = 5000;

/**
 * Joins what a page told in a console to a HAR of the same load: requests, headers and contents of the HAR; paints, boxes
 * and what blocked of the page. What has no partner stays as it is.
 */
export function joinLoads(hars: readonly ReadCapture[], pages: readonly ReadCapture[]): ReadCapture[] {
  const left = new Set(pages);
  const joined = hars.map((har) => {
    const apart = (page: ReadCapture) =>
      Math.abs(Date.parse(page.capture.recordedAt) - Date.parse(har.capture.recordedAt));
    const [own] = [...left]
      .filter((p) => p.capture.page === har.capture.page && apart(p) <= SAME_LOAD_MS && !har.capture.observations)
      .sort((a, b) => apart(a) - apart(b));
    if (!own) return har;
    left.delete(own);
    return { ...har, capture: joinOne(har.capture, own.capture) };
  });
  return [...joined, ...left];
}

function joinOne(har: Capture, page: Capture): Capture {
  const blocking = new Map(page.loads.map((l) => [l.url, l.renderBlocking]));
  const { screenWidth, screenHeight, density, touch } = page.conditions;
  const { fcpMs, lcpMs, cls, dclMs, loadMs } = page.measured;
  return {
    ...har,
    device: page.device,
    conditions: { ...har.conditions, screenWidth, screenHeight, density, touch },
    loads: har.loads.map((l) => ({ ...l, renderBlocking: l.renderBlocking ?? blocking.get(l.url) })),
    measured: {
      ...har.measured,
      fcpMs,
      lcpMs,
      cls,
      dclMs: har.measured.dclMs ?? dclMs,
      loadMs: har.measured.loadMs ?? loadMs,
    },
    observations: page.observations,
    notes: [
      ...har.notes.filter((n) => !n.startsWith('No observations of the drawn page')),
      'Joined with what the page told in the console of its browser: script times are estimates.',
      ...page.notes.filter((n) => /largest paints|came from the browser's cache|^Long tasks/.test(n)),
    ],
  };
}
