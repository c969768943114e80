import { hostOf, originOf } from '../capture/url';
import { makeFix, type FixKind, type GraphEdit } from './fix';
import { editFetches } from './graphEdits';

const YEAR_S = 31_536_000;
const KINDS = new Set(['style', 'script', 'image', 'font']);

/** What it does to the graph. */
export const cachePolicyGraph: GraphEdit = {
  order: 70,
  onGraph(graph, fix) {
    return editFetches(graph, (f) =>
      KINDS.has(f.kind) && covers(fix.target, f.url) && !(f.keep && f.keep.store && f.keep.freshS >= YEAR_S)
        ? { ...f, keep: { store: true, freshS: YEAR_S, validator: f.keep?.validator ?? false } }
        : f,
    );
  },
};

/** Files may be kept for the next visit (RFC 9111, 5.2.2). The first visit stays as it is. */
export const cachePolicy: FixKind = {
  id: 'cache-policy',
  title: 'Cache files',
  ...cachePolicyGraph,
  effort: 10,
  offer(findings, context) {
    const byOrigin = new Map<string, (typeof findings)[number][]>();
    for (const f of findings) {
      const origin = f.check === 'cache-short' ? originOf(f.target.replace(/\*$/, '')) : '';
      if (origin) byOrigin.set(origin, [...(byOrigin.get(origin) ?? []), f]);
    }
    return [...byOrigin].map(([origin, own]) =>
      makeFix({
        kind: this,
        page: context.page,
        target: `${origin}/*`,
        findings: own,
        title: `Cache files of ${hostOf(origin)} for a year`,
        group: origin,
        changes: origin,
      }),
    );
  },
  onSource: () => [],
  onServer(fix, { page }) {
    return page.capture.loads
      .filter((l) => KINDS.has(l.kind) && covers(fix.target, l.url))
      .map((l) => ({ do: 'header', url: l.url, name: 'cache-control', value: `max-age=${YEAR_S}, immutable` }));
  },
};

/** A target is an address, `ORIGIN/*`, or `*`. */
const covers = (target: string, url: string) =>
  target === '*' || target === url || (target.endsWith('/*') && originOf(url) === originOf(target.slice(0, -1)));
