import { fileName, hostOf, originOf } from '../capture/url';
import { shortHash } from '../hash';
import { setAttribute } from './edits';
import { makeFix, type FixKind } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** A file of another company is served from the site's own host. */
export const selfHost: FixKind = {
  id: 'self-host',
  title: 'Serve a foreign file yourself',
  order: 12,
  effort: 40,
  offer(findings, context) {
    return findings
      .filter((f) => f.check === 'blocking-third-party')
      .flatMap((f) => {
        const origin = originOf(f.target.replace(/\*$/, ''));
        return context.page.capture.loads
          .filter((l) => originOf(l.url) === origin && l.renderBlocking !== false && /script|style/.test(l.kind))
          .filter((l) => context.page.mentionsOf(l.url).some((m) => m.use === 'load'))
          .map((l) =>
            makeFix({
              kind: this,
              page: context.page,
              target: l.url,
              findings: [f],
              title: `Serve ${fileName(l.url)} from ${hostOf(context.page.capture.page)}`,
              group: l.url,
            }),
          );
      });
  },
  onGraph(graph, fix) {
    const own = graph.fetches[graph.document.fetch];
    const ids = new Set(fetchesOf(graph, fix.target).map((f) => f.id));
    if (!own) return graph;
    const waits = graph.fetches
      .filter((f) => f.origin === own.origin && f.id !== own.id && f.serverMs > 0)
      .map((f) => f.serverMs)
      .sort((a, b) => a - b);
    const serverMs = waits[Math.floor(waits.length / 2)] ?? Math.min(30, own.serverMs);
    return editFetches(graph, (f) =>
      ids.has(f.id) && f.origin !== own.origin
        ? {
            ...f,
            origin: own.origin,
            protocol: own.protocol,
            secure: own.secure,
            setupMs: own.setupMs,
            anonymous: false,
            serverMs,
          }
        : f,
    );
  },
  onSource(fix, { page }) {
    const { document } = page;
    if (!document) return [];
    return page
      .mentionsOf(fix.target)
      .filter((m) => m.use === 'load')
      .map((m) => setAttribute(document.url, m.element, m.attribute, ownAddress(fix.target, page.capture.page)));
  },
  onServer(fix, { page }) {
    return [{ do: 'copy', url: fix.target, to: ownAddress(fix.target, page.capture.page) }];
  },
};

/** Where the copy of a foreign file lives on a page's host: named by where it came from, so that two of the same name do not meet. */
export function ownAddress(url: string, page: string): string {
  return `${originOf(page)}/own/${shortHash(url)}/${fileName(url)}`;
}
