import type { PictureBox } from '../capture/capture';
import { keepsRoom } from '../source/keepsRoom';
import type { Page } from '../source/page';

/**
 * Loads of pictures that the first layout finds in the first screen, though they do not end there: pictures for which no
 * room is kept have no height until they come, so that what stands below them is up there at first. Browsers raise the
 * priority of all that layout finds in the viewport.
 */
export function seenAtFirst(page: Page): Set<number> {
  const out = new Set<number>();
  const { screenWidth, screenHeight } = page.capture.conditions;
  const placed = page.pictures.flatMap((picture) => {
    if (picture.use !== 'img' || picture.lazyAttribute || picture.box.height <= 0) return [];
    const element = page.elementAt(picture.path, 'img');
    const load = page.loadOf(picture.url);
    return element && load ? [{ picture, load, flat: !keepsRoom(page, element) }] : [];
  });
  const flat = placed.filter((p) => p.flat).map((p) => p.picture);
  if (flat.length === 0) return out;
  for (const { picture, load, flat: own } of placed) {
    const y =
      picture.box.y - heightOf(flat.filter((p) => p !== picture && p.box.y + p.box.height <= picture.box.y + 1));
    const beside = picture.box.x < screenWidth && picture.box.x + picture.box.width > 0;
    if (y < screenHeight && (own || beside)) out.add(load.index);
  }
  return out;
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
