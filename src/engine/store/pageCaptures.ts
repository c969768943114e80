import type { Store } from './store';

/** Captures by the page or the template that they speak for. */
export interface CapturesOf {
  /** Ids by page address. */
  readonly pages: Readonly<Record<string, readonly number[]>>;
  /** Ids of the captures of a template's pages, by template. */
  readonly templates: Readonly<Record<string, readonly number[]>>;
}

/** Captures of the pages listed, and of others of their templates: what is said of their load rests on these. */
export async function capturesByPage(
  store: Store,
  sweepId: number,
  rows: readonly { readonly url: string; readonly template: string | null }[],
): Promise<CapturesOf> {
  const captures = await store
    .selectFrom('captures')
    .leftJoin('pages', (j) =>
      j.onRef('pages.sweep_id', '=', 'captures.sweep_id').onRef('pages.url', '=', 'captures.page'),
    )
    .select(['captures.id', 'captures.page', 'pages.template'])
    .where('captures.sweep_id', '=', sweepId)
    .orderBy('captures.id')
    .execute();
  const urls = new Set(rows.map((r) => r.url));
  const templates = new Set(rows.map((r) => r.template));
  const out = { pages: {} as Record<string, number[]>, templates: {} as Record<string, number[]> };
  for (const c of captures) {
    if (urls.has(c.page)) (out.pages[c.page] ??= []).push(c.id);
    if (c.template !== null && templates.has(c.template)) (out.templates[c.template] ??= []).push(c.id);
  }
  return out;
}
