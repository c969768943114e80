import { sameSite } from '../../core/capture/site';
import { hostOf } from '../../core/capture/url';
import { typedAddress } from '../../core/site/address';
import { bareForm, hostForms, probeTargets } from '../../core/site/entrances';
import type { SweepSettings } from '../../core/site/settings';
import type { SiteProbe } from '../store/probes';
import { compareHttpsVersions, type PlainFile } from './httpsVersions';
import { lookUpOutside } from './outsideLinks';
import { probeEntrances, type ProbeOptions, type ProbeReport } from './probeEntrances';

/** All that a probe of a site has to know; plain values, so that another machine can make it. */
export interface ProbePlan {
  readonly settings: SweepSettings;
  /** Own hosts that were seen, besides the home's. */
  readonly seen: readonly string[];
  /** Pages that are asked for in all forms. */
  readonly deep: readonly string[];
  /** Files that pages fetch by http. */
  readonly files: readonly PlainFile[];
  /** Pages of other sites whose https versions are looked up. */
  readonly outside?: readonly { readonly url: string; readonly links: number }[];
  /** Where pages lead by script, from and to. */
  readonly byScript?: readonly (readonly [string, string])[];
}

/** What a probe brings. */
export type ProbeFindings = Omit<SiteProbe, 'harmlessLinks'>;

/** How far a probe is. */
export interface ProbeStep {
  readonly done: number;
  readonly total: number;
  readonly now: readonly string[];
  readonly phase: string;
}

/**
 * Makes a probe: the home with and without `www`, every other own host, pages in all their forms, certificates, https
 * versions of files, and pages of other sites.
 * @throws the reason of the signal
 */
export async function makeProbe(
  plan: ProbePlan,
  { onStep, ...connect }: Pick<ProbeOptions, 'ownPorts' | 'roots' | 'signal'> & { onStep: (step: ProbeStep) => void },
): Promise<ProbeFindings> {
  const { settings } = plan;
  const options: ProbeOptions = {
    settings,
    ...connect,
    byScript: plan.byScript && new Map(plan.byScript),
    onProgress: (done, total, now) => onStep({ done, total, now: [now], phase: 'probing entrances' }),
  };
  const first = await probeEntrances(
    probeTargets([{ url: settings.home }, ...otherHosts(settings, plan.seen)], plan.deep),
    options,
  );
  // Certificates name hosts that nothing links to.
  const more = otherHosts(settings, namedByCertificates(first, settings.home)).filter(
    (h) => !first.entrances.some((e) => hostOf(e.from) === hostOf(h.url)),
  );
  const second = more.length > 0 ? await probeEntrances(probeTargets(more, []), options) : undefined;
  onStep({ done: 0, total: plan.files.length, now: [], phase: 'comparing https versions' });
  const versions = await compareHttpsVersions(plan.files, options);
  const outsideLinks = plan.outside && (await lookUpOutside(plan.outside, options));
  return {
    ...first,
    entrances: [...first.entrances, ...(second?.entrances ?? [])],
    certificates: [...first.certificates, ...(second?.certificates ?? [])],
    hsts: [...first.hsts, ...(second?.hsts ?? [])],
    versions,
    outsideLinks,
  };
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
