import { VISITORS } from '../../core/load/visitors';
import type { SweepSettings } from '../../core/site/settings';
import { VERSION } from '../../core/version';
import { recordPages } from '../record/record';
import { harFile } from '../record/writeHar';

/** One recording to make, with all that it takes. */
export interface RecordingWork {
  readonly url: string;
  readonly device: 'phone' | 'desktop';
  readonly runs: number;
  readonly mapHosts: readonly string[];
  readonly acceptAnyCertificate: boolean;
  readonly allowPrivate: boolean;
  readonly headers: SweepSettings['headers'];
  readonly basicAuth?: SweepSettings['basicAuth'];
}

/** What a sweep's settings say of one recording. */
export const workOf = (url: string, device: RecordingWork['device'], settings: SweepSettings): RecordingWork => ({
  url,
  device,
  runs: settings.captures.runs,
  mapHosts: settings.mapHosts,
  acceptAnyCertificate: settings.acceptAnyCertificate,
  allowPrivate: settings.allowPrivate,
  headers: settings.headers,
  basicAuth: settings.basicAuth,
});

/**
 * Makes one recording as a HAR.
 * @param ownPorts ports of this machine that are never opened
 * @throws as recordPages
 */
export async function recordWork(
  work: RecordingWork,
  { ownPorts, signal }: { readonly ownPorts: readonly number[]; readonly signal?: AbortSignal },
): Promise<Buffer> {
  const visitor = VISITORS.find((v) => v.touch === (work.device === 'phone'));
  if (!visitor) throw new Error(`no visitor has a ${work.device}`);
  const pages = await recordPages([work.url], {
    ownPorts,
    visitor,
    runs: work.runs,
    mapHosts: work.mapHosts,
    acceptAnyCertificate: work.acceptAnyCertificate,
    allowPrivate: work.allowPrivate,
    headers: Object.fromEntries(work.headers.map((h) => [h.name, h.value])),
    basicAuth: work.basicAuth,
    signal,
  });
  return Buffer.from(harFile(pages, VERSION));
}
