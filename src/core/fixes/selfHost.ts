import { isThirdParty } from '../capture/site';
import { sheetOf } from './fontSwap';
import { fileName, hostOf, originOf } from '../capture/url';
import { shortHash } from '../hash';
import type { Finding } from '../checks/finding';
import { renameMention } from './addressEdits';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** What can only be changed in the file itself, which a third party's is not until it is hosted. */
const FILE_CHECKS = new Set(['style-unused', 'text-unminified', 'font-display', 'import-chain', 'mixed-style']);
const fileOf = (f: Finding) => (f.check === 'style-unused' || f.check === 'text-unminified' ? f.target : sheetOf(f));

/** What it does to the graph. */
export const selfHostGraph: GraphEdit = {
  order: 12,
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
};

/** A third-party file is served from the site's own host, where it can be changed as well. */
export const selfHost: FixKind = {
  id: 'self-host',
  title: 'Serve a third-party file yourself',
  ...selfHostGraph,
  effort: 40,
  offer(findings, context) {
    const { page } = context;
    const byUrl = new Map<string, (typeof findings)[number][]>();
    for (const f of findings) {
      const origin = f.check === 'third-party-blocking' ? originOf(f.target.replace(/\*$/, '')) : undefined;
      for (const load of page.capture.loads) {
        if (!/^(script|style)$/.test(load.kind) || !page.mentionsOf(load.url).some((m) => m.use === 'load')) continue;
        const concerned =
          origin === undefined
            ? FILE_CHECKS.has(f.check) && fileOf(f) === load.url && isThirdParty(page, load.url)
            : originOf(load.url) === origin && load.renderBlocking !== false;
        if (concerned) byUrl.set(load.url, [...(byUrl.get(load.url) ?? []), f]);
      }
    }
    return [...byUrl].map(([url, own]) =>
      makeFix({
        kind: this,
        page,
        target: url,
        findings: own,
        title: `Serve ${fileName(url)} from ${hostOf(page.capture.page)}`,
        group: url,
      }),
    );
  },
  onSource(fix, { page }) {
    return page
      .mentionsOf(fix.target)
      .filter((m) => m.use === 'load')
      .flatMap((m) => renameMention(page, m, ownAddress(fix.target, page.capture.page)));
  },
  onServer(fix, { page }) {
    return [{ do: 'copy', url: fix.target, to: ownAddress(fix.target, page.capture.page) }];
  },
};

/** The address of a third-party file's copy on the page's host; its hash keeps files of the same name apart. */
export function ownAddress(url: string, page: string): string {
  return `${originOf(page)}/own/${shortHash(url)}/${fileName(url)}`;
}
