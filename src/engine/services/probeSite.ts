import { sameSite } from '../../core/capture/site';
import { hostOf } from '../../core/capture/url';
import { bareForm, hostForms, probeTargets } from '../../core/site/entrances';
import type { SweepSettings } from '../../core/site/settings';
import { typedAddress } from '../../core/site/address';
import type { Wanted } from '../crawl/control';
import { compareHttpsVersions, MOST_VERSIONS } from '../probe/httpsVersions';
import { lookUpOutside, MOST_OUTSIDE } from '../probe/outsideLinks';
import { probeEntrances, type ProbeOptions, type ProbeReport } from '../probe/probeEntrances';
import { leadsByScript } from '../store/captures';
import { findJob, jobInput } from '../store/jobs';
import { addProbe } from '../store/probes';
import { harmlessLinks, linkedOutside, ownHosts, plainFiles, samplePages } from '../store/probeTargets';
import { ownPorts } from '../store/serverLock';
import { folderOfStore } from '../store/location';
import type { Store } from '../store/store';
import type { JobContext } from './runSweep';

/** What a job of kind `probe` is given; its sweep, if there is one, stands in the job itself. */
export interface ProbeInput {
  readonly siteId: number;
  readonly settings: SweepSettings;
}

/** Asks for every way into a site. */
export async function runProbe(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<ProbeInput>(store, jobId);
  const job = await findJob(store, jobId);
  if (!input || !job) throw new Error(`job ${jobId} is gone`);
  return probeSite(store, { ...input, sweepId: job.sweepId }, context);
}

/**
 * Asks for every way into a site and keeps what came back: its home with and without `www`, every other own host, a
 * sample of each template, certificates, and https versions of what is fetched by http. Nothing is kept of a probe that
 * was stopped.
 */
export async function probeSite(
  store: Store,
  task: ProbeInput & { readonly sweepId: number | null; readonly roots?: readonly string[] },
  context: JobContext,
): Promise<Wanted | undefined> {
  const { settings, sweepId } = task;
  const { control } = context;
  const seen = sweepId === null ? [] : await ownHosts(store, sweepId, settings.home);
  const deep = sweepId === null ? [] : await samplePages(store, sweepId, settings.entrances.perTemplate);
  const files = sweepId === null ? [] : await plainFiles(store, sweepId, MOST_VERSIONS);
  const outside =
    sweepId !== null && settings.entrances.outsideLinks ? await linkedOutside(store, sweepId, MOST_OUTSIDE) : undefined;
  const options: ProbeOptions = {
    settings,
    ownPorts: ownPorts(await folderOfStore(store)),
    roots: task.roots,
    byScript: sweepId === null ? undefined : await leadsByScript(store, sweepId),
    signal: control.signal,
    onProgress: (done, total, now) =>
      context.onProgress({ done, total, failed: 0, now: [now], recent: [], counts: {} }, 'probing entrances'),
  };
  try {
    const first = await probeEntrances(
      probeTargets([{ url: settings.home }, ...otherHosts(settings, seen)], deep),
      options,
    );
    // Certificates name hosts that nothing links to.
    const more = otherHosts(settings, namedByCertificates(first, settings.home)).filter(
      (h) => !first.entrances.some((e) => hostOf(e.from) === hostOf(h.url)),
    );
    const second = more.length > 0 ? await probeEntrances(probeTargets(more, []), options) : undefined;
    context.onProgress(
      { done: 0, total: files.length, failed: 0, now: [], recent: [], counts: {} },
      'comparing https versions',
    );
    const versions = await compareHttpsVersions(files, options);
    const outsideLinks = outside && (await lookUpOutside(outside, options));
    await addProbe(store, task.siteId, sweepId, {
      ...first,
      entrances: [...first.entrances, ...(second?.entrances ?? [])],
      certificates: [...first.certificates, ...(second?.certificates ?? [])],
      hsts: [...first.hsts, ...(second?.hsts ?? [])],
      versions,
      outsideLinks,
      harmlessLinks: sweepId === null ? 0 : await harmlessLinks(store, sweepId),
    });
  } catch (error) {
    if (!control.wanted) throw error;
  }
  return control.wanted;
}

/** Own hosts that are no form of the home's: those that were seen, and those added by hand. */
function otherHosts(settings: SweepSettings, seen: readonly string[]): { url: string; alone: true }[] {
  const forms = hostForms(hostOf(settings.home));
  const added = settings.entrances.hosts.map((h) => typedAddress(h, 'hosts').hostname);
  return [...new Set([...seen, ...added])]
    .filter((h) => !forms.includes(h))
    .map((h) => ({ url: `https://${h}/`, alone: true as const }));
}

function namedByCertificates(report: ProbeReport, home: string): string[] {
  const own = hostOf(home);
  return report.certificates
    .flatMap((c) => c.names)
    .filter((n) => !n.startsWith('*.') && n.includes('.') && sameSite(n, own) && bareForm(n) !== bareForm(own));
}
