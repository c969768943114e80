import { hostOf } from '../capture/url';
import { offerEach, type FixKind, type GraphEdit } from './fix';

/** What it does to the graph. */
export const hstsFixGraph: GraphEdit = {
  order: 71,
  onGraph(graph, fix) {
    const host = hostOf(fix.target === '*' ? (graph.fetches[graph.document.fetch]?.url ?? '') : fix.target);
    return graph.hsts.includes(host) ? graph : { ...graph, hsts: [...graph.hsts, host] };
  },
};

/** Browsers that have been here ask by https from then on (RFC 6797): the next visit saves the hop over http. */
export const hstsFix: FixKind = {
  id: 'hsts',
  title: 'Set HSTS',
  ...hstsFixGraph,
  effort: 10,
  offer(findings, context) {
    return offerEach(this, findings, context, 'hsts', (f) => ({
      title: `Set HSTS on ${hostOf(f.target)}`,
      group: hostOf(f.target),
    }));
  },
  onSource: () => [],
  onServer(fix, { page }) {
    return [
      {
        do: 'header',
        url: fix.target === '*' ? page.capture.page : fix.target,
        name: 'strict-transport-security',
        value: 'max-age=31536000; includeSubDomains',
      },
    ];
  },
};
