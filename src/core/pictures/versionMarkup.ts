import { fileName } from '../capture/url';

/** How a picture is drawn on one kind of device. */
export interface DrawnOn {
  readonly device: 'phone' | 'desktop';
  /** CSS pixels. */
  readonly width: number;
  readonly height: number;
  readonly screenWidth: number;
  readonly density: number;
}

/** One re-encoded version of a picture. */
export interface PictureVersion {
  readonly format: 'avif' | 'webp';
  readonly width: number;
  readonly height: number;
  readonly bytes: number;
  readonly quality: number;
  /** Structural similarity to the original at the same size, 1 for the same; undefined where it could not be compared. */
  readonly similarity?: number;
}

/** Phones end and desktops begin about here, in CSS pixels. */
const BREAK = 700;

/** File name of a version: the name of the original, the width and the format. */
export function versionName(url: string, { width, format }: Pick<PictureVersion, 'width' | 'format'>): string {
  const stem = fileName(url)
    .replace(/\.[a-z0-9]{1,5}$/i, '')
    .replace(/[^\w.-]+/g, '-')
    .replace(/^[.-]+/, '');
  return `${stem || 'picture'}-${width}.${format}`;
}

/**
 * Markup that offers the versions to browsers (HTML Standard, 4.8.1 to 4.8.4): AVIF first, WebP next, the original for
 * all others. Texts are escaped.
 */
export function versionMarkup(
  url: string,
  alt: string | undefined,
  drawn: readonly DrawnOn[],
  versions: readonly PictureVersion[],
): string {
  const phone = drawn.find((d) => d.device === 'phone');
  const desktop = drawn.find((d) => d.device === 'desktop');
  const onPhone = phone && `${Math.round((100 * phone.width) / phone.screenWidth)}vw`;
  const onDesktop = desktop && `${Math.round(desktop.width)}px`;
  const sizes =
    onPhone && onDesktop ? `(max-width: ${BREAK}px) ${onPhone}, ${onDesktop}` : (onPhone ?? onDesktop ?? '100vw');
  const sources = (['avif', 'webp'] as const).flatMap((format) => {
    const own = versions.filter((v) => v.format === format).sort((a, b) => a.width - b.width);
    if (own.length === 0) return [];
    const set = own.map((v) => `${versionName(url, v)} ${v.width}w`).join(', ');
    return [`  <source type="image/${format}" srcset="${set}" sizes="${sizes}">`];
  });
  const box = desktop ?? phone;
  const size = box ? ` width="${Math.round(box.width)}" height="${Math.round(box.height)}"` : '';
  return [
    '<picture>',
    ...sources,
    `  <img src="${escaped(url)}"${size} alt="${escaped(alt ?? '')}">`,
    '</picture>',
  ].join('\n');
}

const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c);
