import type { Box, PictureBox } from '../capture/capture';
import { keepsRoom } from '../source/keepsRoom';
import type { Page } from '../source/page';

/**
 * Loads of pictures that the first layout finds in the first screen, though they do not end there: pictures for which no
 * room is kept have no height until they come, so that what stands below them is up there at first. Browsers raise the
 * priority of all that layout finds in the viewport.
 */
export function seenAtFirst(page: Page): Set<number> {
  const { screenWidth, screenHeight } = page.capture.conditions;
  const out = new Set<number>();
  for (const { load, box, top, flat } of placesAtFirst(page)) {
    const beside = box.x < screenWidth && box.x + box.width > 0;
    if (top < screenHeight && (flat || beside)) out.add(load);
  }
  return out;
}

/** Where a picture stands when nothing has come yet. */
interface PlaceAtFirst {
  readonly load: number;
  /** Where it ends up, and its upper edge at first, in CSS pixels. */
  readonly box: Box;
  readonly top: number;
  /** No room is kept for it. */
  readonly flat: boolean;
}

/**
 * Places of the eager pictures of the source at the first layout, before any of them has come; none where room is kept
 * for all, so that they stand where they end up.
 */
export function placesAtFirst(page: Page): PlaceAtFirst[] {
  const placed = page.pictures.flatMap((picture) => {
    if (picture.use !== 'img' || picture.lazyAttribute || picture.box.height <= 0) return [];
    const element = page.elementAt(picture.path, 'img');
    const load = page.loadOf(picture.url);
    return element && load ? [{ picture, load, flat: !keepsRoom(page, element) }] : [];
  });
  const flat = placed.filter((p) => p.flat).map((p) => p.picture);
  if (flat.length === 0) return [];
  return placed.map(({ picture: { box }, load, flat: own }) => {
    const above = flat.filter((p) => p.box !== box && p.box.y + p.box.height <= box.y + 1);
    return { load: load.index, box, top: box.y - heightOf(above), flat: own };
  });
}

/** Height that boxes take together, what lies side by side counted once. */
function heightOf(pictures: readonly PictureBox[]): number {
  const spans = pictures.map((p) => [p.box.y, p.box.y + p.box.height] as const).sort((a, b) => a[0] - b[0]);
  let sum = 0;
  let until = -Infinity;
  for (const [from, to] of spans) {
    sum += Math.max(0, to - Math.max(from, until));
    until = Math.max(until, to);
  }
  return sum;
}
