import type { PageMs } from '../../core/plan/sweepForecast';
import { worthOf, worthShort, worthText } from '../../core/plan/worth';

/**
 * What a group of fixes is worth: the mean that it saves alone on each of its pages, times the visits that meet it. A
 * pure function.
 * @param gains what it saves alone on each of its pages
 */
export function worthOfGroup(
  gains: readonly PageMs[],
  pages: readonly { readonly captureId: number; readonly linksIn: number }[],
  clicksOf?: string,
): { short: string; text: string } {
  const links = new Map(pages.map((p) => [p.captureId, p.linksIn]));
  const visits = (captureId: number) => 1 + (links.get(captureId) ?? 0);
  const reach = gains.reduce((sum, [id]) => sum + visits(id), 0);
  const saved = gains.reduce((sum, [id, ms]) => sum + Math.max(0, ms) * visits(id), 0);
  const worth = worthOf({ harm: 'slow', pages: gains.length, reach, forecastMs: saved / Math.max(1, reach) });
  return { short: worthShort(worth), text: worthText(worth, clicksOf) };
}
