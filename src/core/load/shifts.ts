import { keepsRoom } from '../source/keepsRoom';
import type { Page } from '../source/page';

/** Pictures of the first screen without room: each pushes down what is below it (Layout Instability, 2.2), as a part of the recorded sum. */
export function shiftsOf(page: Page): { fetch: number; score: number }[] {
  const { screenWidth, screenHeight } = page.capture.conditions;
  const recorded = page.capture.measured.cls ?? 0;
  const raw = page.pictures.flatMap((p) => {
    const element = p.use === 'img' && p.visible ? page.elementAt(p.path, 'img') : undefined;
    const load = page.loadOf(p.url);
    if (!element || !load || p.box.y >= screenHeight || keepsRoom(page, element)) return [];
    const moved = Math.min(p.box.height, screenHeight - p.box.y);
    return [
      {
        fetch: load.index,
        score: ((screenHeight - p.box.y) / screenHeight) * (moved / Math.max(screenWidth, screenHeight)),
      },
    ];
  });
  const sum = raw.reduce((n, s) => n + s.score, 0);
  const share = sum > recorded ? recorded / sum : 1;
  return raw.map((s) => ({ ...s, score: s.score * share })).filter((s) => s.score > 0);
}
