import { redactUrl } from '../../core/capture/redact';
import { hostOf } from '../../core/capture/url';
import { InputError } from '../../core/capture/errors';
import type { SweepSettings } from '../../core/site/settings';
import { addJob, findJob, openJobs, type JobRow } from '../store/jobs';
import type { SiteRow } from '../store/sites';
import type { Store } from '../store/store';
import type { FatesInput } from './runFates';
import type { ProbeInput } from './probeSite';
import type { MoveInput } from './runMove';
import type { CheckInput } from './planOutcomes';
import type { ProofInput } from './runProof';
import type { ImportInput } from './runImport';
import type { RecordInput } from './runRecordings';
import type { SweepInput } from './runSweep';
import type { ChangesInput } from '../watch/visitPages';
import { listWatched } from '../store/watch/watchedPages';

/**
 * Puts a sweep into the queue.
 * @throws InputError when the site has one queued or running
 */
export async function startSweep(store: Store, site: SiteRow, settings: SweepSettings): Promise<JobRow> {
  const busy = (await openJobs(store, site.id)).find((j) => j.kind === 'sweep');
  if (busy)
    throw new InputError(
      `A sweep of ${site.name} is ${busy.state} already.`,
      `job ${busy.id}`,
      'Wait for it, or cancel it before you start another.',
    );
  const input: SweepInput = { siteId: site.id, settings };
  const id = await addJob(store, {
    kind: 'sweep',
    title: `Sweep of ${hostOf(settings.home)}`,
    siteId: site.id,
    input,
  });
  return (await findJob(store, id)) as JobRow;
}

/**
 * Puts recordings of single pages into the queue; their captures become part of a sweep.
 * @throws InputError when there is nothing to record
 */
export async function startRecordings(
  store: Store,
  site: SiteRow,
  sweepId: number,
  urls: readonly string[],
  settings: SweepSettings,
): Promise<JobRow> {
  if (urls.length === 0 || settings.captures.devices.length === 0)
    throw new InputError('There is nothing to record.', 'urls', 'Choose at least one page and one device.');
  const input: RecordInput = { siteId: site.id, urls, settings };
  const title = urls.length === 1 ? `Recording of ${redactUrl(urls[0] ?? '')}` : `Recording of ${urls.length} pages`;
  const id = await addJob(store, { kind: 'record', title, siteId: site.id, sweepId, input });
  return (await findJob(store, id)) as JobRow;
}

/**
 * Puts a new examination of all captures of a site into the queue; one that waits already is enough.
 */
export async function startExamination(store: Store, site: SiteRow): Promise<JobRow> {
  const waiting = (await openJobs(store, site.id)).find((j) => j.kind === 'examine' && j.state === 'queued');
  if (waiting) return waiting;
  const id = await addJob(store, {
    kind: 'examine',
    title: `Examination of ${site.name} by its limits`,
    siteId: site.id,
    input: { siteId: site.id },
  });
  return (await findJob(store, id)) as JobRow;
}

/**
 * Puts a probe of a site's entrances into the queue.
 * @throws InputError when one is queued or running
 */
export async function startProbe(
  store: Store,
  site: SiteRow,
  sweepId: number | null,
  settings: SweepSettings,
): Promise<JobRow> {
  const busy = (await openJobs(store, site.id)).find((j) => j.kind === 'probe');
  if (busy)
    throw new InputError(
      `A probe of ${site.name} is ${busy.state} already.`,
      `job ${busy.id}`,
      'Wait for it, or cancel it.',
    );
  const input: ProbeInput = { siteId: site.id, settings };
  const title = `Entrances of ${hostOf(settings.home)}`;
  const id = await addJob(store, { kind: 'probe', title, siteId: site.id, sweepId: sweepId ?? undefined, input });
  return (await findJob(store, id)) as JobRow;
}

/** Puts the asking for the addresses of a list into the queue. */
export async function startFates(
  store: Store,
  site: SiteRow,
  list: { readonly id: number; readonly name: string },
  sweepId: number | null,
  settings: SweepSettings,
): Promise<JobRow> {
  const input: FatesInput = { siteId: site.id, listId: list.id, settings };
  const title = `Addresses of ${list.name}`;
  const id = await addJob(store, { kind: 'fates', title, siteId: site.id, sweepId: sweepId ?? undefined, input });
  return (await findJob(store, id)) as JobRow;
}

/** Puts a dry run or a move of an uploaded file into the queue. */
export async function startMove(store: Store, site: SiteRow, input: MoveInput): Promise<JobRow> {
  const title = `${input.dryRun ? 'Dry run' : 'Move to https'}: ${input.fileName}`;
  const id = await addJob(store, { kind: 'move', title, siteId: site.id, input });
  return (await findJob(store, id)) as JobRow;
}

/** Puts a check of the done fixes of a plan into the queue. */
export async function startCheck(
  store: Store,
  site: SiteRow,
  sweepId: number,
  input: CheckInput,
  plan: string,
): Promise<JobRow> {
  const id = await addJob(store, { kind: 'check', title: `Check of ${plan}`, siteId: site.id, sweepId, input });
  return (await findJob(store, id)) as JobRow;
}

/** Puts the proof of fixes on captured pages into the queue. */
export async function startProof(
  store: Store,
  site: SiteRow,
  sweepId: number,
  input: ProofInput,
  names: readonly string[],
): Promise<JobRow> {
  const pages = input.captures.length === 1 ? '' : ` on ${input.captures.length} pages`;
  const title = `Proof of ${names.length === 1 ? names[0] : `${names.length} fixes`}${pages}`;
  const id = await addJob(store, { kind: 'proof', title, siteId: site.id, sweepId, input });
  return (await findJob(store, id)) as JobRow;
}

/**
 * Puts a visit to the watched pages of a site into the queue; one that waits already is enough.
 * @throws InputError when no page is watched
 */
export async function startChanges(store: Store, site: SiteRow, settings: SweepSettings): Promise<JobRow> {
  const waiting = (await openJobs(store, site.id)).find((j) => j.kind === 'changes');
  if (waiting) return waiting;
  const pages = await listWatched(store, site.id);
  if (pages.length === 0)
    throw new InputError('No page of this site is watched.', site.name, 'Add pages to the change watch.');
  const input: ChangesInput = { siteId: site.id, settings };
  const title = `Changes of ${pages.length === 1 ? '1 page' : `${pages.length} pages`} of ${site.name}`;
  const id = await addJob(store, { kind: 'changes', title, siteId: site.id, input });
  return (await findJob(store, id)) as JobRow;
}

/** Puts the import of an uploaded file into the queue. */
export async function startImport(store: Store, input: ImportInput): Promise<JobRow> {
  const id = await addJob(store, { kind: 'import', title: `Import of ${input.fileName}`, input });
  return (await findJob(store, id)) as JobRow;
}
