import { redactUrl } from '../../core/capture/redact';
import { hostOf } from '../../core/capture/url';
import { InputError } from '../../core/capture/errors';
import type { SweepSettings } from '../../core/site/settings';
import { addJob, findJob, openJobs, type JobRow } from '../store/jobs';
import type { SiteRow } from '../store/sites';
import type { Store } from '../store/store';
import type { ImportInput } from './runImport';
import type { RecordInput } from './runRecordings';
import type { SweepInput } from './runSweep';

/**
 * Puts a sweep into the queue.
 * @throws InputError when the site has one under way
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

/** Puts the import of an uploaded file into the queue. */
export async function startImport(store: Store, input: ImportInput): Promise<JobRow> {
  const id = await addJob(store, { kind: 'import', title: `Import of ${input.fileName}`, input });
  return (await findJob(store, id)) as JobRow;
}
