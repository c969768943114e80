import type { Load, PictureBox } from '../capture/capture';
import type { Page } from './page';
import type { PictureSize } from './pictureSize';
import { declaredValue } from './styling';

/** A picture file with the largest of its uses on a page. */
export interface PictureUse {
  readonly load: Load;
  /** The use that needs most pixels. */
  readonly picture: PictureBox;
  readonly file: PictureSize;
  /** File pixels that this use can show; the whole file where it shows a part at its own size. */
  readonly needed: PictureSize;
}

const made = new WeakMap<Page, readonly PictureUse[]>();

/**
 * Every raster picture that is shown, once, by its largest use: that is how it is judged, named, re-encoded and
 * forecast. A broken image has no size: what is drawn is the browser's icon.
 */
export function pictureUses(page: Page): readonly PictureUse[] {
  const known = made.get(page);
  if (known) return known;
  const { density } = page.capture.conditions;
  const byLoad = new Map<number, PictureUse>();
  for (const picture of page.pictures) {
    const load = page.loadOf(picture.url);
    if (!load || load.status !== 200 || !picture.visible || picture.naturalWidth === 0) continue;
    if (/svg/.test(load.mimeType)) continue;
    const file = page.filePixels(picture);
    if (!file) continue;
    const needed = showsPart(page, picture)
      ? file
      : neededPixels(picture.box.width, picture.box.height, file.width, file.height, density);
    const before = byLoad.get(load.index);
    if (!before || before.needed.width < needed.width) byLoad.set(load.index, { load, picture, file, needed });
  }
  const uses = [...byLoad.values()];
  made.set(page, uses);
  return uses;
}

/** True where the file is drawn at its own size behind or inside a box: a sprite, or a pattern (CSS Backgrounds 3, 2.9). */
function showsPart(page: Page, picture: PictureBox): boolean {
  if (picture.use === 'poster') return false;
  if (picture.fit !== undefined)
    return picture.use === 'background' ? /^auto\b/.test(picture.fit) : picture.fit === 'none';
  const element = page.elementAt(picture.path);
  if (!element) return false;
  if (picture.use === 'img') return declaredValue(page, element, 'object-fit')?.value === 'none';
  const size = declaredValue(page, element, 'background-size')?.value;
  if (size !== undefined) return /^auto\b/.test(size);
  const whole = declaredValue(page, element, 'background')?.value;
  // Without a size in the shorthand the file is drawn as it is; a style of a script is not known here.
  return whole !== undefined && !whole.includes('/ ') && !/\/\s*(cover|contain|\d)/.test(whole);
}

/** File pixels that fill a box at a screen density, keeping the picture's own shape (object-fit: cover). */
export function neededPixels(
  boxWidth: number,
  boxHeight: number,
  fileWidth: number,
  fileHeight: number,
  density: number,
): PictureSize {
  const scale = Math.min(1, Math.max((boxWidth * density) / fileWidth, (boxHeight * density) / fileHeight));
  return { width: Math.max(1, Math.round(fileWidth * scale)), height: Math.max(1, Math.round(fileHeight * scale)) };
}
