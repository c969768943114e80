import type { FixGroup, Staircase } from '../../core/plan/staircase';
import { worthOf, worthShort, worthText } from '../../core/plan/worth';

/**
 * What a group of fixes is worth: the mean that it saves alone on each of its pages, times the visits that meet it. A
 * pure function.
 */
export function worthOfGroup(
  group: Pick<FixGroup, 'id' | 'pages'>,
  alone: Staircase<Pick<FixGroup, 'id'>>['alone'] | undefined,
  pages: readonly { readonly page: string; readonly linksIn: number }[],
  clicksOf?: string,
): { short: string; text: string } {
  const links = new Map(pages.map((p) => [p.page, p.linksIn]));
  const own = alone?.find((a) => a.group === group.id)?.pages ?? [];
  const visits = (page: string) => 1 + (links.get(page) ?? 0);
  const reach = own.reduce((sum, [page]) => sum + visits(page), 0);
  const saved = own.reduce((sum, [page, ms]) => sum + Math.max(0, ms) * visits(page), 0);
  const worth = worthOf({ harm: 'slow', pages: own.length, reach, forecastMs: saved / Math.max(1, reach) });
  return { short: worthShort(worth), text: worthText(worth, clicksOf) };
}
