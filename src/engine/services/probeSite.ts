import { hostOf } from '../../core/capture/url';
import type { SweepSettings } from '../../core/site/settings';
import type { Wanted } from '../crawl/control';
import { queueAddress } from '../fleet/queueAddress';
import { MOST_VERSIONS } from '../probe/httpsVersions';
import { MOST_OUTSIDE } from '../probe/outsideLinks';
import { makeProbe, type ProbeFindings, type ProbePlan } from '../probe/probePlan';
import { leadsByScript } from '../store/captures';
import { findJob, jobInput } from '../store/jobs';
import { folderOfStore } from '../store/location';
import { addProbe } from '../store/probes';
import { harmlessLinks, linkedOutside, ownHosts, plainFiles, samplePages } from '../store/probeTargets';
import { ownPorts } from '../store/serverLock';
import type { Store } from '../store/store';
import type { JobContext } from './runSweep';

/** What a job of kind `probe` is given; its sweep, if there is one, stands in the job itself. */
export interface ProbeInput {
  readonly siteId: number;
  readonly settings: SweepSettings;
}

/** A probe of a site, with a sweep that says what to ask for if there is one. */
type ProbeTask = ProbeInput & { readonly sweepId: number | null };

/** Asks for every way into a site. */
export async function runProbe(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<ProbeInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job) throw new Error(`job ${jobId} is gone`);
  return probeSite(store, jobId, { ...input, sweepId: job.sweepId }, context);
}

/**
 * Asks for every way into a site and keeps what came back: its home with and without `www`, every other own host, a
 * sample of each template, certificates, and https versions of what is fetched by http. Nothing is kept of a probe that
 * was stopped.
 */
export async function probeSite(
  store: Store,
  jobId: number,
  task: ProbeTask,
  context: JobContext,
): Promise<Wanted | undefined> {
  const { siteId, sweepId } = task;
  const { control } = context;
  try {
    const plan = await planProbe(store, task);
    const found = await probe(store, jobId, plan, context);
    await keepProbe(store, siteId, sweepId, found);
  } catch (error) {
    if (!control.wanted) throw error;
  }
  return control.wanted;
}

/** Keeps what a probe has brought. */
export async function keepProbe(
  store: Store,
  siteId: number,
  sweepId: number | null,
  found: ProbeFindings,
): Promise<void> {
  const links = sweepId === null ? 0 : await harmlessLinks(store, sweepId);
  await addProbe(store, siteId, sweepId, { ...found, harmlessLinks: links });
}

/** What is to be asked for, as the sweep has found it. */
export async function planProbe(store: Store, { settings, sweepId }: ProbeTask): Promise<ProbePlan> {
  if (sweepId === null) return { settings, seen: [], deep: [], files: [] };
  return {
    settings,
    seen: await ownHosts(store, sweepId, settings.home),
    deep: await samplePages(store, sweepId, settings.entrances.perTemplate),
    files: await plainFiles(store, sweepId, MOST_VERSIONS),
    outside: settings.entrances.outsideLinks ? await linkedOutside(store, sweepId, MOST_OUTSIDE) : undefined,
    byScript: [...(await leadsByScript(store, sweepId))],
  };
}

/** Makes a probe here, or lets a recorder elsewhere make it where a queue is set. */
async function probe(
  store: Store,
  jobId: number,
  plan: ProbePlan,
  { control, onProgress }: JobContext,
): Promise<ProbeFindings> {
  const address = queueAddress();
  if (address) {
    const { askRecorders } = await import('../fleet/askRecorders');
    const host = hostOf(plan.settings.home);
    return askRecorders(
      store,
      { jobId, kind: 'probe', title: host, host, mostOfHost: plan.settings.captures.browsers, input: plan },
      address,
      control,
      onProgress,
    );
  }
  return makeProbe(plan, {
    ownPorts: ownPorts(await folderOfStore(store)),
    signal: control.signal,
    onStep: ({ phase, done, total, now }) => onProgress({ done, total, failed: 0, now, recent: [], counts: {} }, phase),
  });
}
