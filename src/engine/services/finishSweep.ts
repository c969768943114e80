import { pathOf } from '../../core/capture/url';
import type { Hop } from '../../core/site/hop';
import { followRedirects, linkDepths } from '../../core/site/linkGraph';
import { groupTemplates, templateName } from '../../core/site/template';
import { readGraph, saveOutcome, type PageOutcome, type SweepGraphRows } from '../store/finishPages';
import { applyClicks, clicksList } from '../store/lists';
import type { Store } from '../store/store';
import { findSweep } from '../store/sweeps';

/**
 * Works out what only the whole of a sweep can tell: depths, links in, where redirects end, templates. May be
 * called again at any time: the same rows give the same result.
 */
export async function finishSweep(store: Store, sweepId: number): Promise<void> {
  const graph = await readGraph(store, sweepId);
  const templates = templatesOf(graph);
  await saveOutcome(store, sweepId, outcomesOf(graph, templates.byFingerprint), templates.list);
  const sweep = await findSweep(store, sweepId);
  if (sweep && (await clicksList(store, sweep.siteId))) await applyClicks(store, sweep.siteId);
}

function outcomesOf(graph: SweepGraphRows, templates: ReadonlyMap<string, string>): PageOutcome[] {
  const { pages } = graph;
  const place = new Map(pages.map((p, i) => [p.id, i]));
  const byUrl = new Map(pages.map((p, i) => [p.url, i]));
  const redirects = new Int32Array(pages.length).fill(-1);
  pages.forEach((p, i) => {
    if (p.redirectTo !== null) redirects[i] = byUrl.get(p.redirectTo) ?? -1;
  });
  const pairs = new Int32Array(graph.links.length * 2);
  const linksIn = new Int32Array(pages.length);
  graph.links.forEach((l, i) => {
    const from = place.get(l.from) ?? 0;
    const to = place.get(l.to) ?? 0;
    pairs[i * 2] = from;
    pairs[i * 2 + 1] = to;
    if (from !== to) linksIn[to]!++;
  });
  const homes = pages.flatMap((p, i) => (p.origin === 'home' ? [i] : []));
  const depths = linkDepths({ pages: pages.length, links: pairs, redirects }, homes);
  const outcomes = pages.map((p, i) => outcomeOf(p, i));
  const missing = new Int32Array(pages.length);
  const redirected = new Int32Array(pages.length);
  for (let k = 0; k < pairs.length; k += 2) {
    const from = pairs[k] as number;
    const target = outcomes[pairs[k + 1] as number] as (typeof outcomes)[number];
    if ((target.finalStatus ?? 200) >= 400 || target.finalStatus === 0) missing[from]!++;
    if (target.hopCount > 0) redirected[from]!++;
  }
  return outcomes.map((o, i) => ({
    ...o,
    linksMissing: missing[i] as number,
    linksRedirected: redirected[i] as number,
  }));

  function outcomeOf(p: (typeof pages)[number], i: number): Omit<PageOutcome, 'linksMissing' | 'linksRedirected'> {
    const end = followRedirects(redirects, i);
    const last = pages[end.page] as (typeof pages)[number];
    const outside = last.outside ? (JSON.parse(last.outside) as Hop[]) : [];
    const through = end.through.map((k) => hopOf(pages[k] as (typeof pages)[number]));
    const hops: Hop[] = outside.length > 0 ? [...through, hopOf(last), ...outside.slice(0, -1)] : through;
    const final = outside.at(-1);
    return {
      id: p.id,
      depth: (depths[i] as number) < 0 ? null : (depths[i] as number),
      linksIn: linksIn[i] as number,
      hopCount: hops.length,
      hops: hops.length === 0 ? null : JSON.stringify(hops),
      finalUrl: final?.url ?? last.url,
      // A circle has no end, hence no status.
      finalStatus: end.loop ? 0 : final ? final.status : last.status,
      template: p.fingerprint === null ? null : (templates.get(p.fingerprint) ?? null),
    };
  }
}

function hopOf(page: SweepGraphRows['pages'][number]): Hop {
  return {
    url: page.url,
    status: page.status ?? 0,
    ms: Math.round(page.answerMs ?? 0),
    kind: page.redirectKind === 'meta' ? 'meta' : 'http',
  };
}

function templatesOf(graph: SweepGraphRows): {
  byFingerprint: Map<string, string>;
  list: { template: string; name: string; pages: number }[];
} {
  const counts = new Map<string, number>();
  for (const p of graph.pages)
    if (p.fingerprint !== null) counts.set(p.fingerprint, (counts.get(p.fingerprint) ?? 0) + 1);
  const byFingerprint = groupTemplates(
    graph.fingerprints.flatMap((f) => {
      const pages = counts.get(f.fingerprint);
      return pages ? [{ fingerprint: f.fingerprint, features: f.features.split(' ').filter(Boolean), pages }] : [];
    }),
  );
  const paths = new Map<string, string[]>();
  for (const p of graph.pages) {
    const template = p.fingerprint === null ? undefined : byFingerprint.get(p.fingerprint);
    if (template === undefined) continue;
    const list = paths.get(template) ?? [];
    list.push(pathOf(p.url));
    paths.set(template, list);
  }
  const used = new Map<string, number>();
  const list = [...paths]
    .sort((a, b) => b[1].length - a[1].length || (a[0] < b[0] ? -1 : 1))
    .map(([template, own]) => {
      const name = templateName(own);
      const n = (used.get(name) ?? 0) + 1;
      used.set(name, n);
      return { template, name: n > 1 ? `${name} (${n})` : name, pages: own.length };
    });
  return { byFingerprint, list };
}
