import type { Store } from './store';

/** How a page stands in its site. */
export interface PagePlace {
  /** Clicks by the latest search export; without one, links that lead to it. */
  readonly linksIn: number;
  readonly template?: { readonly id: string; readonly name: string };
}

/** Where these pages of a sweep stand; pages that were not crawled are left out. */
export async function placesOf(
  store: Store,
  sweepId: number,
  urls: readonly string[],
): Promise<Map<string, PagePlace>> {
  if (urls.length === 0) return new Map();
  const rows = await store
    .selectFrom('pages')
    .leftJoin('templates', (j) =>
      j.onRef('templates.sweep_id', '=', 'pages.sweep_id').onRef('templates.template', '=', 'pages.template'),
    )
    .select(['pages.url', 'pages.links_in', 'pages.clicks', 'templates.template', 'templates.name'])
    .where('pages.sweep_id', '=', sweepId)
    .where('pages.url', 'in', [...urls])
    .execute();
  return new Map(
    rows.map((r) => [
      r.url,
      {
        linksIn: Number(r.clicks ?? r.links_in ?? 0),
        ...(r.template && { template: { id: r.template, name: r.name ?? r.template } }),
      },
    ]),
  );
}
