import { InputError, PageError } from '../../core/capture/errors';
import type { Finding } from '../../core/checks/finding';
import { parseVisitor, visitorWith } from '../../core/load/visitors';
import type { Plan } from '../../core/plan/plan';
import { offering, outcomeOf, type Recorded } from '../../core/proof/outcome';
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

/** Sweeps that are searched for the ones on which fixes were promised. */
const MOST_SWEEPS = 24;

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
  const sweeps = await listSweeps(store, input.siteId);
  const upTo = sweeps.slice(
    Math.max(
      0,
      sweeps.findIndex((s) => s.id === job.sweepId),
    ),
  );
  const { before, on = job.sweepId } = await promisedOn(store, plan, upTo);
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
      faults[0] ?? 'No recording of this site offers any of these fixes.',
      wanted[0]?.page ?? plan.name,
      'Try again once it answers.',
    );
  await keep(store, input.siteId, plan, on, 'check', new Date().toISOString(), before, after);
  return undefined;
}

/** Keeps what a finished sweep says of every plan's done fixes, or of those of one plan. */
export async function outcomesBySweep(store: Store, sweepId: number, planId?: number): Promise<void> {
  const sweep = await findSweep(store, sweepId);
  if (!sweep) return;
  const plans = (await listPlans(store, sweep.siteId)).filter(
    (p) => doneOf(p).length > 0 && (planId === undefined || p.id === planId),
  );
  if (plans.length === 0) return;
  const all = await listSweeps(store, sweep.siteId);
  const older = all.slice(all.findIndex((s) => s.id === sweepId) + 1);
  const after = await recordedIn(store, sweepId);
  if (after.length === 0) return;
  const read = readOnce(store);
  for (const plan of plans) {
    const { before, on } = await promisedOn(store, plan, older, read);
    if (on === undefined) continue;
    const lookedAt = sweep.startedAt ?? `${sweep.day}T00:00:00.000Z`;
    await keep(store, sweep.siteId, plan, on, 'sweep', lookedAt, before, after);
  }
}

/**
 * The recordings on which a plan's done fixes were promised: those of the sweep that its first outcome is of, and for what
 * that one does not offer those of the latest sweep that does. A fix that was seen to be done is no longer offered by later
 * ones, and is looked at again all the same.
 * @param sweeps the latest first
 */
async function promisedOn(
  store: Store,
  plan: Plan,
  sweeps: readonly { readonly id: number; readonly captures: number }[],
  read = readOnce(store),
): Promise<{ before: Recorded[]; on?: number }> {
  const first = (await listOutcomes(store, plan.id)).at(-1)?.sweepId;
  const recorded = sweeps.filter((s) => s.captures > 0).map((s) => s.id);
  const order = [...recorded.filter((id) => id === first), ...recorded.filter((id) => id !== first)];
  const before: Recorded[] = [];
  let on = order[0];
  let open: ReadonlySet<string> = new Set(doneOf(plan).map((d) => d.group));
  for (const id of order.slice(0, MOST_SWEEPS)) {
    if (open.size === 0) break;
    const { offered, missing } = offering(await read(id), open);
    if (before.length === 0 && offered.length > 0) on = id;
    before.push(...offered);
    open = missing;
  }
  return { before, on };
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
  const gone = last?.outcome.fixes.filter((f) => f.still.length === 0 && f.gone > 0) ?? [];
  const wereGone = new Map(gone.map((f) => [f.group, f.verdict]));
  const outcome = outcomeOf(before, after, doneOf(plan), parseVisitor(plan.visitor), wereGone);
  await addOutcome(store, { siteId, planId: plan.id, sweepId, by, lookedAt, outcome });
  return outcome;
}

/** Reads the recordings of each sweep once, for several plans. */
function readOnce(store: Store): (sweepId: number) => Promise<Recorded[]> {
  const known = new Map<number, Promise<Recorded[]>>();
  return (id) => {
    const reading = known.get(id) ?? recordedIn(store, id);
    known.set(id, reading);
    return reading;
  };
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
