/**
 * Whether a media query list applies to a screen of this width: media types, min-width and
 * max-width are understood; anything else counts as matching (Media Queries 4, in part).
 */
export function mediaMatches(media: string | undefined, widthPx: number): boolean {
  if (!media?.trim()) return true;
  return media
    .toLowerCase()
    .split(',')
    .some((query) => {
      if (/^\s*(only\s+)?(print|speech|tty|projection)\b/.test(query)) return false;
      if (/^\s*not\s+(all|screen)\b/.test(query)) return false;
      for (const [, bound, value, unit] of query.matchAll(/\(\s*(min|max)-width\s*:\s*([\d.]+)(px|em|rem)\s*\)/g)) {
        const px = Number(value) * (unit === 'px' ? 1 : 16);
        if (bound === 'min' ? widthPx < px : widthPx > px) return false;
      }
      return true;
    });
}
