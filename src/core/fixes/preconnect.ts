import { hostOf, originOf } from '../capture/url';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { goesWithoutCredentials, listPreconnects, serves } from '../load/credentials';
import type { Page } from '../source/page';
import { inAttribute, insertInHead } from './head';

/** What it does to the graph. */
export const preconnectGraph: GraphEdit = {
  order: 33,
  onGraph(graph, fix) {
    const { hintOffset: offset, bodyOffset } = graph.document;
    const own = graph.fetches[graph.document.fetch]?.origin ?? '';
    const added = connectionsOf(graph.fetches, own, fix.target).filter(
      ({ origin, anonymous }) => !graph.preconnects.some((p) => p.offset <= bodyOffset && serves(p, origin, anonymous)),
    );
    if (added.length === 0) return graph;
    return { ...graph, preconnects: [...graph.preconnects, ...added.map((c) => ({ ...c, offset }))] };
  },
};

/** A connection to another host is made early (HTML, 4.6.8.18, link type preconnect). */
export const preconnect: FixKind = {
  id: 'preconnect',
  title: 'Preconnect to a host',
  ...preconnectGraph,
  effort: 5,
  offer(findings, context) {
    const byOrigin = new Map<string, (typeof findings)[number][]>();
    for (const f of findings) {
      if (f.check !== 'hero-other-host' && f.check !== 'font-late') continue;
      const origin = originOf(f.target);
      if (origin && missing(context.page, origin).length > 0)
        byOrigin.set(origin, [...(byOrigin.get(origin) ?? []), f]);
    }
    return [...byOrigin].map(([origin, own]) =>
      makeFix({
        kind: this,
        page: context.page,
        target: `${origin}/`,
        findings: own,
        title: `Preconnect to ${hostOf(origin)}`,
        group: origin,
      }),
    );
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return missing(page, fix.target).flatMap(({ origin, anonymous }) =>
      insertInHead(document, `<link rel="preconnect" href="${inAttribute(origin)}"${anonymous ? ' crossorigin' : ''}>`),
    );
  },
};

/** Connections that the page's requests use and that nothing opens early, neither a header nor the head. */
function missing(page: Page, target: string): Connection[] {
  const { capture, document } = page;
  const requests = capture.loads.map((l) => ({ origin: originOf(l.url), anonymous: goesWithoutCredentials(page, l) }));
  const hints = listPreconnects(page, (offset) => offset).filter((h) => h.offset <= (document?.bodyStart ?? 0));
  return connectionsOf(requests, originOf(capture.page), target).filter(
    ({ origin, anonymous }) => !hints.some((hint) => serves(hint, origin, anonymous)),
  );
}

interface Connection {
  readonly origin: string;
  readonly anonymous: boolean;
}

/** Connections that requests to other origins use: those without credentials have their own (Fetch, 2.6). */
function connectionsOf(
  requests: readonly { readonly origin: string; readonly anonymous?: boolean }[],
  own: string,
  target: string,
): Connection[] {
  const wanted = target === '*' ? undefined : originOf(target);
  const out: Connection[] = [];
  for (const { origin, anonymous = false } of requests) {
    if (!origin || origin === own || (wanted !== undefined && origin !== wanted)) continue;
    if (!out.some((c) => c.origin === origin && c.anonymous === anonymous)) out.push({ origin, anonymous });
  }
  return out;
}
