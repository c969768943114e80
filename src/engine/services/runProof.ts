import { InputError } from '../../core/capture/errors';
import { fileName } from '../../core/capture/url';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import { groupFixes } from '../../core/plan/staircase';
import type { Wanted } from '../crawl/control';
import type { ProofLink } from '../replay/stage';
import { queueAddress } from '../fleet/queueAddress';
import type { ReplayPlan, ReplayRuns } from '../replay/runReplay';
import { findJob, jobInput } from '../store/jobs';
import { addProof, provedCaptures, sweepPictures } from '../store/proofs';
import type { Store } from '../store/store';
import { benchPages } from './benchPages';
import { offerContext, openCapture } from './captureView';
import { proveFixes } from './proveFixes';
import type { JobContext } from './runSweep';

/** What a job of kind `proof` is given; its sweep stands in the job. */
export interface ProofInput {
  readonly siteId: number;
  /** Captures to prove the fixes on, one after the other. */
  readonly captures: readonly number[];
  /** Ids of groups of fixes. */
  readonly groups: readonly string[];
  readonly visitor: Visitor;
  /** Runs of each side; undefined: until they say enough. */
  readonly runs?: number;
  readonly link?: ProofLink;
}

/**
 * Proves fixes on captured pages, one after the other; what is proved is kept at once, and after a pause or a crash the
 * next page goes on. A page without these fixes is passed over.
 */
export async function runProof(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<ProofInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job) throw new Error(`job ${jobId} is gone`);
  if (!job.sweepId) throw new InputError('The sweep of this proof was deleted.', `job ${jobId}`, 'Start another one.');
  await sweepPictures(store);
  const { control } = context;
  const done = await provedCaptures(store, jobId);
  const { pages } = await benchPages(store, job.sweepId, deviceOf(input.visitor));
  const titles = new Map(
    groupFixes(pages.map((p) => ({ ...p, page: p.row.page }))).map((g) => [g.id, g.title] as const),
  );
  const recent: { what: string; result: string; ok: boolean }[] = [];
  const total = input.captures.length;
  const address = queueAddress();
  for (const [nth, id] of input.captures.entries()) {
    if (done.has(id)) continue;
    if (control.wanted) break;
    const own = pages.find((p) => p.row.id === id);
    const fixes = own?.fixes.filter((f) => input.groups.includes(f.group)) ?? [];
    const opened = fixes.length > 0 ? await openCapture(store, id, 'all') : undefined;
    if (!own || !opened) continue;
    const name = own.row.title || fileName(own.row.page);
    try {
      const made = await proveFixes(
        { ...offerContext(opened.full, opened.page), graph: own.graph },
        {
          visitor: input.visitor,
          fixes,
          runs: input.runs,
          link: input.link,
          film: true,
          signal: control.signal,
          replay: address
            ? await replayElsewhere(store, { jobId, title: `${name} (${id})`, link: input.link }, address, context)
            : undefined,
          onProgress: (p) =>
            context.onProgress(
              {
                done: nth * p.total + p.done,
                total: total * p.total,
                failed: 0,
                secondsLeft: p.leftMs === undefined ? undefined : Math.round(p.leftMs / 1000),
                now: [total > 1 ? `${name}: ${p.text}` : p.text],
                recent: recent.slice(0, 20),
                counts: {},
              },
              'proving',
            ),
        },
      );
      await addProof(
        store,
        {
          jobId,
          siteId: input.siteId,
          sweepId: job.sweepId,
          captureId: id,
          page: own.row.page,
          title: own.row.title,
          device: own.row.device,
          visitor: input.visitor.id,
          visitorName: input.visitor.name,
          // As they stood on the bench, also those that this page has no part in: by them the bench finds its proof.
          groups: input.groups.map((g) => ({ id: g, title: titles.get(g) ?? g })),
        },
        made,
      );
      recent.unshift({ what: name, result: 'proved', ok: true });
    } catch (error) {
      if (control.wanted) break;
      if (total === 1 || !(error instanceof InputError)) throw error;
      recent.unshift({ what: name, result: error.what, ok: false });
    }
  }
  if (!control.wanted && recent.length > 0 && recent.every((r) => !r.ok))
    throw new InputError(recent[0]?.result ?? '', recent[0]?.what ?? '', 'Record the pages anew, then prove again.');
  return control.wanted;
}

/** Lets a recorder elsewhere make the visits of a proof. */
async function replayElsewhere(
  store: Store,
  proof: { readonly jobId: number; readonly title: string; readonly link?: ProofLink },
  address: string,
  { control, onProgress }: JobContext,
): Promise<(plan: ReplayPlan) => Promise<ReplayRuns>> {
  const { askRecorders } = await import('../fleet/askRecorders');
  const { jobId, title } = proof;
  const rootLink = proof.link === 'namespaces';
  return (input) =>
    askRecorders(
      store,
      { jobId, kind: 'proof', title, host: null, mostOfHost: 1, rootLink, input },
      address,
      control,
      onProgress,
    );
}
