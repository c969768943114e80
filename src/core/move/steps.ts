import type { CertificateFault } from '../site/certificates';
import type { CoverageCounts } from '../site/coverage';
import type { Verdict } from '../site/entrances';

/** What the tool itself sees of a site that moves. */
export interface MoveFacts {
  /** Of the last probe; undefined before there is one. */
  readonly probe?: {
    readonly askedAt: string;
    readonly entrances: readonly { readonly from: string; readonly verdict: Verdict; readonly why: string }[];
    readonly certificates: readonly {
      readonly host: string;
      readonly faults: readonly CertificateFault[];
      readonly daysLeft: number;
    }[];
    readonly hsts: readonly { readonly host: string; readonly faults: readonly string[] }[];
    readonly robots?: {
      readonly url: string;
      readonly fault?: string;
      readonly allowsHome: boolean;
      readonly sitemaps: readonly string[];
    };
    readonly versions: readonly { readonly url: string; readonly own: boolean; readonly verdict: string }[];
  };
  /** Of the current sweep; undefined before there is one. */
  readonly coverage?: CoverageCounts;
  /** Places in the current sweep's pages that use http addresses of the site. */
  readonly ownMentions?: number;
  /** Places that fetch something over http. */
  readonly insecureLoads?: number;
  readonly lists: number;
  readonly dryRuns: number;
}

/** Whether a step has been carried out, as far as can be seen. */
export interface StepProof {
  readonly holds: boolean;
  readonly says: string;
}

/** One step of a move to https. */
export interface MoveStep {
  readonly id: string;
  readonly phase: 'prepare' | 'moving day' | 'after';
  readonly title: string;
  readonly how: string;
  /** Days from moving day. */
  readonly day: number;
  /** Undefined where only people can tell, or nothing was asked yet. */
  proof?(facts: MoveFacts): StepProof | undefined;
}

const n = (count: number, noun: string) => `${count.toLocaleString('en-GB')} ${noun}${count === 1 ? '' : 's'}`;
const proof = (holds: boolean, yes: string, no: string): StepProof => ({ holds, says: holds ? yes : no });

/** The steps, in the order in which they are done. */
export const MOVE_STEPS: readonly MoveStep[] = [
  {
    id: 'inventory',
    phase: 'prepare',
    title: 'List every place that uses http:// addresses of the site',
    how: 'Sweep the site, then run a dry run on its files and its database dump: counts by form and file.',
    day: -28,
    proof: (f) =>
      f.ownMentions === undefined
        ? undefined
        : proof(
            f.dryRuns > 0,
            `${n(f.ownMentions, 'place')} on pages; a dry run was made.`,
            `${n(f.ownMentions, 'place')} on pages; no dry run yet.`,
          ),
  },
  {
    id: 'certificate',
    phase: 'prepare',
    title: 'Get a certificate for the bare name and www',
    how: 'Names for every host of the site, the whole chain sent, TLS 1.2 or newer, renewed automatically.',
    day: -21,
    proof: (f) => {
      if (!f.probe) return undefined;
      const bad = f.probe.certificates.filter((c) => c.faults.length > 0);
      if (f.probe.certificates.length === 0) return { holds: false, says: 'No host offers a certificate.' };
      return proof(
        bad.length === 0,
        `${n(f.probe.certificates.length, 'certificate')} without a fault.`,
        `${n(bad.length, 'certificate')} with faults: ${bad.map((c) => `${c.host} (${c.faults.join(', ')})`).join('; ')}.`,
      );
    },
  },
  {
    id: 'third-parties',
    phase: 'prepare',
    title: 'Replace third-party files that have no https version',
    how: 'Change the URL where the https version gives the same file; host the others yourself.',
    day: -14,
    proof: (f) => {
      if (!f.probe) return undefined;
      const without = f.probe.versions.filter((v) => v.verdict === 'no https' || v.verdict === 'error page');
      return proof(
        without.length === 0,
        'Everything that is fetched over http has an https version.',
        `${n(without.length, 'file')} without a usable https version.`,
      );
    },
  },
  {
    id: 'replace',
    phase: 'prepare',
    title: 'Replace the addresses in a copy of files and database',
    how: 'Dry run first; look at the refused places; keep the undo map; a second dry run must count none.',
    day: -7,
  },
  {
    id: 'rules',
    phase: 'prepare',
    title: 'Prepare the redirect rules of the web server',
    how: 'Take the rules of this screen, try them on a test server with the curl lines below them.',
    day: -3,
  },
  {
    id: 'entrances',
    phase: 'moving day',
    title: 'Every way in ends at the secure address in one permanent redirect',
    how: 'Put files, database and rules in place, then probe the entrances again.',
    day: 0,
    proof: (f) => {
      const own = f.probe?.entrances.filter((e) => e.why === 'entrance');
      if (!own) return undefined;
      const bad = own.filter((e) => e.verdict !== 'direct' && e.verdict !== 'redirects properly');
      return proof(
        bad.length === 0,
        `All ${own.length} lead to the secure address.`,
        `${bad.length} of ${n(own.length, 'entrance')} have faults.`,
      );
    },
  },
  {
    id: 'deep',
    phase: 'moving day',
    title: 'Deep pages do so too, with path and query',
    how: 'The probe requests a sample of each template by http, with the other host form and the other trailing slash.',
    day: 0,
    proof: (f) => {
      const own = f.probe?.entrances.filter((e) => e.why !== 'entrance');
      if (!own || own.length === 0) return undefined;
      const bad = own.filter((e) => e.verdict !== 'direct' && e.verdict !== 'redirects properly');
      return proof(
        bad.length === 0,
        `All ${own.length} sampled URLs do.`,
        `${bad.length} of ${own.length} sampled URLs have faults.`,
      );
    },
  },
  {
    id: 'content',
    phase: 'moving day',
    title: 'No page fetches anything over http',
    how: 'Sweep again; the mixed content screen names each place.',
    day: 0,
    proof: (f) =>
      f.coverage === undefined
        ? undefined
        : proof(
            f.coverage['insecure-content'] === 0,
            'No page of the current sweep does.',
            `${n(f.coverage['insecure-content'], 'page')} of the current sweep ${f.coverage['insecure-content'] === 1 ? 'does' : 'do'}.`,
          ),
  },
  {
    id: 'names',
    phase: 'moving day',
    title: 'Links, canonical, hreflang and sitemap name https addresses',
    how: 'Sweep again; findings by template are below on this screen.',
    day: 0,
    proof: (f) =>
      f.ownMentions === undefined
        ? undefined
        : proof(
            f.ownMentions === 0,
            'No page uses an http:// address of the site.',
            `${n(f.ownMentions, 'place')} still ${f.ownMentions === 1 ? 'uses' : 'use'} http:// addresses of the site.`,
          ),
  },
  {
    id: 'robots',
    phase: 'moving day',
    title: 'robots.txt at the secure address lets crawlers in and names https sitemaps',
    how: 'A robots.txt that keeps crawlers out of a test server is easily taken along. Probe again after the change.',
    day: 0,
    proof: (f) => {
      if (!f.probe?.robots) return undefined;
      const { fault, allowsHome, sitemaps, url } = f.probe.robots;
      if (fault !== undefined) return { holds: false, says: fault };
      if (!allowsHome) return { holds: false, says: `${url} keeps crawlers out of the home page.` };
      const plain = sitemaps.filter((s) => s.startsWith('http:'));
      return proof(
        plain.length === 0,
        `It lets crawlers in and names ${n(sitemaps.length, 'sitemap')}, none by http.`,
        `It names ${n(plain.length, 'sitemap')} by http: ${plain.slice(0, 3).join(', ')}.`,
      );
    },
  },
  {
    id: 'hsts',
    phase: 'after',
    title: 'Set HSTS, first for a day, then for a year',
    how: 'Strict-Transport-Security with every https response; it cannot be taken back quickly, so begin small.',
    day: 7,
    proof: (f) => {
      if (!f.probe || f.probe.hsts.length === 0) return undefined;
      const bad = f.probe.hsts.filter((h) => h.faults.length > 0);
      return proof(
        bad.length === 0,
        'Every host sets it.',
        `${n(bad.length, 'host')} without it or with something missing.`,
      );
    },
  },
  {
    id: 'sitemap',
    phase: 'after',
    title: 'Submit the https sitemap to search engines',
    how: 'Download it here; add the https site in the tools of the search engines and submit it there.',
    day: 1,
  },
  {
    id: 'people',
    phase: 'after',
    title: 'Change what only people can change',
    how: 'Profiles on other sites, e-mail signatures, printed codes and PDFs, advertisements, partners’ links, analytics settings, feeds.',
    day: 7,
  },
  {
    id: 'script',
    phase: 'after',
    title: 'Remove helper scripts and old backups from the server',
    how: 'A script that can rewrite the database must not stay reachable.',
    day: 1,
  },
  {
    id: 'week-1',
    phase: 'after',
    title: 'Compare search visits after one week',
    how: 'Upload both periods under Outside lists and compare them.',
    day: 7,
  },
  {
    id: 'week-2',
    phase: 'after',
    title: 'Compare search visits after two weeks',
    how: 'Some ups and downs are normal until all pages were visited again.',
    day: 14,
  },
  {
    id: 'week-4',
    phase: 'after',
    title: 'Compare search visits after four weeks',
    how: 'By now clicks should be back; pages that lost have their fate beside them.',
    day: 28,
  },
];
