import type { FixGroup, Staircase } from '../../core/plan/staircase';
import { worthShort } from '../../core/plan/worth';

/**
 * What a group of fixes is worth: what it wins alone on each page, once for each link to that page and once more; with
 * the arithmetic in words. A pure function.
 */
export function worthOfGroup(
  group: Pick<FixGroup, 'id' | 'pages'>,
  alone: Staircase['alone'] | undefined,
  pages: readonly { readonly graph: { readonly page: string }; readonly linksIn: number }[],
): { seconds: number; short: string; text: string } {
  const links = new Map(pages.map((p) => [p.graph.page, p.linksIn]));
  const own = alone?.find((a) => a.group === group.id)?.pages ?? [];
  const reach = own.reduce((sum, [page]) => sum + 1 + (links.get(page) ?? 0), 0);
  const seconds = own.reduce((sum, [page, ms]) => sum + (Math.max(0, ms) * (1 + (links.get(page) ?? 0))) / 1000, 0);
  const short = worthShort({ seconds });
  const known = own.some(([page]) => (links.get(page) ?? 0) > 0);
  const visits = known
    ? `${reach} visits: each link in to its pages followed once, and one more a page`
    : `one visit to each of its ${own.length} pages (links to them are not known)`;
  return { seconds, short, text: `Worth ${short} of visitors’ time: what it wins alone on a page, over ${visits}.` };
}
