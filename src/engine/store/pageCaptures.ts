import type { Store } from './store';

/** Captures by the page or the template that they speak for. */
export interface CapturesOf {
  /** Ids by page address. */
  readonly pages: Readonly<Record<string, readonly number[]>>;
  /** Ids of the captures of a template's pages, by template. */
  readonly templates: Readonly<Record<string, readonly number[]>>;
  /** How alike the pages of a template are: the share whose HTML is about as long as that of those recorded. */
  readonly alike: Readonly<Record<string, number>>;
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
  return { ...out, alike: await alikeness(store, sweepId, Object.keys(out.templates)) };
}

/** Pages within this factor of the recorded ones' HTML size count as alike. */
const ABOUT = 1.25;

async function alikeness(store: Store, sweepId: number, templates: readonly string[]): Promise<Record<string, number>> {
  const out: Record<string, number> = {};
  for (const template of templates) {
    const rows = await store
      .selectFrom('pages')
      .leftJoin('captures', (j) =>
        j.onRef('captures.sweep_id', '=', 'pages.sweep_id').onRef('captures.page', '=', 'pages.url'),
      )
      .select(['pages.url', 'pages.decoded_bytes as bytes', 'captures.id as captureId'])
      .where('pages.sweep_id', '=', sweepId)
      .where('pages.template', '=', template)
      .where('pages.decoded_bytes', '>', 0)
      .limit(5000)
      .execute();
    const recorded = rows.flatMap((r) => (r.captureId === null ? [] : [r.bytes ?? 0]));
    const near = (bytes: number) => recorded.some((b) => Math.max(b, bytes) <= ABOUT * Math.min(b, bytes));
    out[template] = rows.length === 0 ? 0 : rows.filter((r) => near(r.bytes ?? 0)).length / rows.length;
  }
  return out;
}
