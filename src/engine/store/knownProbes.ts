import type { Probe } from '../../core/site/entrances';
import type { Hop } from '../../core/site/hop';
import type { LivingPage } from '../../core/site/nearest';
import type { Store } from './store';

/** What a sweep knows of its addresses, in the form in which probes come; and which pages answer. */
export async function knownProbes(
  store: Store,
  sweepId: number,
): Promise<{ probes: Map<string, Probe>; living: LivingPage[] }> {
  const rows = await store
    .selectFrom('pages')
    .select([
      'url',
      'status',
      'redirect_kind',
      'answer_ms',
      'hops',
      'final_url',
      'final_status',
      'title',
      'text_hash',
      'body_hash',
    ])
    .where('sweep_id', '=', sweepId)
    .where('state', '=', 'done')
    .execute();
  const probes = new Map<string, Probe>();
  const living: LivingPage[] = [];
  for (const r of rows) {
    const through = r.hops ? (JSON.parse(r.hops) as Hop[]) : [];
    const end = r.final_url ?? r.url;
    const status = r.final_status ?? r.status ?? 0;
    const hops = [
      ...through.map((h, i) => ({
        url: h.url,
        status: h.status,
        kind: h.kind,
        permanent: h.status === 301 || h.status === 308,
        ms: h.ms,
        location: through[i + 1]?.url ?? end,
      })),
      { url: end, status, kind: 'http' as const, permanent: false, ms: Math.round(r.answer_ms ?? 0), location: null },
    ];
    const page =
      through.length === 0 && status < 300
        ? { bodyHash: r.body_hash ?? '', textHash: r.text_hash ?? '', title: r.title ?? '' }
        : undefined;
    probes.set(
      r.url,
      status === 0
        ? { from: r.url, family: 'IPv4', hops, end: null, fault: 'loop', error: 'the redirects never end' }
        : { from: r.url, family: 'IPv4', hops, end: { url: end, status }, page },
    );
    if (through.length === 0 && status === 200) living.push({ url: r.url, title: r.title ?? undefined });
  }
  return { probes, living };
}

/** Pages of a sweep that respond over https themselves, by address. */
export async function livingPages(store: Store, sweepId: number): Promise<string[]> {
  const rows = await store
    .selectFrom('pages')
    .select('url')
    .where('sweep_id', '=', sweepId)
    .where('status', '=', 200)
    .where('redirect_to', 'is', null)
    .where('url', 'like', 'https:%')
    .orderBy('url')
    .execute();
  return rows.map((r) => r.url);
}
