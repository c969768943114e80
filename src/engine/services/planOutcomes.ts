import { InputError, PageError } from '../../core/capture/errors';
import type { Finding } from '../../core/checks/finding';
import { parseVisitor, visitorWith } from '../../core/load/visitors';
import type { Plan } from '../../core/plan/plan';
import { outcomeOf, type Recorded } from '../../core/proof/outcome';
import type { Outcome, OutcomeFinding } from '../../core/proof/outcomeWords';
import type { SweepSettings } from '../../core/site/settings';
import { VERSION } from '../../core/version';
import type { Wanted } from '../crawl/control';
import { recordPages } from '../record/record';
import { harFile } from '../record/writeHar';
import { getCapture, listCaptures } from '../store/captures';
import { crawlFactsOf } from '../store/crawlFacts';
import { findJob, jobInput } from '../store/jobs';
import { folderOfStore } from '../store/location';
import { addOutcome, listOutcomes } from '../store/outcomes';
import { findPlan, listPlans } from '../store/plans';
import { ownPorts } from '../store/serverLock';
import { siteLimits } from '../store/sites';
import type { Store } from '../store/store';
import { findSweep, listSweeps } from '../store/sweeps';
import { auditHar } from './importHar';
import type { JobContext } from './runSweep';

/** What a job of kind `check` is given; the sweep whose promises are checked stands in the job. */
export interface CheckInput {
  readonly siteId: number;
  readonly planId: number;
  readonly settings: SweepSettings;
}

/** Pages of one check at most. */
const MOST_PAGES = 60;

/** Fixes of a plan that are said to be done. */
export const doneOf = (plan: Pick<Plan, 'fixes'>) =>
  plan.fixes.filter((f) => f.state === 'done').map(({ group, title }) => ({ group, title }));

/**
 * Records the pages on which a plan's done fixes were promised once more, for both devices and with an empty cache, and
 * keeps what became of the fixes. Nothing is added to the sweep.
 * @throws PageError when none of the pages could be recorded
 */
export async function runCheck(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<CheckInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job?.sweepId) throw new Error(`job ${jobId} is gone`);
  const plan = await findPlan(store, input.siteId, input.planId);
  if (!plan) throw new InputError('The plan was deleted.', `job ${jobId}`, 'Nothing is left to check.');
  const done = doneOf(plan);
  const before = (await recordedIn(store, job.sweepId)).filter((r) =>
    r.fixes.some((f) => done.some((d) => d.group === f.group)),
  );
  const wanted = before.slice(0, MOST_PAGES);
  const after: Recorded[] = [];
  const faults: string[] = [];
  const { settings } = input;
  const limits = await siteLimits(store, input.siteId);
  for (const [nth, { page, device }] of wanted.entries()) {
    if (context.control.wanted) return context.control.wanted;
    context.onProgress(
      { done: nth, total: wanted.length, failed: faults.length, now: [`${page} as ${device}`], recent: [], counts: {} },
      'recording pages once more',
    );
    try {
      const pages = await recordPages([page], {
        visitor: visitorWith(device),
        ownPorts: ownPorts(await folderOfStore(store)),
        mapHosts: settings.mapHosts,
        acceptAnyCertificate: settings.acceptAnyCertificate,
        allowPrivate: settings.allowPrivate,
        headers: Object.fromEntries(settings.headers.map((h) => [h.name, h.value])),
        basicAuth: settings.basicAuth,
        signal: context.control.signal,
      });
      const [one] = await auditHar(Buffer.from(harFile(pages, VERSION)), page, async () => ({
        limits,
        crawl: job.sweepId ? await crawlFactsOf(store, job.sweepId, page) : undefined,
      }));
      if (one) {
        const { audit } = one;
        after.push({
          page,
          device,
          graph: audit.graph,
          fixes: audit.fixes,
          findings: audit.findings.map(shortFinding),
        });
      }
    } catch (error) {
      if (context.control.wanted) return context.control.wanted;
      if (!(error instanceof InputError)) throw error;
      faults.push(`${error.what} ${error.next}`);
    }
  }
  if (after.length === 0)
    throw new PageError(
      faults[0] ?? 'No page of this sweep has any of these fixes.',
      wanted[0]?.page ?? plan.name,
      'Try again once it answers.',
    );
  await keep(store, input.siteId, plan, job.sweepId, 'check', new Date().toISOString(), before, after);
  return undefined;
}

/** Keeps what a finished sweep says of every plan's done fixes, compared with the sweep before it. */
export async function outcomesBySweep(store: Store, sweepId: number): Promise<void> {
  const sweep = await findSweep(store, sweepId);
  if (!sweep) return;
  const plans = (await listPlans(store, sweep.siteId)).filter((p) => doneOf(p).length > 0);
  if (plans.length === 0) return;
  const all = await listSweeps(store, sweep.siteId);
  const older = all.slice(all.findIndex((s) => s.id === sweepId) + 1).find((s) => s.captures > 0);
  if (!older) return;
  const before = await recordedIn(store, older.id);
  const after = await recordedIn(store, sweepId);
  if (after.length === 0) return;
  for (const plan of plans)
    await keep(
      store,
      sweep.siteId,
      plan,
      older.id,
      'sweep',
      sweep.startedAt ?? `${sweep.day}T00:00:00.000Z`,
      before,
      after,
    );
}

async function keep(
  store: Store,
  siteId: number,
  plan: Plan,
  sweepId: number,
  by: 'check' | 'sweep',
  lookedAt: string,
  before: readonly Recorded[],
  after: readonly Recorded[],
): Promise<Outcome> {
  const [last] = (await listOutcomes(store, plan.id)).filter((o) => o.lookedAt !== lookedAt);
  const wereGone = new Set(last?.outcome.fixes.filter((f) => f.still.length === 0 && f.gone > 0).map((f) => f.group));
  const outcome = outcomeOf(before, after, doneOf(plan), parseVisitor(plan.visitor), wereGone);
  await addOutcome(store, { siteId, planId: plan.id, sweepId, by, lookedAt, outcome });
  return outcome;
}

/** The recordings of a sweep as outcomes need them. */
async function recordedIn(store: Store, sweepId: number): Promise<Recorded[]> {
  const out: Recorded[] = [];
  for (const row of await listCaptures(store, sweepId)) {
    const full = await getCapture(store, row.id);
    if (!full) continue;
    const { graph, fixes } = full.audit;
    out.push({ page: row.page, device: row.device, graph, fixes, findings: full.findings.map(shortFinding) });
  }
  return out;
}

function shortFinding({ id, check, title, target, evidence }: Finding): OutcomeFinding {
  const { source } = evidence;
  return { id, check, title, target, place: source && `${source.url}, line ${source.line}` };
}
