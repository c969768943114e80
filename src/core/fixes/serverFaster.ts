import { fileName } from '../capture/url';
import { offerEach, type FixKind, type GraphEdit } from './fix';
import { editFetches } from './graphEdits';

/** What a page from a cache takes, in ms. */
const GOOD_WAIT_MS = 100;

/** What it does to the graph. */
export const serverFasterGraph: GraphEdit = {
  order: 11,
  onGraph(graph, fix) {
    const wait = fix.values.wait ?? GOOD_WAIT_MS;
    const page = graph.document.fetch;
    return editFetches(graph, (f) =>
      (f.url === fix.target || (fix.target === '*' && f.id === page)) && (f.serverMs > wait || f.pauses)
        ? { ...f, serverMs: Math.min(wait, f.serverMs), pauses: undefined }
        : f,
    );
  },
};

/** The server answers for the page sooner, and without a pause. `wait`: its think time then, in ms. */
export const serverFaster: FixKind = {
  id: 'server-faster',
  title: 'Respond to the page request sooner',
  ...serverFasterGraph,
  effort: 240,
  offer(findings, context) {
    return offerEach(this, findings, context, 'server-wait', (f) => ({
      title: `Respond to ${fileName(f.target)} within ${GOOD_WAIT_MS} ms`,
      group: 'server',
      values: { wait: GOOD_WAIT_MS },
    }));
  },
  onSource: () => [],
  onServer(fix, { page }) {
    return [
      {
        do: 'answer',
        url: fix.target === '*' ? page.capture.page : fix.target,
        waitMs: fix.values.wait ?? GOOD_WAIT_MS,
      },
    ];
  },
};
