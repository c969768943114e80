import { isThirdParty } from '../capture/site';
import { fileName, hostOf } from '../capture/url';
import { secureMention, secureReference } from './addressEdits';
import type { Edit } from './edits';
import { makeFix, type FixKind, type OfferContext, type GraphEdit } from './fix';
import { editFetches } from './graphEdits';

/** Size of a file that was refused and so never seen, in bytes by kind: the median of ordinary pages. */
const UNSEEN_BYTES: Readonly<Record<string, number>> = {
  script: 18_000,
  style: 9_000,
  frame: 15_000,
  font: 24_000,
  data: 3_000,
  image: 20_000,
};

/** What it does to the graph. */
export const httpUpgradeGraph: GraphEdit = {
  order: 20,
  onGraph(graph, fix) {
    return editFetches(graph, (f) => {
      if (!f.url.startsWith('http:') || (fix.target !== '*' && f.url !== fix.target) || f.id === graph.document.fetch)
        return f;
      const unseen =
        f.refused && f.bodyBytes === 0 ? (fix.values.bytes ?? UNSEEN_BYTES[f.kind] ?? 10_000) : f.bodyBytes;
      return {
        ...f,
        url: 'https:' + f.url.slice(5),
        origin: 'https:' + f.origin.slice(5),
        secure: true,
        refused: false,
        bodyBytes: unseen,
        ...(f.refused && f.bodyBytes === 0 && fix.values.bytes === undefined && { guessed: true }),
        decodedBytes: Math.max(f.decodedBytes, unseen),
        headerBytes: Math.max(f.headerBytes, 250),
        requestBytes: Math.max(f.requestBytes, 400),
        serverMs: f.refused ? 60 : f.serverMs,
      };
    });
  },
};

/** An http reference becomes https. What a browser refused loads from then on: right, but not free. */
export const httpUpgrade: FixKind = {
  id: 'http-upgrade',
  title: 'Use https://',
  ...httpUpgradeGraph,
  effort: 5,
  offer(findings, context) {
    const byTarget = new Map<string, (typeof findings)[number][]>();
    for (const f of findings) {
      if (f.concern !== 'mixed' && f.check !== 'http-mention') continue;
      // What a third party's stylesheet names only that party can change; the sheet can be hosted instead.
      if (f.check === 'mixed-style' && isThirdParty(context.page, f.evidence.source?.url ?? f.target)) continue;
      byTarget.set(f.target, [...(byTarget.get(f.target) ?? []), f]);
    }
    return [...byTarget].map(([target, own]) =>
      makeFix({
        kind: this,
        page: context.page,
        target,
        findings: own,
        title: `Use https:// for ${own.every((f) => f.check === 'http-mention') ? `links to ${hostOf(target)}` : fileName(target)}`,
        group: own.every((f) => f.check === 'http-mention') ? `links ${hostOf(target)}` : target,
      }),
    );
  },
  onSource(fix, context) {
    return [...inMarkup(fix.target, context), ...inStyles(fix.target, context)];
  },
};

function inMarkup(target: string, { page }: OfferContext): Edit[] {
  return page.mentions
    .filter((m) => m.url.startsWith('http:') && (target === '*' || m.url === target))
    .flatMap((m) => secureMention(page, m));
}

function inStyles(target: string, { page }: OfferContext): Edit[] {
  return page.styles
    .filter((s) => !isThirdParty(page, s.url))
    .flatMap((s) =>
      s.references.filter((r) => target === '*' || r.url === target).flatMap((r) => secureReference(page, s, r)),
    );
}
