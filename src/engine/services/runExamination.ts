import { auditPage } from '../../core/plan/audit';
import type { Wanted } from '../crawl/control';
import { capturesOfSite, packAudit, replaceAudit, unpackSizes } from '../store/captures';
import { crawlFactsOf } from '../store/crawlFacts';
import { jobInput } from '../store/jobs';
import { siteLimits } from '../store/sites';
import type { Store } from '../store/store';
import { openCapture } from './captureView';
import type { JobContext } from './runSweep';

/** What a job of kind `examine` is given. */
export interface ExamineInput {
  readonly siteId: number;
}

/**
 * Examines the stored captures of a site anew: with the checks of today and the limits that the site has set. Each
 * capture is replaced whole or not at all.
 */
export async function runExamination(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<ExamineInput>(store, jobId);
  if (!input) throw new Error(`job ${jobId} is gone`);
  const ids = await capturesOfSite(store, input.siteId);
  const limits = await siteLimits(store, input.siteId);
  for (const [done, id] of ids.entries()) {
    if (context.control.wanted) return context.control.wanted;
    const opened = await openCapture(store, id, 'all');
    if (!opened) continue;
    const { full, page } = opened;
    context.onProgress(
      { done, total: ids.length, failed: 0, now: [full.row.page], recent: [], counts: {} },
      'examining',
    );
    const sizes = unpackSizes(full.audit.sizes);
    const audit = auditPage(page, sizes, {
      limits,
      crawl: await crawlFactsOf(store, full.row.sweepId, full.row.page),
    });
    await store.transaction().execute((tx) => replaceAudit(tx, id, packAudit(audit), audit.findings));
  }
  context.onProgress({ done: ids.length, total: ids.length, failed: 0, now: [], recent: [], counts: {} }, 'examined');
  return undefined;
}
